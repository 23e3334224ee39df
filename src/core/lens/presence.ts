/** Where the parts of a track play, bar by bar, and whether those of a version play in the same bars. */
import type { CoverageSpan } from "../align/coverage";
import type { BarRange } from "../grid/grid";
import { quantile } from "../median";
import type { StereoSamples } from "../hits/strokes";
import { powerToDecibels, type Decibels, type Fraction, type Hertz, type Seconds } from "../units";

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

/** Levels of a part in the bars of both sides, from bar 1 on. */
export interface PartBars {
  reference: Decibels[];
  version: Decibels[];
}

export interface ComparedPresence {
  /** Of the bars in which either plays, those in which both do; null where neither plays or it cannot be told. */
  share: Fraction | null;
  /** Bars of the reference in which only it plays, or only the version. */
  missing: number[];
  extra: number[];
}

/**
 * @param spans bars that answer each other.
 * @param chosen bars of the reference that count; null for all.
 * @param freeDb how far the part stands free on the side where it does less; null where it is not there.
 */
export function comparePresence(
  { reference, version }: PartBars,
  spans: readonly CoverageSpan[],
  chosen: BarRange | null = null,
  freeDb: Decibels | null = Infinity,
): ComparedPresence {
  if (!isPresenceTold(freeDb)) return { share: null, missing: [], extra: [] };
  const [ours, theirs] = [playingBars(reference, freeDb!), playingBars(version, freeDb!)];
  const missing: number[] = [];
  const extra: number[] = [];
  let both = 0;
  for (const { referenceFirst, versionFirst, bars } of spans) {
    for (let i = 0; i < bars; i++) {
      const bar = referenceFirst + i;
      if (chosen && (bar < chosen.first || bar > chosen.last)) continue;
      const [own, other] = [ours[bar - 1], theirs[versionFirst + i - 1]];
      if (own && other) both++;
      else if (own) missing.push(bar);
      else if (other) extra.push(bar);
    }
  }
  const all = both + missing.length + extra.length;
  return { share: all > 0 ? both / all : null, missing, extra };
}
