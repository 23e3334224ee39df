/** What equaliser moves leave of a gap once both sides are equally loud again. */
import { biquadMagnitude } from "../dsp/biquad";
import { kWeighting } from "../loudness/kWeighting";
import { bands, type BandGap, type BandsPerOctave } from "../tone";
import type { Decibels, Hertz } from "../units";
import { addResponse, responseGrid, type EqualiserMove } from "./filters";

const { log10, sqrt } = Math;

/** How much the power of each band counts for loudness: K-weighting, ITU-R BS.1770-5. */
const kWeightsOf = (perOctave: BandsPerOctave): Float64Array => {
  const rate = 48000;
  const { shelf, highPass } = kWeighting(rate);
  return Float64Array.from(
    bands(perOctave),
    ({ centre: middle }) =>
      (biquadMagnitude(shelf, rate, middle) * biquadMagnitude(highPass, rate, middle)) ** 2,
  );
};
const kWeights: Record<BandsPerOctave, Float64Array> = {
  3: kWeightsOf(3),
  6: kWeightsOf(6),
  12: kWeightsOf(12),
};

/** What moves leave of a gap, once both sides are equally loud again. */
export interface Equalised {
  /** Version less reference in each band. */
  gap: Float64Array;
  /** dB by which the version has to be turned up (+) after the moves to stay as loud. */
  gainDb: Decibels;
  /** Root-mean-square of the gap by the weights of its bands. */
  left: Decibels;
}

/**
 * What is left of a gap with moves applied to the version.
 *
 * @param gap curve at equal loudness.
 * @param perOctave its resolution.
 */
export function equalised(
  gap: readonly Pick<BandGap, "gap" | "weight" | "version">[],
  moves: readonly EqualiserMove[],
  perOctave: BandsPerOctave,
  sampleRate: Hertz,
): Equalised {
  const middles = bands(perOctave).map(({ centre: middle }) => middle);
  const response = new Float64Array(gap.length);
  const grid = responseGrid(middles, sampleRate);
  for (const move of moves) addResponse(move, grid, response);
  let before = 0;
  let after = 0;
  gap.forEach(({ version }, i) => {
    const power = 10 ** (version / 10) * kWeights[perOctave][i]!;
    before += power;
    after += power * 10 ** (response[i]! / 10);
  });
  const gainDb = moves.length > 0 && after > 0 ? 10 * log10(before / after) : 0;
  const left = Float64Array.from(gap, (band, i) => band.gap + response[i]! + gainDb);
  let sum = 0;
  let weights = 0;
  gap.forEach(({ weight }, i) => {
    sum += weight * left[i]! ** 2;
    weights += weight;
  });
  return { gap: left, gainDb, left: weights > 0 ? sqrt(sum / weights) : 0 };
}
