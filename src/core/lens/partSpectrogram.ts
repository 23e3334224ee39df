/** Power of a lifted part by band over time. */
import type { StereoSamples } from "../hits/strokes";
import { twelfthCount } from "../tone";
import { fractionalOctaveSpectrogram } from "../tone/fractionalOctaveSpectrogram";
import type { Hertz } from "../units";
import type { PartSpectrogram } from "./lensMeasures";

const { ceil, min } = Math;

/** Two frames of the analysis are kept as one. */
const joined = 2;

export function partSpectrogram(samples: StereoSamples, rate: Hertz): PartSpectrogram {
  const { hopSeconds, frames, mid, side, cross } = fractionalOctaveSpectrogram(
    [samples[0], samples[1]],
    rate,
  );
  const kept = ceil(frames / joined);
  const thinned = (powers: Float32Array) => {
    const means = new Float32Array(kept * twelfthCount);
    for (let frame = 0; frame < kept; frame++) {
      const own = min(joined, frames - frame * joined);
      for (let k = 0; k < own; k++) {
        const from = (frame * joined + k) * twelfthCount;
        for (let b = 0; b < twelfthCount; b++) means[frame * twelfthCount + b]! += powers[from + b]! / own;
      }
    }
    return means;
  };
  return {
    hopSeconds: joined * hopSeconds,
    frames: kept,
    mid: thinned(mid),
    side: thinned(side),
    cross: thinned(cross),
  };
}
