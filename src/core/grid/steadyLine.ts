/** One exact tempo through the onsets of a whole track. */
import type { Hertz } from "../units";

const { abs, ceil, floor, max, min, round, sqrt } = Math;

/** Beat k stands at `anchor + k · period`, in frames of the onset strength. */
export interface SteadyLine {
  period: number;
  anchor: number;
}

/** Onsets further than this from a beat do not belong to it. */
const reachSeconds = 0.025;
/** A whole number of BPM is taken where it lies this near, and within what the onsets leave open. */
const wholeBpmReach = 0.03;

/** Place of the highest value near a frame, between frames by a parabola, with its height. */
function peakAt(strength: Float32Array, near: number, reach: number): { place: number; height: number } {
  let best = -1;
  const last = min(strength.length - 2, floor(near + reach));
  for (let i = max(1, ceil(near - reach)); i <= last; i++) {
    if (best < 0 || strength[i]! > strength[best]!) best = i;
  }
  if (best < 0) return { place: near, height: 0 };
  const [a, b, c] = [strength[best - 1]!, strength[best]!, strength[best + 1]!];
  const bend = a - 2 * b + c;
  return { place: best + (bend < 0 ? max(-0.5, min(0.5, (0.5 * (a - c)) / bend)) : 0), height: b };
}

/**
 * Robust weighted regression of the onsets near each beat on its number. Produced music mostly
 * stands on a whole number of BPM, so that is taken where the onsets do not speak against it.
 *
 * @param strength onset strength of the whole track.
 * @param start a line good to a few hundredths of a beat.
 * @param free whether the period may change; else only the anchor is fitted.
 */
export function fitLine(
  strength: Float32Array,
  framesPerSecond: Hertz,
  start: SteadyLine,
  free: boolean,
): SteadyLine {
  let { period, anchor } = start;
  let reach = reachSeconds * framesPerSecond;
  let slopeError = Infinity;
  for (let round_ = 0; round_ < 4; round_++) {
    const first = ceil(-anchor / period);
    const last = floor((strength.length - 1 - anchor) / period);
    const numbers: number[] = [];
    const places: number[] = [];
    const weights: number[] = [];
    for (let k = first; k <= last; k++) {
      const expected = anchor + k * period;
      const { place, height } = peakAt(strength, expected, reach);
      if (height <= 0 || abs(place - expected) > reach) continue;
      numbers.push(k);
      places.push(place);
      weights.push(height);
    }
    if (numbers.length < 4) break;
    let sum = 0;
    let meanK = 0;
    let meanPlace = 0;
    for (let i = 0; i < numbers.length; i++) {
      sum += weights[i]!;
      meanK += weights[i]! * numbers[i]!;
      meanPlace += weights[i]! * places[i]!;
    }
    meanK /= sum;
    meanPlace /= sum;
    let covariance = 0;
    let variance = 0;
    for (let i = 0; i < numbers.length; i++) {
      covariance += weights[i]! * (numbers[i]! - meanK) * (places[i]! - meanPlace);
      variance += weights[i]! * (numbers[i]! - meanK) ** 2;
    }
    if (free) period = covariance / variance;
    anchor = meanPlace - meanK * period;
    let residuals = 0;
    for (let i = 0; i < numbers.length; i++) {
      residuals += weights[i]! * (places[i]! - anchor - numbers[i]! * period) ** 2;
    }
    const spread = sqrt(residuals / sum);
    slopeError = spread / sqrt((variance / sum) * numbers.length);
    reach = max(1, min(reach, 2.5 * spread));
    const bpm = (60 * framesPerSecond) / period;
    const whole = round(bpm);
    const bpmError = (bpm * slopeError) / period;
    if (free && abs(bpm - whole) < min(wholeBpmReach, 3 * bpmError)) {
      period = (60 * framesPerSecond) / whole;
      anchor = meanPlace - meanK * period;
    }
  }
  return { period, anchor };
}
