import { secondsAt, beatAt, type Grid } from "@/core/grid/grid";
import {
  withChangedNote,
  withNote,
  withoutNote,
  type BassCorrection,
  type CountedNote,
} from "@/core/lowEnd/correction";
import type { BassNote } from "@/core/lowEnd/notes";
import type { Seconds } from "@/core/units";
import { pitchName } from "@/core/harmony/notes";

/** What a key or button does to a note. */
export type NoteEdit =
  | { kind: "pitch"; by: number }
  /** Beats. */
  | { kind: "move"; by: number }
  | { kind: "length"; by: number }
  | { kind: "away" };

/** The lowest and highest notes that may be set: below is no bass line, above is none either. */
const pitches = { lowest: 16, highest: 67 } as const;
const shortestBeats = 0.05;

/** What an edit makes of a note; null takes it away. */
export function editedNote(note: CountedNote, edit: NoteEdit, grid: Grid): Partial<BassNote> | null {
  const [start, end] = [beatAt(grid, note.start), beatAt(grid, note.end)];
  switch (edit.kind) {
    case "pitch":
      return {
        midi: Math.max(pitches.lowest, Math.min(pitches.highest, note.midi + edit.by)),
        cents: 0,
      };
    case "move": {
      const moved = (time: Seconds) => Math.max(0, secondsAt(grid, beatAt(grid, time) + edit.by));
      return {
        start: moved(note.start),
        end: Math.max(0.01, moved(note.end)),
        ...(note.slide && {
          slide: { ...note.slide, from: moved(note.slide.from), to: moved(note.slide.to) },
        }),
      };
    }
    case "length": {
      const until = secondsAt(grid, Math.max(start + shortestBeats, end + edit.by));
      // What no longer lies within the note is no slide of it.
      return { end: until, ...(note.slide && note.slide.to > until && { slide: undefined }) };
    }
    case "away":
      return null;
  }
}

const words: Record<NoteEdit["kind"], string> = {
  pitch: "tuned",
  move: "moved",
  length: "lengthened or shortened",
  away: "removed",
};

/** The change of a correction that an edit of a note is, with what it is called. */
export function noteEdit(
  note: CountedNote,
  edit: NoteEdit,
  grid: Grid,
): { label: string; next: CountedNote | null; change(now: BassCorrection): BassCorrection } {
  const change = editedNote(note, edit, grid);
  return {
    label: `Bass note ${pitchName(note.midi)} ${words[edit.kind]}`,
    next: change && { ...note, ...change, byHand: true },
    change: (now) => (change ? withChangedNote(now, note, change) : withoutNote(now, note)),
  };
}

/** Sets a note at a time, half a beat long and as loud as the line. */
export function addedNote(
  midi: number,
  start: Seconds,
  grid: Grid,
  line: readonly CountedNote[],
): { note: CountedNote; change(now: BassCorrection): BassCorrection } {
  const levels = line.map(({ levelDb }) => levelDb).sort((a, b) => a - b);
  const note: CountedNote = {
    start: Math.max(0, start),
    end: Math.max(0.01, secondsAt(grid, beatAt(grid, start) + 0.5)),
    midi,
    cents: 0,
    levelDb: levels[levels.length >> 1] ?? -20,
    sure: 1,
    byHand: true,
  };
  return { note, change: (now) => withNote(now, note) };
}
