/** Mid and side of stereo, one at a time. */
import { addScaled } from "../dsp/vector/sums";
import type { StereoSamples } from "../hits/strokes";

export type Stereo = [Float32Array, Float32Array];
/** 1 for mid, −1 for side. */
type Sign = 1 | -1;

/** Mid, and side where there is any. */
export const signsOf = ([left, right]: StereoSamples): readonly Sign[] =>
  left.every((x, i) => x === right[i]) ? [1] : [1, -1];

export function midOrSide([left, right]: StereoSamples, sign: Sign): Float32Array {
  const result = new Float32Array(left.length);
  addScaled(result, left, 0.5);
  addScaled(result, right, 0.5 * sign);
  return result;
}

/** Adds what was made of mid or side back to left and right. */
export function addMidOrSide([left, right]: Stereo, samples: Float32Array, sign: Sign): void {
  addScaled(left, samples, 1);
  addScaled(right, samples, sign);
}
