/** What a match means: the situations that its scale is anchored by, and what counts of it where two tracks hardly have to do with each other. */
import type { Fraction, Percent } from "../units";

export interface MatchSituation {
  /** From this match on. */
  least: Percent;
  words: string;
}

/** From the closest down; `docs/decisions/0020-match-scale.md` has the same table. */
export const matchSituations: readonly MatchSituation[] = [
  { least: 99.5, words: "the same sound" },
  { least: 95, words: "a careful listener hears a difference side by side" },
  { least: 80, words: "plainly the same track, with differences to be heard" },
  { least: 50, words: "recognisably rebuilt, with much to do" },
  { least: 35, words: "a beginning: some of it answers" },
  { least: 20, words: "as alike as two tracks of one style, tempo and key" },
  { least: 0, words: "another track" },
];

export const situationOf = (match: Percent): MatchSituation =>
  matchSituations.find(({ least }) => match >= least) ?? matchSituations.at(-1)!;

/** Tracks that have nothing to do with each other keep this share: they share loudness, width and a beat in four. */
const strangersShare: Fraction = 0.3;
/** Below this likelihood of being related they are strangers for sure; from the other on their bars are held to answer each other. */
const [surelyStrangers, answering] = [0.3, 0.5];
/** Tracks that share a beat bar by bar, but not the chords over it, keep this share. */
const otherHarmonyShare: Fraction = 0.5;
/** Harmony that agrees by less is another one; from the other on it is the same, in other sounds. */
const [surelyOther, sameHarmony] = [0.62, 0.8];

/** From one share to all of it, as something rises from one bound to another. */
function rising(least: Fraction, from: number, to: number, value: number): Fraction {
  const x = Math.min(1, Math.max(0, (value - from) / (to - from)));
  return least + (1 - least) * x * x * (3 - 2 * x);
}

/** What speaks for one track recreating another. */
export interface RecreationEvidence {
  /** How likely they have to do with each other; null where that cannot be told. */
  related: Fraction | null;
  /** How far the harmony of bars that answer each other agrees; null where one has none, or it does not count. */
  harmony: Fraction | null;
  /** Whether the producer has said which bars answer which. */
  isSaid: boolean;
}

/**
 * The share of a match that counts, by the evidence that one track recreates the other: any two
 * mixes are alike in much, and any two of one style in their drums, so likeness alone says little.
 */
export function evidenceShare({ related, harmony, isSaid }: RecreationEvidence): Fraction {
  if (isSaid || related === null) return 1;
  return Math.min(
    rising(strangersShare, surelyStrangers, answering, related),
    hasOtherHarmony(harmony) ? rising(otherHarmonyShare, surelyOther, sameHarmony, harmony) : 1,
  );
}

/** Whether harmony is so far apart that a smaller share of the match counts. */
export const hasOtherHarmony = (harmony: Fraction | null): harmony is Fraction =>
  harmony !== null && harmony < sameHarmony;
