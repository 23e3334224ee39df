"use client";

import { useEffect, useState } from "react";
import { Modal } from "react-bootstrap";
import { useHotkeys } from "react-hotkeys-hook";
import { z } from "zod";
import { send, sentenceOf } from "@/components/requests";
import { useEdits, useStudy } from "./StudyContext";

/** Undo, redo, and the list of changes. */
export function EditTools() {
  const { undo, redo } = useEdits();
  const { undoState } = useStudy();
  const [isOpen, setOpen] = useState(false);
  const keys = { preventDefault: true };
  useHotkeys("mod+z", () => undo(), keys, [undo]);
  useHotkeys("mod+shift+z, mod+y", () => redo(), keys, [redo]);
  return (
    <span className="edit-tools" role="group" aria-label="Changes">
      <button
        type="button"
        className="plain-button"
        disabled={undoState.undo === null}
        title={undoState.undo === null ? "Nothing to undo" : `Undo: ${undoState.undo} (Ctrl Z)`}
        onClick={() => undo()}
      >
        Undo
      </button>
      <button
        type="button"
        className="plain-button"
        disabled={undoState.redo === null}
        title={undoState.redo === null ? "Nothing to redo" : `Redo: ${undoState.redo} (Ctrl Shift Z)`}
        onClick={() => redo()}
      >
        Redo
      </button>
      <button type="button" className="plain-button" aria-haspopup="dialog" onClick={() => setOpen(true)}>
        Changes
      </button>
      {isOpen && <ChangeList onClose={() => setOpen(false)} />}
    </span>
  );
}

const loggedSchema = z.array(
  z.object({ id: z.number(), label: z.string(), createdAt: z.number(), undone: z.boolean() }),
);

const timeOf = (milliseconds: number) =>
  new Date(milliseconds).toLocaleString("en-GB", {
    day: "numeric",
    month: "short",
    hour: "2-digit",
    minute: "2-digit",
  });

/** All changes of the study, newest first; each can be undone or done again on its own. */
function ChangeList({ onClose }: { onClose(): void }) {
  const { study, undoState } = useStudy();
  const { undo, redo } = useEdits();
  const [changes, setChanges] = useState<z.infer<typeof loggedSchema> | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  useEffect(() => {
    let gone = false;
    void send("GET", `/api/studies/${study.id}/edits`, undefined, loggedSchema).then((outcome) => {
      if (gone) return;
      if (outcome.ok) setChanges(outcome.value);
      else setTrouble(sentenceOf(outcome.refusal));
    });
    return () => {
      gone = true;
    };
    // Read again whenever something was done or undone.
  }, [study.id, undoState.sequence]);
  return (
    <Modal show onHide={onClose} scrollable aria-labelledby="changes-title">
      <Modal.Header closeButton>
        <h2 id="changes-title">Changes</h2>
      </Modal.Header>
      <Modal.Body>
        {trouble && (
          <p className="needs-attention" role="alert">
            {trouble}
          </p>
        )}
        {changes?.length === 0 && <p className="soft m-0">Nothing has been changed yet.</p>}
        <ul className="change-list">
          {changes?.map(({ id, label, createdAt, undone }) => (
            <li key={id} className={undone ? "soft" : undefined}>
              <span className="tiny-text soft">{timeOf(createdAt)}</span>
              <span className={undone ? "undone" : undefined}>{label}</span>
              <button
                type="button"
                className="plain-button underlined"
                aria-label={`${undone ? "Redo" : "Undo"}: ${label}`}
                onClick={() => (undone ? redo(id) : undo(id))}
              >
                {undone ? "Redo" : "Undo"}
              </button>
            </li>
          ))}
        </ul>
      </Modal.Body>
    </Modal>
  );
}
