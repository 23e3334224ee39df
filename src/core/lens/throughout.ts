/** What two sides differ in throughout, from how far they are apart bar by bar. */
import { quantileOfSorted } from "../median";

/** Where this share of the bars agree, nothing differs throughout: what the others do is movement. */
const enough = 0.45;

/**
 * Of the differences that most bars share the one nearest to none: with half of the bars 6 dB softer it is 0,
 * with all of them it is −6.
 *
 * @param gaps of the bars; at least one.
 */
export function throughout(gaps: readonly number[]): number {
  const sorted = new Float64Array(gaps).sort();
  const low = quantileOfSorted(sorted, enough);
  const high = quantileOfSorted(sorted, 1 - enough);
  return low > 0 ? low : high < 0 ? high : 0;
}
