/**
 * Where the beats fall. A path through the onset strength at the tempo found (dynamic programming
 * after Ellis 2007, "Beat tracking by dynamic programming"), then, where the residuals allow, one
 * exact tempo with one anchor in its place, as produced music has it.
 */
import type { Bpm, Seconds } from "../units";
import { peakNear, valueAt, withoutRunningMean } from "./curve";
import type { OnsetRanges } from "./onset";
import { fitLine } from "./steadyLine";

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

/** How beats are to be laid: on one exact tempo, along the player, or as the residuals say. */
export type BeatManner = "steady" | "following" | "either";

/** How strongly the path keeps to the tempo; large values follow a player less. */
const tightness = 1000;
/** A constant grid is right when nearly all beats of the free path lie this near to it. */
const steadyReach: Seconds = 0.03;
const steadyShare = 0.85;
/** How far an anchor is looked for around where the path has it. */
const anchorReach: Seconds = 0.02;

/** One curve for all ranges, compressed so that a few very strong hits do not decide alone. */
export function combinedStrength({ framesPerSecond, ranges }: OnsetRanges): Float32Array {
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

/** Strength that lies on the beats of one period and phase, in frames. */
function gathered(strength: Float32Array, period: number, phase: number): number {
  let value = 0;
  for (let at = phase; at < strength.length - 1; at += period) if (at >= 0) value += valueAt(strength, at);
  return value;
}

/** The phase, in frames, at which a comb of one period gathers the most strength. */
function bestPhase(strength: Float32Array, period: number, near: number, reach: number): number {
  let best = near;
  let bestValue = -1;
  for (let phase = near - reach; phase <= near + reach; phase += 0.1) {
    const value = gathered(strength, period, phase);
    if (value > bestValue) {
      bestValue = value;
      best = phase;
    }
  }
  return best;
}

/** Beats within which a path goes over to others, and on either side of which it must keep its pace. */
const jumpBeats = 8;
const evenBeats = 12;
/** By so much of a beat at least it goes over, */
const leastJump = 0.2;
/** and by no more than that it may stray from even beats beside. */
const mostStray = 0.06;
/** So much of what the shorter side falls on must lie on the beats of the longer one as well. */
const leastThere = 0.6;

/**
 * In some passages, before the drums come in above all, a path may run on sixteenths off the beat: where it
 * goes over to the beats within a few of them, the shorter side is laid on the beats of the longer one. Where
 * little falls on those the track itself jumps, and the path is left.
 */
function withoutJumps(path: readonly number[], strength: Float32Array, period: number): number[] {
  let own = [...path];
  /** Mean length of the beats between two, and how far the middle of them lies off the line, in periods. */
  const paceOf = (from: number, to: number) => {
    const pace = (own[to]! - own[from]!) / (to - from);
    const middle = (from + to) >> 1;
    return { pace, stray: abs(own[middle]! - own[from]! - pace * (middle - from)) / period };
  };
  for (let i = evenBeats; i + jumpBeats + evenBeats < own.length; i++) {
    const next = i + jumpBeats;
    const [before, after] = [paceOf(i - evenBeats, i), paceOf(next, next + evenBeats)];
    const jump = (own[next]! - own[i]! - (jumpBeats * (before.pace + after.pace)) / 2) / period;
    if (abs(jump) < leastJump || max(before.stray, after.stray) > mostStray) continue;
    const isFirst = i + next < own.length;
    const moved = own.map((frame, k) => {
      if (isFirst) return k <= i ? round(frame + jump * period) : frame;
      return k >= next ? round(frame - jump * period) : frame;
    });
    for (let k = i + 1; k < next; k++)
      moved[k] = round(moved[i]! + ((k - i) / jumpBeats) * (moved[next]! - moved[i]!));
    const [from, to] = isFirst ? [0, next] : [i + 1, own.length];
    const gathers = (frames: readonly number[]) =>
      frames.slice(from, to).reduce((sum, frame) => sum + peakNear(strength, frame, 2), 0);
    if (gathers(moved) >= leastThere * gathers(own)) own = moved;
  }
  return own;
}

/** Median of numbers; 0 of none. */
const median = (numbers: readonly number[]): number =>
  [...numbers].sort((a, b) => a - b)[floor(numbers.length / 2)] ?? 0;

/**
 * Beats at a tempo that is known.
 *
 * @param bpm good to about 0.1 %.
 * @param from, to first and last sound; beats outside are left out.
 */
export function trackBeats(
  onsets: OnsetRanges,
  bpm: Bpm,
  from: Seconds,
  to: Seconds,
  manner: BeatManner = "either",
): BeatPath {
  const { framesPerSecond } = onsets;
  const strength = combinedStrength(onsets);
  const period = (60 / bpm) * framesPerSecond;
  const path = withoutJumps(freePath(strength, period), strength, period);
  // Where the free path stands against a grid of the exact period: circular, so that no beat need be
  // counted. In some passages it may run on the off-beats; on half the period that does not matter.
  const shareNear = (anchor: number, grid: number) =>
    path.filter((frame) => abs(wrap(frame - anchor, grid)) < steadyReach * framesPerSecond).length /
    Math.max(1, path.length);
  const onBeats = circularMean(path, period);
  const onHalves = circularMean(path, period / 2);
  const runsOnBeats = shareNear(onBeats, period) >= steadyShare;
  const steady =
    manner === "steady" ||
    (manner === "either" && (runsOnBeats || shareNear(onHalves, period / 2) >= steadyShare));
  if (steady) {
    const reach = anchorReach * framesPerSecond;
    const anchors = runsOnBeats ? [onBeats] : [onHalves, onHalves + period / 2];
    const phase = anchors
      .map((anchor) => bestPhase(strength, period, anchor, reach))
      .reduce((a, b) => (gathered(strength, period, b) > gathered(strength, period, a) ? b : a));
    const line = fitLine(strength, framesPerSecond, { period, anchor: phase }, manner !== "steady");
    return {
      beats: beatsOnLine(line.period / framesPerSecond, line.anchor / framesPerSecond, from, to),
      steady,
      bpm: (60 * framesPerSecond) / line.period,
    };
  }
  const beats = smoothed(path)
    .map((frame) => frame / framesPerSecond)
    .filter((time) => inside(time, from, to));
  const gaps = beats.slice(1).map((time, i) => time - beats[i]!);
  return { beats, steady, bpm: gaps.length === 0 ? bpm : 60 / median(gaps) };
}

/** Beats may lie this much before the first sound: an attack is heard after it has begun. */
const before: Seconds = 0.07;

const inside = (time: Seconds, from: Seconds, to: Seconds): boolean => time >= from - before && time <= to;

/** Beats of an exact period through an anchor, between first and last sound. */
export function beatsOnLine(period: Seconds, anchor: Seconds, from: Seconds, to: Seconds): Seconds[] {
  const first = Math.ceil((from - before - anchor) / period);
  const last = floor((to - anchor) / period);
  return Array.from({ length: max(0, last - first + 1) }, (_, k) => anchor + (first + k) * period);
}

/**
 * Beats that lie on one line, laid anew where the onsets near them say: after a shift by a share of
 * a beat the anchor may be some milliseconds off.
 */
export function settled(
  onsets: OnsetRanges,
  beats: readonly Seconds[],
  bpm: Bpm,
  from: Seconds,
  to: Seconds,
): { beats: Seconds[]; bpm: Bpm } {
  const { framesPerSecond } = onsets;
  const period = (60 / bpm) * framesPerSecond;
  const strength = combinedStrength(onsets);
  const near = beats[0]! * framesPerSecond;
  const phase = bestPhase(strength, period, near, 1.5 * anchorReach * framesPerSecond);
  const line = fitLine(strength, framesPerSecond, { period, anchor: phase }, true);
  return {
    beats: beatsOnLine(line.period / framesPerSecond, line.anchor / framesPerSecond, from, to),
    bpm: (60 * framesPerSecond) / line.period,
  };
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
