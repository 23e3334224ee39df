/**
 * Levels of left and right in 21 bands, a hundred times a second: short enough to follow a hit, a
 * dip under a kick and a decay, and small enough to be kept for every file.
 */
import type { Decibels, Hertz } from "../units";

const { log10, max, sqrt } = Math;

/** One band for the low end, then three to the octave. */
export const envelopeBandCount = 21;
const lowEdge: Hertz = 150;
const perOctave = 3;

/** Where band b begins; that of `envelopeBandCount` is where the last one ends. */
export const envelopeBandEdge = (band: number): Hertz =>
  band === 0 ? 20 : lowEdge * 2 ** ((band - 1) / perOctave);

/** Bands whose middle lies in a range. */
export function envelopeBandsIn(from: Hertz, to: Hertz): [first: number, end: number] {
  let first = 0;
  while (first < envelopeBandCount && centreOf(first) < from) first++;
  let end = first;
  while (end < envelopeBandCount && centreOf(end) <= to) end++;
  return [first, end];
}

const centreOf = (band: number): Hertz =>
  band === 0 ? 75 : sqrt(envelopeBandEdge(band) * envelopeBandEdge(band + 1));

/** Levels are kept in steps of half a decibel above this. */
export const lowestLevel: Decibels = -110;
export const levelsPerDecibel = 2;

export interface BandEnvelopes {
  /** Exact rate of the frames; frame i is centred on i / framesPerSecond. */
  framesPerSecond: Hertz;
  /**
   * `frames × 2 × envelopeBandCount`: all bands of left, then of right, low to high, in steps of half
   * a decibel of power above −110 dB re full scale; 0 is silence.
   */
  levels: Uint8Array;
}

/** Values in a frame. */
export const envelopeRow = 2 * envelopeBandCount;

/** Power of every stored level. */
export const powerOfLevel = Float64Array.from({ length: 256 }, (_, level) =>
  level === 0 ? 0 : 10 ** ((lowestLevel + level / levelsPerDecibel) / 10),
);

/** Levels in dB of left and right together, `frames × envelopeBandCount`; silence is −107 dB. */
export function levelsOfBoth({ levels }: BandEnvelopes): Float32Array {
  const frames = levels.length / envelopeRow;
  const both = new Float32Array(frames * envelopeBandCount);
  for (let frame = 0, at = 0; frame < frames; frame++) {
    const row = frame * envelopeRow;
    for (let b = 0; b < envelopeBandCount; b++, at++) {
      const [left, right] = [levels[row + b]!, levels[row + envelopeBandCount + b]!];
      both[at] =
        sumOfLevels[left > right ? left - right : right - left]! + max(left, right) / levelsPerDecibel;
    }
  }
  return both;
}

/** Powers of left and right together, `frames × envelopeBandCount`. */
export function powersOfBoth({ levels }: BandEnvelopes): Float32Array {
  const frames = levels.length / envelopeRow;
  const both = new Float32Array(frames * envelopeBandCount);
  for (let frame = 0, at = 0; frame < frames; frame++) {
    const row = frame * envelopeRow;
    for (let b = 0; b < envelopeBandCount; b++, at++) {
      both[at] = powerOfLevel[levels[row + b]!]! + powerOfLevel[levels[row + envelopeBandCount + b]!]!;
    }
  }
  return both;
}

/** Power of a range of bands in each frame. */
export function rangePowers(
  powers: Float32Array,
  [first, end]: readonly [first: number, end: number],
): Float64Array {
  const frames = powers.length / envelopeBandCount;
  const sums = new Float64Array(frames);
  for (let frame = 0; frame < frames; frame++) {
    let sum = 0;
    for (let i = frame * envelopeBandCount + first; i < frame * envelopeBandCount + end; i++)
      sum += powers[i]!;
    sums[frame] = sum;
  }
  return sums;
}

/** What a second level adds to a first that lies so many steps above it, and the lowest level, dB. */
const sumOfLevels = Float64Array.from(
  { length: 256 },
  (_, steps) => lowestLevel + 10 * log10(1 + 10 ** (-steps / levelsPerDecibel / 10)),
);
