import { type Percent } from "../units";

const { abs, max } = Math;

/** How a gap turns into a score. */
export interface Tolerance {
  /** Within this nobody hears it: score 100. */
  justNoticeable: number;
  /** Every further step of this size halves the score. */
  halving: number;
  /** Whether the gap is what lacks of a whole that both sides have in common, in percent: the rest is the score. */
  isShare?: true;
}

/**
 * Score of one gap: `100 · 2^(−max(0, |gap| − justNoticeable) / halving)`.
 *
 * @param gap in the unit of the tolerance; its sign does not matter.
 * @returns 0–100.
 */
export const scoreOf = (gap: number, { justNoticeable, halving, isShare }: Tolerance): Percent =>
  isShare ? max(0, 100 - abs(gap)) : 100 * 2 ** (-max(0, abs(gap) - justNoticeable) / halving);

/** Something with a score and a weight. A null score does not apply and is left out. */
export interface Weighed {
  score: Percent | null;
  weight: number;
}

/** Weighted mean of what applies; null where nothing does. */
export function weightedMean(parts: readonly Weighed[]): Percent | null {
  let sum = 0;
  let weights = 0;
  for (const { score, weight } of parts) {
    if (score === null || weight <= 0) continue;
    sum += score * weight;
    weights += weight;
  }
  return weights > 0 ? sum / weights : null;
}

/**
 * How many points of the whole a perfect score of one part would add.
 *
 * @param parts all parts of the whole, the one in question among them.
 */
export function pointsWorth(part: Weighed, parts: readonly Weighed[]): number {
  const weights = parts.reduce((sum, p) => sum + (p.score === null ? 0 : max(0, p.weight)), 0);
  if (part.score === null || weights === 0) return 0;
  return (max(0, part.weight) * (100 - part.score)) / weights;
}

/** Added to every score before its reciprocal counts, so that one at 0 does not leave nothing of the rest. */
const softening = 10;

/**
 * Score of an element: the harmonic mean of its aspects, softened. An element is about as close as what is
 * furthest off in it: half the aspects right do not make up for the others. Null where nothing applies.
 */
export function elementScore(aspects: readonly Weighed[]): Percent | null {
  let reciprocals = 0;
  let weights = 0;
  for (const { score, weight } of aspects) {
    if (score === null || weight <= 0) continue;
    reciprocals += weight / (score + softening);
    weights += weight;
  }
  return weights > 0 ? weights / reciprocals - softening : null;
}

/** How much an element's score would gain by a perfect score of one of its aspects. */
export function gainOfAspect<T extends Weighed>(aspect: T, aspects: readonly T[]): number {
  const own = elementScore(aspects);
  if (own === null || aspect.score === null) return 0;
  return elementScore(aspects.map((one) => (one === aspect ? { ...one, score: 100 } : one)))! - own;
}
