/** Where the parts of a track play, bar by bar. */
import { quantile } from "../median";
import type { StereoSamples } from "../hits/strokes";
import { powerToDecibels, type Decibels, type Hertz, type Seconds } from "../units";

const { ceil, floor, max, min, round } = Math;

export const levelsPerSecond = 10;

/** Mean square of left and right, ten times a second. */
export function partLevels([left, right]: StereoSamples, rate: Hertz): Float32Array {
  const size = rate / levelsPerSecond;
  const count = ceil(left.length / size);
  return Float32Array.from({ length: count }, (_, k) => {
    const from = round(k * size);
    const to = min(left.length, round((k + 1) * size));
    let sum = 0;
    for (let i = from; i < to; i++) sum += left[i]! * left[i]! + right[i]! * right[i]!;
    return sum / (2 * max(1, to - from));
  });
}

/** As silent as anything is taken to be. */
export const silence: Decibels = -120;

/**
 * Levels of the bars that begin and end at some times, to a tenth of a decibel.
 *
 * @param levels ten a second.
 * @param starts of all bars in order, and where the last ends.
 */
export function barLevels(levels: Float32Array, starts: readonly Seconds[]): Decibels[] {
  return starts.slice(1).map((end, i) => {
    const from = max(0, min(levels.length, round(starts[i]! * levelsPerSecond)));
    const to = max(from, min(levels.length, floor(end * levelsPerSecond)));
    let sum = 0;
    for (let k = from; k < to; k++) sum += levels[k]!;
    const value = to > from ? powerToDecibels(sum / (to - from)) : silence;
    return max(silence, round(10 * value) / 10);
  });
}

/** A part plays in bars that are within this of its loud ones; below lies what others left in it. */
const playsWithin: Decibels = 18;
/** Nor does it play below this. */
const quietest: Decibels = -65;

/** Where a part plays is not told where it hardly stands free. */
const leastFree: Decibels = -3;
/** Below this single bars that differ from both beside them are taken for mishearings. */
const surelyFree: Decibels = 3;

/** Whether it can be told where a part plays that stands free by so much on the side where it does less. */
export const isPresenceTold = (freeDb: Decibels | null): boolean => freeDb !== null && freeDb >= leastFree;

/**
 * In which bars a part plays.
 *
 * @param freeDb how far it stands free.
 */
export function playingBars(levels: readonly Decibels[], freeDb: Decibels = Infinity): boolean[] {
  const sounding = levels.filter((level) => level > quietest);
  if (sounding.length === 0) return levels.map(() => false);
  const least = max(quietest, quantile(sounding, 0.8) - playsWithin);
  const plays = levels.map((level) => level >= least);
  if (freeDb >= surelyFree) return plays;
  return plays.map((own, i) => {
    const [before, after] = [plays[i - 1] ?? own, plays[i + 1] ?? own];
    return before === after ? before : own;
  });
}

/** One figure of a part for each bar of both sides, from bar 1 on. */
export interface PartBars {
  reference: Decibels[];
  version: Decibels[];
}
