/** What of a bass is left on speakers that do not play its fundamentals. */
import { kWeightOfBands } from "../loudness/kWeightOfBands";
import { shareOfBands, wholeOf, type Spectrum } from "../tone";
import { powerToDecibels, type Decibels, type Hertz } from "../units";

/** Those of laptops and phones play next to nothing below. Common practice, no source. */
export const smallSpeakersFrom: Hertz = 150;

const played = shareOfBands(smallSpeakersFrom, 22_000);

/**
 * By how much softer a bass is when small speakers play it, K-weighted: what its harmonics do not carry.
 *
 * @param spectrum of the bass by itself.
 * @returns null where it is silent.
 */
export function lostOnSmallSpeakers(spectrum: Spectrum): Decibels | null {
  let [all, left] = [0, 0];
  wholeOf(spectrum).forEach((power, band) => {
    const loud = power * kWeightOfBands[band]!;
    all += loud;
    left += played[band]! * loud;
  });
  return all > 0 ? Math.min(60, powerToDecibels(all / Math.max(all * 1e-6, left))) : null;
}
