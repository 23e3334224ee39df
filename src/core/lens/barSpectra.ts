/** What parts sound like in each bar: their powers by band, and how bright they are. */
import { bands, twelfthCount } from "../tone";
import type { Decibels, Octaves, Seconds } from "../units";
import type { PartSpectrogram } from "./lensMeasures";

const { ceil, floor, log2, max, min, round, sqrt } = Math;

/**
 * Powers of mid and side together in the bars that begin at some times.
 *
 * @param starts of all bars in order, and where the last ends.
 * @returns `bars × twelfthCount`.
 */
export function barSpectra(
  { hopSeconds, frames, mid, side }: PartSpectrogram,
  starts: readonly Seconds[],
): Float32Array {
  const bars = max(0, starts.length - 1);
  const spectra = new Float32Array(bars * twelfthCount);
  for (let bar = 0; bar < bars; bar++) {
    // Frames centred inside; where a bar is shorter than they are apart, the nearest one.
    const first = min(frames - 1, max(0, ceil(starts[bar]! / hopSeconds)));
    const last = min(frames - 1, max(first, floor(starts[bar + 1]! / hopSeconds)));
    for (let frame = first; frame <= last; frame++)
      for (let b = 0; b < twelfthCount; b++)
        spectra[bar * twelfthCount + b]! +=
          (mid[frame * twelfthCount + b]! + side[frame * twelfthCount + b]!) / (last - first + 1);
  }
  return spectra;
}

/** Bands so far below the loudest of their bar hold what others left there. */
const quietest: Decibels = 30;
const octavesAbove20 = bands(12).map(({ centre }) => log2(centre / 20));

/**
 * Where the spectrum of each bar has its centre, by amplitude on a logarithmic scale; rounded to
 * hundredths.
 *
 * @param spectra `bars × twelfthCount` powers.
 * @returns octaves above 20 Hz, 0 in silent bars.
 */
export function brightnessOfBars(spectra: Float32Array): Octaves[] {
  return Array.from({ length: spectra.length / twelfthCount }, (_, bar) => {
    const powers = spectra.subarray(bar * twelfthCount, (bar + 1) * twelfthCount);
    const least = powers.reduce((a, b) => max(a, b), 0) / 10 ** (quietest / 10);
    let sum = 0;
    let weights = 0;
    for (let b = 0; b < twelfthCount; b++) {
      if (powers[b]! <= least) continue;
      const weight = sqrt(powers[b]!);
      sum += weight * octavesAbove20[b]!;
      weights += weight;
    }
    return weights > 0 ? round((100 * sum) / weights) / 100 : 0;
  });
}
