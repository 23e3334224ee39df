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

/**
 * The share of a match that counts, by the evidence that one track recreates the other: any two
 * mixes are alike in much, so likeness alone says little.
 *
 * @param related how likely they have to do with each other; null where that cannot be told.
 * @param isSaid whether the producer has said which bars answer which.
 */
export function evidenceShare(related: Fraction | null, isSaid: boolean): Fraction {
  if (isSaid || related === null) return 1;
  const x = Math.min(1, Math.max(0, (related - surelyStrangers) / (answering - surelyStrangers)));
  return strangersShare + (1 - strangersShare) * x * x * (3 - 2 * x);
}
