"use client";

import { useEffect, useMemo, useState, useSyncExternalStore } from "react";
import { z } from "zod";
import { useNotices } from "@/components/Notices";
import { send, sentenceOf } from "@/components/requests";
import { patchSchema } from "@/core/edits/patch";
import { documentOf, withDocument, type ItemEdits, type StudyDocument, type StudyRecord } from "@/core/study";
import type { FrameModel } from "@/models/frame";
import { EditQueue, type AppliedEdit } from "./EditQueue";

export const appliedSchema = z.object({
  id: z.number(),
  label: z.string(),
  patch: patchSchema,
  sequence: z.number(),
});

/** How a study is changed. Every change shows at once, is saved by itself, and can be undone. */
export interface Editing {
  /** @param label what is done, in a few words: it stands in the list of changes. */
  edit(label: string, change: (document: StudyDocument) => StudyDocument): void;
  /** Changes an item; without effect on one that is gone. */
  editItem(itemId: string, label: string, change: (item: ItemEdits) => Partial<ItemEdits>): void;
  editStudy(label: string, change: Partial<StudyDocument["study"]>): void;
  /** Undoes an edit, or the newest. */
  undo(id?: number): void;
  redo(id?: number): void;
  /** Shows something that was saved by another way, as an import. */
  add(edit: AppliedEdit): void;
}

/** @returns the study with all edits, also those on their way; how it is changed; whether something is being saved. */
export function useEditing({ study, undoState }: Pick<FrameModel, "study" | "undoState">): {
  study: StudyRecord;
  editing: Editing;
  isSaving: boolean;
} {
  const { say } = useNotices();
  const base = useMemo(() => documentOf(study), [study]);
  const [queue] = useState(() => {
    const address = `/api/studies/${study.id}`;
    const own: EditQueue = new EditQueue(base, undoState.sequence, {
      send: (edits) => send("POST", `${address}/edits`, { edits }, z.array(appliedSchema)),
      turn: (direction, id) => send("POST", `${address}/${direction}`, { id }, appliedSchema),
      saved: ({ id, label }, count) =>
        say(count > 1 ? `${label} (${count} changes)` : label, {
          name: "Undo",
          act: () => own.undo(id),
        }),
      turned: (direction, { id, label }) =>
        direction === "undo"
          ? say(`Undone: ${label}`, { name: "Redo", act: () => own.redo(id) })
          : say(`Redone: ${label}`, { name: "Undo", act: () => own.undo(id) }),
      refused: (refusal) => say(sentenceOf(refusal)),
    });
    return own;
  });
  useEffect(() => queue.setBase(base, undoState.sequence), [queue, base, undoState.sequence]);
  const document = useSyncExternalStore(
    queue.subscribe,
    () => queue.document,
    () => base,
  );
  const isSaving = useSyncExternalStore(
    queue.subscribe,
    () => queue.isSaving,
    () => false,
  );
  const edited = useMemo(() => withDocument(study, document), [study, document]);
  const editing = useMemo(
    (): Editing => ({
      edit: (label, change) => queue.edit(label, change),
      editItem: (itemId, label, change) =>
        queue.edit(label, (now) => {
          const item = now.items[itemId];
          return item ? { ...now, items: { ...now.items, [itemId]: { ...item, ...change(item) } } } : now;
        }),
      editStudy: (label, change) =>
        queue.edit(label, (now) => ({ ...now, study: { ...now.study, ...change } })),
      undo: (id) => queue.undo(id ?? null),
      redo: (id) => queue.redo(id ?? null),
      add: (edit) => queue.add(edit),
    }),
    [queue],
  );
  return { study: edited, editing, isSaving };
}
