/** Energy of sound. */
import type { StereoSamples } from "../hits/strokes";

/** Sum of the squares of both channels. */
export function energyOf([left, right]: StereoSamples): number {
  let sum = 0;
  for (let i = 0; i < left.length; i++) sum += left[i]! * left[i]! + right[i]! * right[i]!;
  return sum;
}
