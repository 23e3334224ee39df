import type { Hertz } from "../units";

/** Second-order section, normalised so that a0 = 1. */
export interface Biquad {
  b0: number;
  b1: number;
  b2: number;
  a1: number;
  a2: number;
}

const { cos, sin, sqrt, PI, hypot } = Math;

/** The shapes of the cookbook that Plain Mirror uses. */
export type BiquadShape = "lowPass" | "highPass" | "peak" | "lowShelf" | "highShelf";

/**
 * Filter coefficients after Robert Bristow-Johnson, "Cookbook formulae for audio equalizer biquad
 * filter coefficients".
 *
 * @param frequency corner or centre, 0 < frequency < sampleRate / 2.
 * @param q quality factor, > 0.
 * @param gain in dB, for peak and shelves.
 */
export function designBiquad(
  shape: BiquadShape,
  sampleRate: Hertz,
  frequency: Hertz,
  q: number,
  gain = 0,
): Biquad {
  const w = (2 * PI * frequency) / sampleRate;
  const c = cos(w);
  const alpha = sin(w) / (2 * q);
  const a = 10 ** (gain / 40);
  const slope = 2 * sqrt(a) * alpha;
  const raw = {
    lowPass: [(1 - c) / 2, 1 - c, (1 - c) / 2, 1 + alpha, -2 * c, 1 - alpha],
    highPass: [(1 + c) / 2, -(1 + c), (1 + c) / 2, 1 + alpha, -2 * c, 1 - alpha],
    peak: [1 + alpha * a, -2 * c, 1 - alpha * a, 1 + alpha / a, -2 * c, 1 - alpha / a],
    lowShelf: [
      a * (a + 1 - (a - 1) * c + slope),
      2 * a * (a - 1 - (a + 1) * c),
      a * (a + 1 - (a - 1) * c - slope),
      a + 1 + (a - 1) * c + slope,
      -2 * (a - 1 + (a + 1) * c),
      a + 1 + (a - 1) * c - slope,
    ],
    highShelf: [
      a * (a + 1 + (a - 1) * c + slope),
      -2 * a * (a - 1 + (a + 1) * c),
      a * (a + 1 + (a - 1) * c - slope),
      a + 1 - (a - 1) * c + slope,
      2 * (a - 1 - (a + 1) * c),
      a + 1 - (a - 1) * c - slope,
    ],
  }[shape] as [number, number, number, number, number, number];
  const [b0, b1, b2, a0, a1, a2] = raw;
  return { b0: b0 / a0, b1: b1 / a0, b2: b2 / a0, a1: a1 / a0, a2: a2 / a0 };
}

/** Magnitude of a filter's response (ratio of amplitudes) at one frequency. */
export function biquadMagnitude(filter: Biquad, sampleRate: Hertz, frequency: Hertz): number {
  const w = (2 * PI * frequency) / sampleRate;
  const real = filter.b0 + filter.b1 * cos(w) + filter.b2 * cos(2 * w);
  const imaginary = -(filter.b1 * sin(w) + filter.b2 * sin(2 * w));
  const realBelow = 1 + filter.a1 * cos(w) + filter.a2 * cos(2 * w);
  const imaginaryBelow = -(filter.a1 * sin(w) + filter.a2 * sin(2 * w));
  return hypot(real, imaginary) / hypot(realBelow, imaginaryBelow);
}

/** Filters samples in place (transposed direct form II, from rest). */
export function applyBiquad(filter: Biquad, samples: Float32Array): void {
  const { b0, b1, b2, a1, a2 } = filter;
  let s1 = 0;
  let s2 = 0;
  for (let i = 0; i < samples.length; i++) {
    const x = samples[i]!;
    const y = b0 * x + s1;
    s1 = b1 * x - a1 * y + s2;
    s2 = b2 * x - a2 * y;
    samples[i] = y;
  }
}
