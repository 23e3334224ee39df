/** How alike two waveforms are. */
import { realFft } from "../dsp/fft";
import type { Fraction, Hertz, Seconds } from "../units";
import type { StereoSamples } from "./strokes";

const { abs, max, min, round, sqrt } = Math;

const furthestApart: Seconds = 0.02;

/** How one waveform lies to another where they are most alike. */
export interface WaveformFit {
  /** Correlation there, −1 to 1. */
  correlation: number;
  /** Samples by which the second comes later than the first there. */
  lag: number;
}

const size = 65536;

/**
 * Correlation of two hits (mono) moved against each other.
 *
 * @returns the highest of all, and the one that is strongest whatever its sign.
 */
export function waveformFit(
  a: StereoSamples,
  b: StereoSamples,
  rate: Hertz,
  reach: Seconds = furthestApart,
): { highest: WaveformFit; strongest: WaveformFit } {
  const length = min(a[0].length, b[0].length, size / 2);
  const transform = realFft(size);
  const load = ([left, right]: StereoSamples): number => {
    const input = transform.input();
    input.fill(0);
    let power = 0;
    for (let i = 0; i < min(length, left.length); i++) {
      const x = left[i]! + right[i]!;
      input[i] = x;
      power += x * x;
    }
    return power;
  };
  const none = { correlation: 0, lag: 0 };
  const first = load(a);
  const own = Float32Array.from(transform.forward());
  const second = load(b);
  if (first <= 0 || second <= 0) return { highest: none, strongest: none };
  const other = transform.forward();
  for (let bin = 1; bin < size / 2; bin++) {
    const [x, y, u, v] = [own[2 * bin]!, own[2 * bin + 1]!, other[2 * bin]!, other[2 * bin + 1]!];
    other[2 * bin] = x * u + y * v;
    other[2 * bin + 1] = y * u - x * v;
  }
  other[0] = 0;
  other[1] = 0;
  const correlation = transform.backward();
  const most = round(reach * rate);
  let highest: WaveformFit = none;
  let strongest: WaveformFit = none;
  for (let place = -most; place <= most; place++) {
    const value = correlation[(place + size) % size]! / size / sqrt(first * second);
    // What correlates at a place is the first, later by it.
    const fit = { correlation: max(-1, min(1, value)), lag: -place };
    if (fit.correlation > highest.correlation) highest = fit;
    if (abs(fit.correlation) > abs(strongest.correlation)) strongest = fit;
  }
  return { highest, strongest };
}

/** Highest correlation of two hits (mono) moved against each other by at most 20 ms. */
export const waveformLikeness = (a: StereoSamples, b: StereoSamples, rate: Hertz): Fraction =>
  waveformFit(a, b, rate).highest.correlation;
