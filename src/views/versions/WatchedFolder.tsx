"use client";

import { useState } from "react";
import { Button } from "react-bootstrap";
import { sentenceOf } from "@/core/outcome";
import type { FolderState } from "@/models/folder";
import { useEdits, useStudy } from "../study/StudyContext";

/** Names a folder whose renders become versions by themselves, and says how watching it goes. */
export function WatchedFolder() {
  const { study, folder } = useStudy();
  const { editStudy } = useEdits();
  const [draft, setDraft] = useState("");
  const path = draft.trim();
  return (
    <section className="way-in" aria-labelledby="watched-folder">
      <h2 id="watched-folder" className="m-0">
        Watched folder
      </h2>
      {study.folder === null ? (
        <>
          <p className="soft m-0">
            Name the folder that your renders go to: a new or replaced file in it becomes the next version by
            itself. What is in it already is left alone.
          </p>
          <form
            className="d-flex gap-2"
            onSubmit={(event) => {
              event.preventDefault();
              if (path !== "") editStudy("Folder watched", { folder: path });
            }}
          >
            <input
              className="form-control form-control-sm"
              aria-label="Path of the folder"
              placeholder="~/Music/Renders"
              spellCheck={false}
              autoComplete="off"
              maxLength={1000}
              value={draft}
              onChange={({ target }) => setDraft(target.value)}
            />
            <Button type="submit" size="sm" variant="outline-secondary" disabled={path === ""}>
              Watch
            </Button>
          </form>
        </>
      ) : (
        <>
          <div className="d-flex gap-3 align-items-baseline">
            <span className="strong clip" title={study.folder}>
              {study.folder}
            </span>
            <button
              type="button"
              className="plain-button underlined soft text-nowrap"
              onClick={() => {
                setDraft(study.folder ?? "");
                editStudy("Folder no longer watched", { folder: null });
              }}
            >
              Stop watching
            </button>
          </div>
          <Standing folder={folder} />
        </>
      )}
    </section>
  );
}

/** How watching goes, and what waits. */
function Standing({ folder }: { folder: FolderState | null }) {
  if (!folder) return <p className="small-text soft m-0">Looking into the folder …</p>;
  if (folder.refusal)
    return (
      <p className="small-text needs-attention m-0" role="alert">
        {sentenceOf(folder.refusal)}
      </p>
    );
  return (
    <>
      <p className="small-text soft m-0" role="status">
        {folder.arrived.length === 0
          ? "Waiting for the next render."
          : `${folder.arrived.length} ${folder.arrived.length === 1 ? "render has" : "renders have"} come from it. Waiting for the next.`}
      </p>
      {folder.waiting.map(({ name, refusal }) => (
        <p key={name} className={`small-text m-0${refusal ? " needs-attention" : " soft"}`}>
          <span className="strong">{name}</span>:{" "}
          {refusal ? sentenceOf(refusal) : "being written; taken as soon as it is left alone."}
        </p>
      ))}
    </>
  );
}
