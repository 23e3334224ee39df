/** The grid of a track: every place in it as bar and beat, and back. */
import type { Bpm, Seconds } from "../units";

const { floor, max, min } = Math;

/** Beats in seconds and how they are counted. Always at least two beats. */
export interface Grid {
  /** Seconds, rising. */
  beats: readonly Seconds[];
  /** Which of `beats` is beat 1 of bar 1. */
  barOne: number;
  /** 2 stands for 6/8. */
  beatsPerBar: number;
  /** Whether all beats lie on one exact tempo. */
  steady: boolean;
  /** Exact where steady, else the median. */
  bpm: Bpm;
}

/** A place in music: bar 1 beat 1 is where counting begins; bar 0 is the bar before it. */
export interface Position {
  bar: number;
  /** 1 ≤ beat < beats a bar + 1, with the share of the beat. */
  beat: number;
}

/** Whole bars, both ends included. */
export interface BarRange {
  first: number;
  last: number;
}

/** Number of the last beat at or before a time, by bisection; −1 before the first. */
function placeOf(beats: readonly Seconds[], seconds: Seconds): number {
  let low = 0;
  let high = beats.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (beats[middle]! <= seconds) low = middle + 1;
    else high = middle;
  }
  return low - 1;
}

/** Beats from bar 1 beat 1 to a time, with the share of the beat; beyond the ends the tempo goes on. */
export function beatAt({ beats, barOne }: Grid, seconds: Seconds): number {
  const place = max(0, min(beats.length - 2, placeOf(beats, seconds)));
  const start = beats[place]!;
  return place - barOne + (seconds - start) / (beats[place + 1]! - start);
}

/** The time of a number of beats after bar 1 beat 1; the inverse of `beatAt`. */
export function secondsAt({ beats, barOne }: Grid, beat: number): Seconds {
  const at = beat + barOne;
  const place = max(0, min(beats.length - 2, floor(at)));
  const start = beats[place]!;
  return start + (at - place) * (beats[place + 1]! - start);
}

/** Bar and beat of a time. */
export function positionAt(grid: Grid, seconds: Seconds): Position {
  // Rounding must not show bar 16 beat 4.999 where bar 17 begins.
  const beat = beatAt(grid, seconds) + 1e-6;
  const bar = floor(beat / grid.beatsPerBar);
  return { bar: bar + 1, beat: beat - bar * grid.beatsPerBar + 1 };
}

/** When a bar begins. */
export const barStart = (grid: Grid, bar: number): Seconds => secondsAt(grid, (bar - 1) * grid.beatsPerBar);

/** The bars that have beats: the first may be bar 0 or before where music precedes bar 1. */
export function barsOf({ beats, barOne, beatsPerBar }: Grid): BarRange {
  return {
    first: 1 - Math.ceil(barOne / beatsPerBar),
    last: floor((beats.length - 1 - barOne) / beatsPerBar) + 1,
  };
}

/** Whether a whole bar lies on beats of the grid. */
export const hasBars = (grid: Grid): boolean => {
  const { first, last } = barsOf(grid);
  return last > first || (last === first && grid.barOne === 0);
};

/** Seconds that whole bars take up. */
export const spanOfBars = (grid: Grid, { first, last }: BarRange): { from: Seconds; to: Seconds } => ({
  from: barStart(grid, first),
  to: barStart(grid, last + 1),
});

/** The bars that a span of time reaches into by more than a tenth of a bar at either end. */
export function barsIn(grid: Grid, from: Seconds, to: Seconds): BarRange {
  const barAt = (seconds: Seconds) => beatAt(grid, seconds) / grid.beatsPerBar;
  const first = floor(barAt(from) + 0.1) + 1;
  return { first, last: max(first, Math.ceil(barAt(to) - 0.1)) };
}

/** Where bars begin, from the first bar that has beats on. */
export function downbeatsOf({ beats, barOne, beatsPerBar }: Grid): Seconds[] {
  const first = barOne % beatsPerBar;
  return beats.filter((_, i) => i % beatsPerBar === first);
}

/** The metre as it is written. */
export const metreName = (beatsPerBar: number): string => (beatsPerBar === 2 ? "6/8" : `${beatsPerBar}/4`);
