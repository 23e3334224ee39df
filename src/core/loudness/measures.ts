import { finiteOrNull, powerToDecibels, type LoudnessUnits, type Lufs } from "../units";
import { kWeightedStepsPerSecond } from "./sweep";

const { max, min, round } = Math;

/** Loudness of silence: blocks at or below it never count (ITU-R BS.1770-5, absolute gate). */
export const absoluteGate: Lufs = -70;

/** Loudness of a K-weighted mean square (ITU-R BS.1770-5, equation 2). */
export const loudnessOfMeanSquare = (energy: number): Lufs => -0.691 + powerToDecibels(energy);

const energyOfLoudness = (loudness: Lufs): number => 10 ** ((loudness + 0.691) / 10);

/** Window lengths and hop of EBU Tech 3341, in steps of 10 ms. */
const momentarySteps = 0.4 * kWeightedStepsPerSecond;
const shortTermSteps = 3 * kWeightedStepsPerSecond;
const hopSteps = 0.1 * kWeightedStepsPerSecond;

/** Mean over a sliding window, one value a start, only where the whole window lies inside. */
function slidingMean(kWeightedMeanSquares: Float32Array, windowSteps: number, hop: number): Float64Array {
  const count =
    kWeightedMeanSquares.length < windowSteps
      ? 0
      : (((kWeightedMeanSquares.length - windowSteps) / hop) | 0) + 1;
  const sums = new Float64Array(kWeightedMeanSquares.length + 1);
  for (let i = 0; i < kWeightedMeanSquares.length; i++) sums[i + 1] = sums[i]! + kWeightedMeanSquares[i]!;
  const means = new Float64Array(count);
  for (let i = 0; i < count; i++) {
    means[i] = max(0, sums[i * hop + windowSteps]! - sums[i * hop]!) / windowSteps;
  }
  return means;
}

/**
 * Momentary loudness (400 ms window, EBU Tech 3341) every 100 ms.
 *
 * @param kWeightedMeanSquares K-weighted mean square of each 10 ms.
 * @returns LUFS, `-Infinity` in silence; value i covers the 400 ms from i · 100 ms on.
 */
export const momentaryLoudness = (kWeightedMeanSquares: Float32Array): Float32Array =>
  Float32Array.from(slidingMean(kWeightedMeanSquares, momentarySteps, hopSteps), loudnessOfMeanSquare);

/** Short-term loudness (3 s window, EBU Tech 3341) every 100 ms; see `momentaryLoudness`. */
export const shortTermLoudness = (kWeightedMeanSquares: Float32Array): Float32Array =>
  Float32Array.from(slidingMean(kWeightedMeanSquares, shortTermSteps, hopSteps), loudnessOfMeanSquare);

function largest(kWeightedMeanSquares: Float32Array, windowSteps: number): Lufs | null {
  const means = slidingMean(kWeightedMeanSquares, windowSteps, 1);
  let most = 0;
  for (let i = 0; i < means.length; i++) if (means[i]! > most) most = means[i]!;
  return most > 0 ? finiteOrNull(loudnessOfMeanSquare(most)) : null;
}

/** Largest momentary loudness, searched every 10 ms; null in silence or under 400 ms. */
export const maxMomentary = (kWeightedMeanSquares: Float32Array): Lufs | null =>
  largest(kWeightedMeanSquares, momentarySteps);

/** Largest short-term loudness, searched every 10 ms; null in silence or under 3 s. */
export const maxShortTerm = (kWeightedMeanSquares: Float32Array): Lufs | null =>
  largest(kWeightedMeanSquares, shortTermSteps);

function gatedMean(means: Float64Array, threshold: number): number {
  let sum = 0;
  let count = 0;
  for (let i = 0; i < means.length; i++) {
    if (means[i]! > threshold) {
      sum += means[i]!;
      count++;
    }
  }
  return count > 0 ? sum / count : 0;
}

/**
 * Integrated loudness with absolute (−70 LUFS) and relative (−10 LU) gate, 400 ms blocks
 * overlapping by 75 % (ITU-R BS.1770-5, annex 1). Null where every block is gated out.
 *
 * @param kWeightedMeanSquares K-weighted mean square of each 10 ms.
 */
export function integratedLoudness(kWeightedMeanSquares: Float32Array): Lufs | null {
  const blocks = slidingMean(kWeightedMeanSquares, momentarySteps, hopSteps);
  const floorEnergy = energyOfLoudness(absoluteGate);
  const ungated = gatedMean(blocks, floorEnergy);
  if (ungated === 0) return null;
  return loudnessOfMeanSquare(gatedMean(blocks, max(floorEnergy, ungated / 10)));
}

/**
 * Loudness range (EBU Tech 3342): spread from the 10th to the 95th percentile of short-term
 * loudness, gated at −70 LUFS and 20 LU below the gated mean. Null where there is no 3 s above.
 */
export function loudnessRange(kWeightedMeanSquares: Float32Array): LoudnessUnits | null {
  const windows = slidingMean(kWeightedMeanSquares, shortTermSteps, hopSteps);
  const floorEnergy = energyOfLoudness(absoluteGate);
  const mean = gatedMean(windows, floorEnergy);
  if (mean === 0) return null;
  const threshold = max(floorEnergy, mean / 100);
  const kept = windows.filter((energy) => energy > threshold).sort();
  if (kept.length === 0) return null;
  const at = (share: number) => kept[min(kept.length - 1, round((kept.length - 1) * share))]!;
  return loudnessOfMeanSquare(at(0.95)) - loudnessOfMeanSquare(at(0.1));
}
