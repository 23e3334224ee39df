/** Bass lines held against each other note by note, over the bars that answer. */
import { z } from "zod";
import type { CoverageSpan } from "../align/coverage";
import { beatAt, type Grid } from "../grid/grid";
import { median } from "../median";
import { fractionRange, secondsRange } from "../ranges";
import type { Fraction, Seconds } from "../units";
import type { BassNote } from "./notes";

const { abs, log2, max, min, round } = Math;

export interface BassSide {
  notes: readonly BassNote[];
  grid: Grid;
}

/** A note in beats of the reference from its bar 1. */
export interface PlacedNote<Note extends BassNote = BassNote> {
  beat: number;
  /** Beats. */
  length: number;
  note: Note;
}

/** How a note of one side is answered on the other. */
export type NoteAnswer = "same" | "another octave" | "another pitch" | "missing" | "extra";

export interface PairedNote<Note extends BassNote = BassNote> {
  reference: PlacedNote<Note> | null;
  version: PlacedNote<Note> | null;
  answer: NoteAnswer;
}

/** Notes that begin within this of each other answer each other, beats. */
const within = 0.2;
/** Longer notes do not count for more, beats. */
const mostWeight = 1;
/** An octave is heard less than another note. */
const ofOctave = 0.5;

function placedIn<Note extends BassNote>(
  notes: readonly Note[],
  grid: Grid,
  firstBar: number,
  bars: number,
  by: number,
): PlacedNote<Note>[] {
  const [from, to] = [(firstBar - 1) * grid.beatsPerBar, (firstBar - 1 + bars) * grid.beatsPerBar];
  return notes.flatMap((note) => {
    const beat = beatAt(grid, note.start);
    // A note a little ahead of the bar belongs to it.
    if (beat < from - within || beat >= to - within) return [];
    return [{ beat: beat + by, length: max(0.05, beatAt(grid, note.end) - beat), note }];
  });
}

function answerOf(reference: BassNote, version: BassNote, semitones: number): NoteAnswer {
  const apart = version.midi - reference.midi - semitones;
  const octaves = round(apart / 12);
  if (apart !== 12 * octaves) return "another pitch";
  // A shift by so many semitones may have gone the other way round.
  return octaves === 0 || (semitones !== 0 && octaves === -1) ? "same" : "another octave";
}

const rank: Record<NoteAnswer, number> = {
  same: 0,
  "another octave": 1,
  "another pitch": 2,
  missing: 3,
  extra: 3,
};

/**
 * Pairs of notes, in the order of the reference's beats; places are beats of the reference.
 *
 * @param semitones by which the version sounds higher, 0–11.
 */
export function pairBass<Note extends BassNote>(
  reference: { notes: readonly Note[]; grid: Grid },
  version: { notes: readonly Note[]; grid: Grid },
  spans: readonly CoverageSpan[],
  semitones: number,
): PairedNote<Note>[] {
  const pairs: PairedNote<Note>[] = [];
  const { beatsPerBar } = reference.grid;
  for (const { referenceFirst, versionFirst, bars } of spans) {
    const ours = placedIn(reference.notes, reference.grid, referenceFirst, bars, 0);
    const by = (referenceFirst - versionFirst) * beatsPerBar;
    const theirs = placedIn(version.notes, version.grid, versionFirst, bars, by);
    const choices: { a: number; b: number; cost: number; answer: NoteAnswer }[] = [];
    let first = 0;
    ours.forEach((own, a) => {
      while (first < theirs.length && theirs[first]!.beat < own.beat - within) first++;
      for (let b = first; b < theirs.length && theirs[b]!.beat <= own.beat + within; b++) {
        const answer = answerOf(own.note, theirs[b]!.note, semitones);
        choices.push({ a, b, answer, cost: rank[answer] + abs(theirs[b]!.beat - own.beat) / within });
      }
    });
    choices.sort((x, y) => x.cost - y.cost);
    const [takenA, takenB] = [new Set<number>(), new Set<number>()];
    for (const { a, b, answer } of choices) {
      if (takenA.has(a) || takenB.has(b)) continue;
      takenA.add(a);
      takenB.add(b);
      pairs.push({ reference: ours[a]!, version: theirs[b]!, answer });
    }
    ours.forEach((own, a) => {
      if (!takenA.has(a)) pairs.push({ reference: own, version: null, answer: "missing" });
    });
    theirs.forEach((own, b) => {
      if (!takenB.has(b)) pairs.push({ reference: null, version: own, answer: "extra" });
    });
  }
  const beatOf = ({ reference: a, version: b }: PairedNote) => (a ?? b)!.beat;
  return pairs.sort((x, y) => beatOf(x) - beatOf(y));
}

/**
 * Share of notes of a recording that are heard alike in the same recording filtered, coded or limited, by
 * how sure they are: from .4 to .9, measured on recordings by others of the fitting half.
 */
const heardAlike = ({ sure }: BassNote): Fraction => min(0.95, 0.4 + 0.75 * sure);
/** Long notes count for more, those that are hardly told from what sounds with them for less. */
const weight = (own: PlacedNote | null): number =>
  own ? min(mostWeight, own.length) * min(1, 0.1 + 1.3 * own.note.sure) : 0;

/** Share of the notes that both have, by their weight; null where one side has too few. */
export const noteOverlap = (pairs: readonly PairedNote[]): Fraction | null =>
  overlapOf(pairs)?.overlap ?? null;

/** That, and what it would be of the same line in another mix. */
function overlapOf(pairs: readonly PairedNote[]): { overlap: Fraction; expected: Fraction } | null {
  let common = 0;
  let whole = 0;
  let alike = 0;
  const counts = { reference: 0, version: 0 };
  for (const { reference, version, answer } of pairs) {
    if (reference) counts.reference++;
    if (version) counts.version++;
    for (const own of [reference, version]) if (own) alike += weight(own) * heardAlike(own.note);
    whole += weight(reference) + weight(version);
    const share = answer === "same" ? 1 : answer === "another octave" ? ofOctave : 0;
    common += share * (weight(reference) + weight(version));
  }
  return min(counts.reference, counts.version) >= fewest
    ? { overlap: common / whole, expected: alike / whole }
    : null;
}

const fewest = 8;

export const bassSummarySchema = z.object({
  /** Notes in common by the semitones that the version is higher, 0–11; null where one side has too few. */
  overlaps: z.array(fractionRange.nullable()).length(12),
  /** What is to be expected of the same line in another mix, as surely as the notes were heard. */
  expected: fractionRange.nullable(),
  /** Length of the version's notes against that of the notes they answer, octaves of time; null where few do. */
  lengthOctaves: z.number().min(-12).max(12).nullable(),
  /** How much later its notes begin than those they answer, beside the drums; null where few answer. */
  late: secondsRange.nullable(),
});
export type BassSummary = z.infer<typeof bassSummarySchema>;

/**
 * What is stored of two bass lines held against each other.
 *
 * @param gridShift how much later the version's grid has the drums than the reference's.
 */
export function compareBass(
  reference: BassSide,
  version: BassSide,
  spans: readonly CoverageSpan[],
  gridShift: Seconds = 0,
): BassSummary {
  const all = Array.from({ length: 12 }, (_, semitones) => pairBass(reference, version, spans, semitones));
  const told = all.map(overlapOf);
  const overlaps = told.map((own) => own?.overlap ?? null);
  const best = overlaps.reduce<number>((a, own, i) => ((own ?? 0) > (overlaps[a] ?? 0) ? i : a), 0);
  const beatSeconds = 60 / reference.grid.bpm;
  const [lengths, late]: [number[], Seconds[]] = [[], []];
  for (const { reference: a, version: b, answer } of all[best]!) {
    if (!a || !b || answer !== "same") continue;
    lengths.push(log2(b.length / a.length));
    late.push((b.beat - a.beat) * beatSeconds - gridShift);
  }
  const expected = told[best]?.expected ?? null;
  const isEnough = lengths.length >= fewest;
  return {
    overlaps,
    expected,
    lengthOctaves: isEnough ? median(lengths) : null,
    late: isEnough ? median(late) : null,
  };
}
