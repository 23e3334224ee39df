/** What two sides differ in throughout, from how far they are apart bar by bar. */
import { quantileOfSorted } from "../median";
import type { Fraction } from "../units";

/** Where this share of the bars agree, nothing differs throughout: what the others do is movement. */
const enough = 0.45;

/**
 * Of the differences that most bars share the one nearest to none: with half of the bars 6 dB softer it is 0,
 * with all of them it is −6.
 *
 * @param gaps of the bars; at least one.
 * @param share below the middle; what fewer than the rest of the bars share does not count.
 */
export function throughout(gaps: ArrayLike<number>, share: Fraction = enough): number {
  const sorted = Float64Array.from(gaps).sort();
  const low = quantileOfSorted(sorted, share);
  const high = quantileOfSorted(sorted, 1 - share);
  return low > 0 ? low : high < 0 ? high : 0;
}
