/** What a producer has put right of a bass line, and the line as it counts. */
import { z } from "zod";
import type { Seconds } from "../units";
import { bassNoteSchema, type BassNote } from "./notes";

const mostEdits = 20_000;

export const bassCorrectionSchema = z.object({
  /** Notes set by hand. */
  added: z.array(bassNoteSchema).max(mostEdits).optional(),
  /** Beginnings of heard notes that are none, or that others took the place of. */
  removed: z.array(bassNoteSchema.shape.start).max(mostEdits).optional(),
});
export type BassCorrection = z.infer<typeof bassCorrectionSchema>;

/** A heard note that begins this near to a removed one is it, though it was heard anew. */
const sameNote: Seconds = 0.03;

const isNear = (times: readonly Seconds[], time: Seconds): boolean =>
  times.some((own) => Math.abs(own - time) < sameNote);

/** A note of the line, and whether it was set by hand. */
export interface CountedNote extends BassNote {
  byHand: boolean;
}

export const countedBass = (
  heard: readonly BassNote[],
  { added = [], removed = [] }: BassCorrection,
): CountedNote[] =>
  [
    ...heard.filter(({ start }) => !isNear(removed, start)).map((note) => ({ ...note, byHand: false })),
    ...added.map((note) => ({ ...note, byHand: true })),
  ].sort((a, b) => a.start - b.start);

/** What is set by hand is sure. */
const heardPart = ({ start, end, midi, cents, levelDb, slide }: BassNote): BassNote => ({
  start,
  end,
  midi,
  cents,
  levelDb,
  sure: 1,
  ...(slide && { slide }),
});

/** The correction that has a note as well. */
export const withNote = (correction: BassCorrection, note: BassNote): BassCorrection => ({
  ...correction,
  added: [...(correction.added ?? []), heardPart(note)].sort((a, b) => a.start - b.start),
});

/** The correction that has a note no more. */
export const withoutNote = (correction: BassCorrection, note: CountedNote): BassCorrection =>
  note.byHand
    ? {
        ...correction,
        added: (correction.added ?? []).filter((own) => own.start !== note.start || own.midi !== note.midi),
      }
    : { ...correction, removed: [...(correction.removed ?? []), note.start] };

/** The correction in which a note is another. */
export const withChangedNote = (
  correction: BassCorrection,
  note: CountedNote,
  change: Partial<BassNote>,
): BassCorrection => withNote(withoutNote(correction, note), { ...note, ...change });
