/**
 * How parts differ in tone bar against bar: what most bars share is their tone, what single bars do
 * otherwise is movement. Bands in which others sound louder hardly count.
 */
import { z } from "zod";
import { quantileOfSorted } from "../median";
import { barRange, decibelRange, fractionRange, mostBeats } from "../ranges";
import { toneWeights, twelfthCount } from "../tone";
import { decibelsToPower, powerToDecibels, type Decibels, type Fraction } from "../units";
import type { BarPair } from "./answeredBars";
import { strays } from "./movement";
import { throughout } from "./throughout";

const { ceil, max, min, round, sqrt } = Math;

/** Gaps and weights per twelfth-octave band, to a hundredth. */
export interface ToneInBars {
  /** Version less reference in most bars, the level of each bar taken out; 0 where nothing counts. */
  gap: number[];
  /** How much each band counts, 0–1. */
  weight: number[];
  /** Root-mean-square over bars and bands of what single bars do beside that; what a quarter of the bars stay within is taken off. */
  movement: Decibels;
  /** Bars of the reference that differ plainly from what most bars share. */
  bars: number[];
}

export const toneInBarsSchema = z.object({
  gap: z.array(decibelRange).length(twelfthCount),
  weight: z.array(fractionRange).length(twelfthCount),
  movement: decibelRange,
  bars: z.array(barRange).max(mostBeats),
});

/** Bands this far below a part's loudest hold what others left in it. */
const quietest: Decibels = 36;
/** A band counts from where so much of a part's power in it is its own, and wholly from where so much is. */
const leastOwn: Fraction = 0.3;
const surelyOwn: Fraction = 0.7;
const fewestBars = 4;
/** Single bands of single bars count up to there. */
const most: Decibels = 15;
/** Bars further apart than that are named. */
const plainly: Decibels = 5;
/** So many bars must agree in what is tone: a filter that is closed for half of them is movement. */
const agreeing: Fraction = 0.65;

const rounded = (value: number): number => round(100 * value) / 100;

/**
 * @param spectra of both sides, `bars × twelfthCount` powers.
 * @param shares of both sides, of each band.
 * @param pairs bars in which both play it.
 * @returns null where too few bars are played on both sides.
 */
export function toneInBars(
  spectra: readonly [reference: Float32Array, version: Float32Array],
  shares: readonly [reference: Float32Array, version: Float32Array],
  pairs: readonly BarPair[],
): ToneInBars | null {
  if (pairs.length < fewestBars) return null;
  const rows = pairs.map(({ reference, version }) => [reference - 1, version - 1] as const);
  const means = spectra.map((own, side) => {
    const sums = new Float64Array(twelfthCount);
    for (const row of rows)
      for (let b = 0; b < twelfthCount; b++) sums[b]! += own[row[side]! * twelfthCount + b]! / rows.length;
    return sums;
  });
  const floors = means.map((mean) => mean.reduce((a, b) => max(a, b), 1e-20) * decibelsToPower(-quietest));
  const weight = Array.from({ length: twelfthCount }, (_, b) => {
    const isThere = means[0]![b]! > floors[0]! || means[1]![b]! > floors[1]!;
    const own = max(0, min(1, (min(shares[0][b]!, shares[1][b]!) - leastOwn) / (surelyOwn - leastOwn)));
    return isThere ? rounded(toneWeights[12][b]! * own) : 0;
  });
  const weights = weight.reduce((a, b) => a + b, 0);
  if (weights <= 0) return null;
  const gaps = rows.map(([ours, theirs]) => {
    const own = Float64Array.from({ length: twelfthCount }, (_, b) => {
      const reference = spectra[0][ours * twelfthCount + b]! + floors[0]!;
      return powerToDecibels((spectra[1][theirs * twelfthCount + b]! + floors[1]!) / reference);
    });
    const level = own.reduce((sum, gap, b) => sum + weight[b]! * gap, 0) / weights;
    return own.map((gap) => max(-most, min(most, gap - level)));
  });
  const column = new Float64Array(rows.length);
  const gap = Array.from({ length: twelfthCount }, (_, b) => {
    if (weight[b] === 0) return 0;
    for (let i = 0; i < rows.length; i++) column[i] = gaps[i]![b]!;
    return rounded(throughout(column, 1 - agreeing));
  });
  const apart = gaps.map((own) =>
    sqrt(own.reduce((sum, one, b) => sum + weight[b]! * (one - gap[b]!) ** 2, 0) / weights),
  );
  const sorted = [...apart].sort((a, b) => a - b).slice(0, ceil((1 - strays) * apart.length));
  const usual = quantileOfSorted(Float64Array.from(sorted), 0.25);
  return {
    gap,
    weight,
    movement: rounded(
      sqrt(max(0, sorted.reduce((sum, one) => sum + one * one, 0) / sorted.length - usual ** 2)),
    ),
    bars: apart.flatMap((one, i) => (one - usual >= plainly ? pairs[i]!.reference : [])),
  };
}
