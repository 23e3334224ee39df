/** Bass lines and kicks of two tracks held against each other. */
import type { Decibels, Fraction, Seconds } from "../units";
import { measured, type ComparedMeasure } from "./compared";

/** How far the low ends of both sides are apart; null where one side has too little. */
export interface LowGaps {
  /** Share of bass notes in common, and what it would be of the same line in another mix. */
  notes: { overlap: Fraction; expected: Fraction } | null;
  /** Octaves of time by which the version's notes are longer. */
  lengthOctaves: number | null;
  /** How much later the version's notes begin, beside the drums. */
  late: Seconds | null;
  /** Of both sides, as measured. */
  reference: LowFigures;
  version: LowFigures;
}

export interface LowFigures {
  kickLengthBeats: number | null;
  kickLengthIsSure: boolean;
  kickToBassDb: Decibels | null;
  bassEvennessDb: Decibels | null;
}

/** Where less than this is expected in common, notes are hardly told from what sounds with them. */
const leastExpected = 0.6;

const noBass = "One side has no bass line that could be held against the other's.";

const unclear = "The bass line is not heard clearly enough to be held against another.";

export function comparedBassTiming(low: LowGaps | null): ComparedMeasure {
  const notes = low?.notes ?? null;
  const isClear = notes !== null && notes.expected >= leastExpected;
  return measured(
    "noteTiming",
    null,
    null,
    isClear && low!.late !== null ? 1000 * low!.late : null,
    isClear ? undefined : notes ? unclear : noBass,
  );
}

export function comparedBass(low: LowGaps | null): ComparedMeasure[] {
  const notes = low?.notes ?? null;
  if (notes && notes.expected < leastExpected) {
    return [
      measured("bassNotes", null, null, null, unclear),
      measured("bassLength", null, null, null, unclear),
    ];
  }
  return [
    measured(
      "bassNotes",
      null,
      null,
      notes && 100 * Math.min(0, notes.overlap - notes.expected),
      notes ? undefined : noBass,
    ),
    measured("bassLength", null, null, notes ? low!.lengthOctaves : null, notes ? undefined : noBass),
    measured("bassEvenness", low?.reference.bassEvennessDb ?? null, low?.version.bassEvennessDb ?? null),
  ];
}

const plays = (figures: LowFigures | undefined): figures is LowFigures =>
  figures !== undefined && figures.bassEvennessDb !== null;

export function comparedLowEnd(low: LowGaps | null): ComparedMeasure[] {
  const [ours, theirs] = [low?.reference, low?.version];
  const lengthOf = (own: LowFigures | undefined) => (own?.kickLengthIsSure ? own.kickLengthBeats : null);
  const [a, b] = [lengthOf(ours), lengthOf(theirs)];
  return [
    measured(
      "kickLength",
      a,
      b,
      a && b ? Math.log2(b / a) : null,
      a && b ? undefined : "One side has too few kicks that stand free.",
    ),
    // Without a bass line there is nothing that the kick could stand over.
    plays(ours) && plays(theirs)
      ? measured("kickToBass", ours.kickToBassDb, theirs.kickToBassDb)
      : measured("kickToBass", null, null, null, noBass),
  ];
}
