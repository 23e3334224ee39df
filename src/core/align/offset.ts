/**
 * Where a stem lies in its full track: the delay at which the two agree most, by generalised
 * cross-correlation with a partly whitened spectrum (Knapp & Carter 1976, "The generalized
 * correlation method for estimation of time delay").
 */
import { realFft } from "../dsp/fft";
import type { Fraction, Hertz, Seconds } from "../units";

const { abs, floor, max, min, round } = Math;

/** How far magnitudes are levelled: 0 keeps them, 1 leaves only phases. */
const whitening = 0.7;
/** Delays are told apart from this distance on. */
const apartSeconds: Seconds = 0.02;
/** Rate that both are brought to, at least: steps of under a fifth of a millisecond. */
const leastRate: Hertz = 5500;

/** Mean of left and right, brought to about `leastRate` by averaging whole groups of samples. */
export function decimated(
  [left, right]: readonly [Float32Array, Float32Array],
  sampleRate: Hertz,
  rate: Hertz,
): Float32Array {
  const step = sampleRate / rate;
  const thin = new Float32Array(floor(left.length / step));
  for (let i = 0; i < thin.length; i++) {
    const from = floor(i * step);
    const to = max(from + 1, floor((i + 1) * step));
    let sum = 0;
    for (let k = from; k < to; k++) sum += left[k]! + right[k]!;
    thin[i] = sum / (to - from);
  }
  return thin;
}

/** The rate at which two files can both be compared. */
export const comparingRate = (a: Hertz, b: Hertz): Hertz => {
  const lower = min(a, b);
  return lower / max(1, floor(lower / leastRate));
};

/**
 * @param track, stem mono at the same rate.
 * @returns by how much the stem must be moved to later, and how far that place stands out (0–1);
 * null where one of them is silent.
 */
export function findOffset(
  track: Float32Array,
  stem: Float32Array,
  rate: Hertz,
): { seconds: Seconds; confidence: Fraction } | null {
  let size = 1024;
  while (size < track.length + stem.length) size *= 2;
  const transform = realFft(size);
  const spectrumOf = (samples: Float32Array): Float32Array => {
    const input = transform.input();
    input.set(samples);
    input.fill(0, samples.length);
    return Float32Array.from(transform.forward());
  };
  const a = spectrumOf(track);
  const b = spectrumOf(stem);
  const product = transform.spectrum();
  product[0] = 0;
  product[1] = 0;
  let power = 0;
  for (let i = 2; i < size; i += 2) {
    const re = a[i]! * b[i]! + a[i + 1]! * b[i + 1]!;
    const im = a[i + 1]! * b[i]! - a[i]! * b[i + 1]!;
    const magnitude = Math.hypot(re, im);
    const level = magnitude > 0 ? magnitude ** -whitening : 0;
    power += magnitude * level;
    product[i] = re * level;
    product[i + 1] = im * level;
  }
  if (power === 0) return null;
  const correlation = transform.backward();
  const at = (delay: number) => correlation[(delay + size) % size]!;
  let best = 0;
  for (let i = 0; i < size; i++) if (correlation[i]! > at(best)) best = i;
  const delay = best > size / 2 ? best - size : best;
  let second = 0;
  const near = round(apartSeconds * rate);
  for (let i = 0; i < size; i++) {
    const distance = abs(i - best);
    if (min(distance, size - distance) > near && correlation[i]! > second) second = correlation[i]!;
  }
  const bend = at(delay - 1) - 2 * at(delay) + at(delay + 1);
  const fine = bend < 0 ? (0.5 * (at(delay - 1) - at(delay + 1))) / bend : 0;
  return {
    seconds: (delay + max(-0.5, min(0.5, fine))) / rate,
    confidence: max(0, min(1, 2 * (1 - second / at(delay)))),
  };
}
