/**
 * Fractional-octave bands after IEC 61260-1:2014 (base-ten system). The finest bands kept are
 * twelfth-octaves; sixth- and third-octave bands are exact unions of them.
 */
import type { Hertz } from "../units";

/** Octave ratio of IEC 61260-1, equation 1. */
const octaveRatio = 10 ** 0.3;

/** Bands an octave that curves can be shown in. */
export type BandsPerOctave = 3 | 6 | 12;

/** A frequency band with its exact midband frequency and band-edge frequencies. */
export interface Band {
  low: Hertz;
  centre: Hertz;
  high: Hertz;
}

/** Twelfth-octave edges counted from 1 kHz: the third-octave bands from 20 Hz to 20 kHz. */
const lowestEdge = -70;
const highestEdge = 54;

/** Number of twelfth-octave bands in every spectrum: from 17.8 Hz to 22.4 kHz. */
export const twelfthCount = highestEdge - lowestEdge;

const bandsOf = (perOctave: BandsPerOctave): Band[] => {
  const wide = 12 / perOctave;
  return Array.from({ length: twelfthCount / wide }, (_, i) => {
    const edge = lowestEdge + i * wide;
    return {
      low: 1000 * octaveRatio ** (edge / 12),
      centre: 1000 * octaveRatio ** ((edge + wide / 2) / 12),
      high: 1000 * octaveRatio ** ((edge + wide) / 12),
    };
  });
};
const allBands: Record<BandsPerOctave, readonly Band[]> = { 3: bandsOf(3), 6: bandsOf(6), 12: bandsOf(12) };

/** All bands from the 20 Hz third-octave band to the 20 kHz one, low to high. */
export const bands = (perOctave: BandsPerOctave): readonly Band[] => allBands[perOctave];

/**
 * Sums twelfth-octave powers into wider bands.
 *
 * @param twelfths powers, length `twelfthCount`.
 * @returns powers, length `twelfthCount · perOctave / 12`.
 */
export function widenBands(twelfths: ArrayLike<number>, perOctave: BandsPerOctave): Float64Array {
  const wide = 12 / perOctave;
  const widened = new Float64Array(twelfthCount / wide);
  for (let i = 0; i < twelfthCount; i++) widened[(i / wide) | 0]! += twelfths[i]!;
  return widened;
}

const { log10, max, min } = Math;

/** Place of a frequency on the scale of twelfth-octave bands: 0 = lower edge of the first band. */
export const twelfthPosition = (frequency: Hertz): number =>
  (12 * log10(frequency / 1000)) / 0.3 - lowestEdge;

/**
 * Share of each twelfth-octave band that lies between two frequencies, on a logarithmic scale.
 *
 * @returns shares 0–1, length `twelfthCount`.
 */
export function shareOfBands(from: Hertz, to: Hertz): Float64Array {
  const low = twelfthPosition(from);
  const high = twelfthPosition(to);
  return Float64Array.from({ length: twelfthCount }, (_, i) => max(0, min(high, i + 1) - max(low, i)));
}
