/** Equaliser moves as second-order filters, in the forms that the Web Audio API uses too. */
import { applyBiquad, designBiquad, type Biquad, type BiquadShape } from "../dsp/biquad";
import type { Decibels, Hertz } from "../units";

const { log10, max, min, PI, sin, SQRT1_2 } = Math;

export const moveTypes = ["lowCut", "lowShelf", "peak", "highShelf", "highCut"] as const;
export type MoveType = (typeof moveTypes)[number];

/** One filter. Cuts fall by 12 dB an octave and have no gain; only peaks have a width of their own. */
export interface EqualiserMove {
  type: MoveType;
  /** Corner of a cut (−3 dB), middle of a shelf's slope, centre of a peak. */
  hz: Hertz;
  /** 0 for cuts. */
  gainDb: Decibels;
  /** Quality factor of a peak; cuts and shelves have 0.707 (a shelf's slope is 1). */
  q: number;
}

/** Limits of what a move can be. */
export const moveLimits = { lowestHz: 20, highestHz: 20000, mostGainDb: 15, leastQ: 0.3, mostQ: 16 } as const;
/** Quality factor of cuts (Butterworth) and shelves. */
export const plainQ = SQRT1_2;

export const hasGain = (type: MoveType): boolean => type !== "lowCut" && type !== "highCut";

const shapes: Record<MoveType, BiquadShape> = {
  lowCut: "highPass",
  lowShelf: "lowShelf",
  peak: "peak",
  highShelf: "highShelf",
  highCut: "lowPass",
};

/** The filter of a move. A corner above the Nyquist frequency is held just below it. */
export const filterOf = ({ type, hz, gainDb, q }: EqualiserMove, sampleRate: Hertz): Biquad =>
  designBiquad(
    shapes[type],
    sampleRate,
    min(hz, 0.498 * sampleRate),
    type === "peak" ? q : plainQ,
    hasGain(type) ? gainDb : 0,
  );

/** Where responses are worked out, prepared once for a sample rate. */
export interface ResponseGrid {
  sampleRate: Hertz;
  /** 4 sin²(ω/2) of each frequency. */
  phi: Float64Array;
}

export const responseGrid = (frequencies: readonly Hertz[], sampleRate: Hertz): ResponseGrid => ({
  sampleRate,
  phi: Float64Array.from(frequencies, (hz) => 4 * sin((PI * min(hz, 0.4999 * sampleRate)) / sampleRate) ** 2),
});

/** Magnitude response in dB at each frequency of a grid, added to `to` times `sign`. */
export function addResponse(move: EqualiserMove, grid: ResponseGrid, to: Float64Array, sign = 1): void {
  const { b0, b1, b2, a1, a2 } = filterOf(move, grid.sampleRate);
  // The cookbook's form in 4 sin²(ω/2), which stays exact at low frequencies.
  const zeroDc = (b0 + b1 + b2) ** 2;
  const zeroOnce = b0 * b1 + 4 * b0 * b2 + b1 * b2;
  const zeroTwice = b0 * b2;
  const poleDc = (1 + a1 + a2) ** 2;
  const poleOnce = a1 + 4 * a2 + a1 * a2;
  const poleTwice = a2;
  const { phi } = grid;
  for (let i = 0; i < phi.length; i++) {
    const p = phi[i]!;
    const above = zeroDc - p * zeroOnce + p * p * zeroTwice;
    const below = poleDc - p * poleOnce + p * p * poleTwice;
    to[i]! += sign * 10 * log10(max(above, 1e-20) / max(below, 1e-20));
  }
}

/** What moves do together, dB at each frequency. */
export function responseOf(
  moves: readonly EqualiserMove[],
  frequencies: readonly Hertz[],
  sampleRate: Hertz,
): Float64Array {
  const grid = responseGrid(frequencies, sampleRate);
  const sum = new Float64Array(frequencies.length);
  for (const move of moves) addResponse(move, grid, sum);
  return sum;
}

/** Seconds after which an impulse response of moves is over. */
const responseSeconds = 1;

/** Impulse response of moves, with a gain over all. */
export function impulseResponse(
  moves: readonly EqualiserMove[],
  sampleRate: Hertz,
  gainDb: Decibels = 0,
): Float32Array {
  const samples = new Float32Array(responseSeconds * sampleRate);
  samples[0] = 10 ** (gainDb / 20);
  for (const move of moves) applyBiquad(filterOf(move, sampleRate), samples);
  return samples;
}
