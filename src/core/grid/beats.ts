/**
 * Where the beats fall. A path through the onset strength at the tempo found (dynamic programming
 * after Ellis 2007, "Beat tracking by dynamic programming"), then, where the residuals allow, one
 * exact tempo with one anchor in its place, as produced music has it.
 */
import type { Bpm, Seconds } from "../units";
import { valueAt, withoutRunningMean } from "./autocorrelation";
import type { OnsetStrength } from "./onset";

const { abs, floor, log, max, min, round, sqrt } = Math;

/** Beats of a track, before it is known which of them begin bars. */
export interface BeatPath {
  /** Seconds, rising. */
  beats: Seconds[];
  /** Whether all beats lie on one exact tempo. */
  steady: boolean;
  /** Mean tempo of the beats. */
  bpm: Bpm;
}

/** How strongly the path keeps to the tempo; large values follow a player less. */
const tightness = 1000;
/** A constant grid is right when nearly all beats of the free path lie this near to it. */
const steadyReach: Seconds = 0.03;
const steadyShare = 0.85;

/**
 * How much earlier an onset lies than the frame in which its strength peaks: half the frame's
 * length less what the two-frame difference gives back. Measured on clicks, see the test.
 */
export const onsetLag: Seconds = 0;

/** One curve for all ranges, compressed so that a few very strong hits do not decide alone. */
export function combinedStrength({ framesPerSecond, ranges }: OnsetStrength): Float32Array {
  const combined = new Float32Array(ranges[0]!.length);
  for (const curve of ranges) {
    const flat = withoutRunningMean(curve, framesPerSecond);
    for (let i = 0; i < combined.length; i++) combined[i]! += sqrt(flat[i]!);
  }
  return combined;
}

/** Frames of the best path of beats about one period apart. */
function freePath(strength: Float32Array, period: number): number[] {
  const length = strength.length;
  const score = new Float32Array(length);
  const previous = new Int32Array(length).fill(-1);
  const shortest = max(1, floor(period * 0.6));
  const longest = round(period * 1.6);
  const penalty = new Float32Array(longest + 1);
  for (let gap = shortest; gap <= longest; gap++) penalty[gap] = tightness * log(gap / period) ** 2;
  let energy = 0;
  for (let i = 0; i < length; i++) energy += strength[i]! ** 2 / length;
  const scale = sqrt(energy);
  for (let i = 0; i < length; i++) {
    let best = 0;
    for (let gap = shortest; gap <= longest && gap <= i; gap++) {
      const value = score[i - gap]! - penalty[gap]! * scale;
      if (value > best) {
        best = value;
        previous[i] = i - gap;
      }
    }
    score[i] = strength[i]! + best;
  }
  let at = length - 1;
  for (let i = max(0, length - longest); i < length; i++) if (score[i]! > score[at]!) at = i;
  const path: number[] = [];
  for (; at >= 0; at = previous[at]!) path.push(at);
  return path.reverse();
}

/** The phase, in frames, at which a comb of one period gathers the most strength. */
function bestPhase(strength: Float32Array, period: number, near: number, reach: number): number {
  let best = near;
  let bestValue = -1;
  for (let phase = near - reach; phase <= near + reach; phase += 0.1) {
    let value = 0;
    for (let at = phase; at < strength.length - 1; at += period) if (at >= 0) value += valueAt(strength, at);
    if (value > bestValue) {
      bestValue = value;
      best = phase;
    }
  }
  return best;
}

/** Median of numbers; 0 of none. */
const median = (numbers: readonly number[]): number =>
  [...numbers].sort((a, b) => a - b)[floor(numbers.length / 2)] ?? 0;

/**
 * Beats at a tempo that is known.
 *
 * @param bpm exact where the track is steady.
 * @param from, to first and last sound; beats outside are left out.
 */
export function trackBeats(onsets: OnsetStrength, bpm: Bpm, from: Seconds, to: Seconds): BeatPath {
  const { framesPerSecond } = onsets;
  const strength = combinedStrength(onsets);
  const period = (60 / bpm) * framesPerSecond;
  const path = freePath(strength, period);
  // Where the free path stands against a grid of the exact period: circular, so that no beat need be counted.
  const anchorAngle = circularMean(path, period);
  const distances = path.map((frame) => abs(wrap(frame - anchorAngle, period)));
  const close = distances.filter((d) => d < steadyReach * framesPerSecond).length;
  const steady = path.length > 0 && close >= steadyShare * path.length;
  let frames: number[];
  if (steady) {
    const phase = bestPhase(strength, period, anchorAngle, 0.02 * framesPerSecond);
    const first = phase - period * floor(phase / period);
    frames = Array.from(
      { length: max(0, floor((strength.length - first) / period) + 1) },
      (_, k) => first + k * period,
    );
  } else frames = smoothed(path);
  const beats = frames
    .map((frame) => frame / framesPerSecond - onsetLag)
    .filter((time) => time >= from - 0.07 && time <= to);
  const gaps = beats.slice(1).map((time, i) => time - beats[i]!);
  return { beats, steady, bpm: steady || gaps.length === 0 ? bpm : 60 / median(gaps) };
}

/** The difference brought into −period/2 … period/2. */
const wrap = (difference: number, period: number): number => difference - period * round(difference / period);

function circularMean(frames: readonly number[], period: number): number {
  let x = 0;
  let y = 0;
  for (const frame of frames) {
    x += Math.cos((2 * Math.PI * frame) / period);
    y += Math.sin((2 * Math.PI * frame) / period);
  }
  return ((Math.atan2(y, x) / (2 * Math.PI)) * period + period) % period;
}

/** Each beat drawn towards the line through its neighbours, so that frames of 10 ms do not show. */
function smoothed(path: readonly number[]): number[] {
  const reach = 3;
  return path.map((frame, i) => {
    const first = max(0, i - reach);
    const last = min(path.length - 1, i + reach);
    const count = last - first + 1;
    if (count < 3) return frame;
    let meanX = 0;
    let meanY = 0;
    for (let k = first; k <= last; k++) {
      meanX += k / count;
      meanY += path[k]! / count;
    }
    let covariance = 0;
    let variance = 0;
    for (let k = first; k <= last; k++) {
      covariance += (k - meanX) * (path[k]! - meanY);
      variance += (k - meanX) ** 2;
    }
    return meanY + (covariance / variance) * (i - meanX);
  });
}
