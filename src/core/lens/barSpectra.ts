/** What parts sound like in each bar: their powers by band, and how bright they are. */
import { twelfthCount } from "../tone";
import { powerToDecibels, type Decibels, type Seconds } from "../units";
import type { PartSpectrogram } from "./lensMeasures";

const { ceil, floor, max, min, round } = Math;

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

/**
 * The band below and above which as much of a part's power lies, over all of its bars.
 *
 * @param spectra `bars × twelfthCount` powers.
 */
export function middleBand(spectra: Float32Array): number {
  const powers = new Float64Array(twelfthCount);
  for (let i = 0; i < spectra.length; i++) powers[i % twelfthCount]! += spectra[i]!;
  const half = powers.reduce((a, b) => a + b, 0) / 2;
  let below = 0;
  return powers.findIndex((power) => (below += power) >= half);
}

/** What is so far below the rest is no sound of the part's own. */
const most: Decibels = 30;

/**
 * How bright each bar is: what lies above a band against what lies below it; rounded to tenths.
 *
 * @param spectra `bars × twelfthCount` powers.
 * @returns decibels, at most 30 either way; 0 in silent bars.
 */
export function brightnessOfBars(spectra: Float32Array, middle: number): Decibels[] {
  return Array.from({ length: spectra.length / twelfthCount }, (_, bar) => {
    let [lower, upper] = [0, 0];
    for (let b = 0; b < twelfthCount; b++) {
      const power = spectra[bar * twelfthCount + b]!;
      if (b <= middle) lower += power;
      else upper += power;
    }
    if (lower + upper <= 0) return 0;
    const brightness = powerToDecibels(max(upper, 1e-12) / max(lower, 1e-12));
    return round(10 * max(-most, min(most, brightness))) / 10;
  });
}
