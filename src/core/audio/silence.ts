/** Where a file begins and ends to sound. */
import type { Seconds } from "../units";

const { abs, max, min, round, sqrt } = Math;

/** Below this a sample counts as silence in a clean file: −60 dBFS. */
const quietest = 0.001;
/** Noise lies this far below the level of the whole: −16 dB at most. */
const noiseShare = 0.15;
/** Share of neighbouring samples that differ in sign: near a half in hiss, far less in music. */
const noiseCrossings = 0.25;
/** Largest against smallest level of the quarters of even noise. */
const evenSpread = 1.35;
/** Music stands out of a noise floor by this factor of its effective level. */
const aboveNoise = 5;
const headSeconds = 0.04;
/** For so many further windows of that length a noise floor goes on at least this loud: 1 s. */
const goesOnWindows = 25;
const goesOnShare = 0.75;

type Stereo = readonly [Float32Array, Float32Array];

function effective([left, right]: Stereo, from: number, to: number): number {
  let sum = 0;
  for (let i = from; i < to; i++) sum += left[i]! * left[i]! + right[i]! * right[i]!;
  return sqrt(sum / max(1, 2 * (to - from)));
}

function crossings(samples: Float32Array, from: number, to: number): number {
  let count = 0;
  for (let i = from + 1; i < to; i++) if (samples[i]! < 0 !== samples[i - 1]! < 0) count++;
  return count / max(1, to - from);
}

/** Whether the level stays the same from quarter to quarter: hiss does, a hat or a note does not. */
function isEven(channels: Stereo, from: number, to: number): boolean {
  const quarter = (to - from) >> 2;
  const levels = [0, 1, 2, 3].map((k) => effective(channels, from + k * quarter, from + (k + 1) * quarter));
  return max(...levels) < evenSpread * min(...levels);
}

/** Whether it never grows quieter than its head for some windows: hiss does not, a hat dies away. */
function goesOn(channels: Stereo, from: number, to: number, towards: 1 | -1): boolean {
  const least = goesOnShare * effective(channels, from, to);
  const length = to - from;
  for (let k = 1; k <= goesOnWindows; k++) {
    const start = from + towards * k * length;
    if (start < 0 || start + length > channels[0].length) return true;
    if (effective(channels, start, start + length) < least) return false;
  }
  return true;
}

/** Amplitude from which a sample is music: above −60 dBFS, and above a noise floor if there is one. */
function threshold(channels: Stereo, from: number, to: number, towards: 1 | -1): number {
  const floor = effective(channels, from, to);
  const whole = effective(channels, 0, channels[0].length);
  const isNoise =
    floor < noiseShare * whole &&
    crossings(channels[0], from, to) > noiseCrossings &&
    isEven(channels, from, to) &&
    goesOn(channels, from, to, towards);
  return isNoise ? max(quietest, aboveNoise * floor) : quietest;
}

/** Seconds to the first sample that sounds; null in silence. */
export function firstSoundOf(channels: Stereo, sampleRate: number): Seconds | null {
  const [left, right] = channels;
  const least = threshold(channels, 0, min(left.length, round(headSeconds * sampleRate)), 1);
  for (let i = 0; i < left.length; i++) {
    if (abs(left[i]!) > least || abs(right[i]!) > least) return i / sampleRate;
  }
  return null;
}

/** Seconds to the last sample that sounds; 0 in silence. */
export function lastSoundOf(channels: Stereo, sampleRate: number): Seconds {
  const [left, right] = channels;
  const least = threshold(channels, max(0, left.length - round(headSeconds * sampleRate)), left.length, -1);
  for (let i = left.length - 1; i >= 0; i--) {
    if (abs(left[i]!) > least || abs(right[i]!) > least) return i / sampleRate;
  }
  return 0;
}
