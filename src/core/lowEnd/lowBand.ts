/** The low end as samples of its own: mid and side below about 250 Hz at some 600 Hz, small enough to be kept. */
import { filtered, lowPassTaps } from "../dsp/vector/filter";
import type { Hertz } from "../units";

const { floor, max, min, round } = Math;

export interface LowBand {
  rate: Hertz;
  /** (left + right) / 2 and (left − right) / 2; sample i is at i / rate seconds. */
  mid: Float32Array;
  side: Float32Array;
}

/** The same with kicks and the rest of the mid apart. */
export interface LowEnd {
  rate: Hertz;
  kick: Float32Array;
  rest: Float32Array;
  side: Float32Array;
}

/** Rate between the two steps, and how far the second goes down. */
const between: Hertz = 4800;
const secondFactor = 8;

/** The low end with what its pitch is read from. */
export interface LowBandInFull extends LowBand {
  /** Mid below about 900 Hz, at `fullRate`. */
  full: Float32Array;
  fullRate: Hertz;
}

/** @param channels left and right, same length; the same array twice for mono. */
export function lowBand(
  [left, right]: readonly [Float32Array, Float32Array],
  sampleRate: Hertz,
): LowBandInFull {
  const factor = max(1, floor(sampleRate / between));
  const middleRate = sampleRate / factor;
  const rate = middleRate / secondFactor;
  // First only what would fold below 900 Hz is taken away, so its slope may be wide.
  const kept = 900;
  const first = lowPassTaps(middleRate / 2 / sampleRate, (middleRate - 2 * kept) / sampleRate);
  const full = (samples: Float32Array) =>
    factor > 1 ? filtered(samples, first, factor) : Float32Array.from(samples);
  const low = (samples: Float32Array) => toLowRate(samples, { fullRate: middleRate, rate });
  const a = full(left);
  if (left === right) {
    const mid = low(a);
    return { rate, mid, side: new Float32Array(mid.length), full: a, fullRate: middleRate };
  }
  const b = full(right);
  // Mid and side in place of left and right.
  const side = new Float32Array(a.length);
  for (let i = 0; i < a.length; i++) {
    side[i] = (a[i]! - b[i]!) / 2;
    a[i] = (a[i]! + b[i]!) / 2;
  }
  return { rate, mid: low(a), side: low(side), full: a, fullRate: middleRate };
}

/** The band at its lower rate from that at the full one. */
export const toLowRate = (full: Float32Array, { fullRate, rate }: Pick<LowBandInFull, "fullRate" | "rate">) =>
  filtered(full, lowPassTaps((0.42 * rate) / fullRate, (0.24 * rate) / fullRate), secondFactor);

/** The same below a cut-off, in linear phase. */
export function belowCutOff(samples: Float32Array, rate: Hertz, cutOff: Hertz): Float32Array {
  return filtered(samples, lowPassTaps(cutOff / rate, min(0.45, (0.4 * cutOff) / rate)));
}

/** Frames a second of the envelope of the low end. */
export const lowFramesPerSecond = 200;

/**
 * Power over about a period of the lowest notes, every 5 ms.
 *
 * @returns value i is of the 20 ms around i / lowFramesPerSecond.
 */
export function lowEnvelope(samples: Float32Array, rate: Hertz): Float32Array {
  const frames = floor((samples.length * lowFramesPerSecond) / rate);
  const half = max(1, round(0.01 * rate));
  const sums = new Float64Array(samples.length + 1);
  for (let i = 0; i < samples.length; i++) sums[i + 1] = sums[i]! + samples[i]! * samples[i]!;
  return Float32Array.from({ length: frames }, (_, frame) => {
    const middle = round((frame * rate) / lowFramesPerSecond);
    const [first, end] = [max(0, middle - half), min(samples.length, middle + half + 1)];
    return max(0, sums[end]! - sums[first]!) / max(1, end - first);
  });
}
