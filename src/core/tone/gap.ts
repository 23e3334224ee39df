import { powerToDecibels, type Decibels, type Hertz } from "../units";
import { bands, widenBands, type Band, type BandsPerOctave } from "./bands";

const { abs, log2, max, min, sqrt } = Math;

/** One band of two spectra held against each other. */
export interface BandGap extends Band {
  reference: Decibels;
  /** Level of the version after the shift that makes both equally loud. */
  version: Decibels;
  /** Version less reference. */
  gap: Decibels;
  /** How much this band counts, 0–1. */
  weight: number;
}

/** What lies this far below the loudest band of either track is not heard and does not count. */
export const audibleSpan: Decibels = 60;

/**
 * Weight of a band in tone: 1 from 40 Hz to 12 kHz, falling by half per third of an octave
 * outside, where small speakers and ears say little. Common practice, no source.
 */
export function toneWeight(centre: Hertz): number {
  const octavesOutside = max(0, log2(40 / centre), log2(centre / 12000));
  return 2 ** (-3 * octavesOutside);
}

const weightsOf = (perOctave: BandsPerOctave) => bands(perOctave).map(({ centre }) => toneWeight(centre));
export const toneWeights: Record<BandsPerOctave, readonly number[]> = {
  3: weightsOf(3),
  6: weightsOf(6),
  12: weightsOf(12),
};

/**
 * Gap curve of two average spectra.
 *
 * Levels are floored 60 dB below the loudest band of their own spectrum, so that a difference
 * between two inaudible levels is no difference; a band in which both lie at the floor has weight 0.
 *
 * @param reference, version powers per twelfth-octave band.
 * @param shift dB added to the version, usually the loudness of the reference less its own.
 */
export function gapCurve(
  reference: ArrayLike<number>,
  version: ArrayLike<number>,
  shift: Decibels,
  perOctave: BandsPerOctave,
): BandGap[] {
  const levelsOf = (powers: ArrayLike<number>) => {
    const widened = widenBands(powers, perOctave);
    const loudest = widened.reduce((a, b) => max(a, b), 0);
    const floorPower = max(loudest / 10 ** (audibleSpan / 10), 1e-30);
    return {
      levels: Float64Array.from(widened, (power) => powerToDecibels(max(power, floorPower))),
      audible: Array.from(widened, (power) => power > floorPower),
    };
  };
  const a = levelsOf(reference);
  const b = levelsOf(version);
  return bands(perOctave).map(({ low, high, centre }, i) => ({
    low,
    high,
    centre,
    reference: a.levels[i]!,
    version: b.levels[i]! + shift,
    gap: b.levels[i]! + shift - a.levels[i]!,
    weight: a.audible[i] || b.audible[i] ? toneWeights[perOctave][i]! : 0,
  }));
}

/**
 * A band of weight 1 may be off by anything; one that counts little by little only: what a coded file
 * lacks above 16 kHz is 30 dB in a band that hardly anybody hears. Falls with the square of the weight.
 */
const mostOutside: Decibels = 40;

/** Weighted root-mean-square of a gap curve in dB; null where no band counts. */
export function rootMeanSquareGap(curve: readonly Pick<BandGap, "gap" | "weight">[]): Decibels | null {
  let sum = 0;
  let weights = 0;
  for (const { gap: whole, weight } of curve) {
    const gap = weight < 1 ? min(abs(whole), mostOutside * weight * weight) : whole;
    sum += weight * gap * gap;
    weights += weight;
  }
  return weights > 0 ? sqrt(sum / weights) : null;
}

/**
 * Slope of a spectrum in dB per octave of power density between 63 Hz and 8 kHz, by least squares
 * over third-octave bands: white noise 0, pink noise −3.01. Null in silence.
 */
export function spectralSlope(powers: ArrayLike<number>): number | null {
  const widened = widenBands(powers, 3);
  const points = bands(3)
    .map((band, i) => ({
      x: log2(band.centre),
      y: powerToDecibels(widened[i]! / (band.high - band.low)),
      inside: band.centre > 60 && band.centre < 8500,
    }))
    .filter((point) => point.inside && Number.isFinite(point.y));
  if (points.length < 2) return null;
  const meanX = points.reduce((a, p) => a + p.x, 0) / points.length;
  const meanY = points.reduce((a, p) => a + p.y, 0) / points.length;
  const covariance = points.reduce((a, p) => a + (p.x - meanX) * (p.y - meanY), 0);
  const variance = points.reduce((a, p) => a + (p.x - meanX) ** 2, 0);
  return covariance / variance;
}
