/** Loops that are offered for a study: how long they are, and what would make them fit its reference. */
import { barDrums, drumSimilarity } from "../align/barDrums";
import { plainReading, readAnew } from "../align/coverage";
import type { DrumHit } from "../drums/hits";
import { barsOf, beatAt, secondsAt, type BarRange, type Grid } from "../grid/grid";
import { majorOrMinor, transposed, type Chord } from "../harmony/chords";
import { shiftInto, type Key, type KeyShift } from "../harmony/keys";
import { chordAt, type PlacedChord } from "../harmony/harmonyEstimate";
import type { Bpm, Seconds } from "../units";

const { abs, log2, max, min, round } = Math;

/** What is known of a loop, or of the track that it is to sit in. */
export interface LoopSide {
  durationSeconds: Seconds;
  grid: Grid;
  hits: readonly DrumHit[];
  key: Key | null;
  chords: readonly PlacedChord[];
}

export interface LoopFit {
  /** Counted at the beat of the reference, also where the loop was heard at half or double. */
  bars: number;
  bpm: Bpm;
  /** Whether it is cut to whole bars: then its tempo is exact. */
  isCut: boolean;
  /** Times as fast to be in the tempo of the reference. */
  stretch: number;
  /** What brings it into the key of the reference; null where either has none. */
  shift: KeyShift | null;
  /** Where its drums come nearest to those of the reference, and how near, 0–100; null without drums. */
  drums: { score: number; at: BarRange } | null;
  /** The same of its chords, once shifted. */
  chords: { score: number; at: BarRange } | null;
}

/** A loop that is cut to bars is so to this share of a beat. */
const cutWithin = 0.12;
/** Longer files are tracks. */
const mostBars = 32;
/** Chords of a beat are read this often. */
const chordsPerBeat = 2;

/** The grid of a loop that is cut to whole bars, from its first sample to its last; null of one that is not. */
function cutGrid({ grid, durationSeconds }: LoopSide): Grid | null {
  const beats = (durationSeconds * grid.bpm) / 60;
  const bars = max(1, round(beats / grid.beatsPerBar));
  const whole = bars * grid.beatsPerBar;
  if (abs(beats - whole) > cutWithin * grid.beatsPerBar) return null;
  const beat = durationSeconds / whole;
  return {
    ...grid,
    beats: Array.from({ length: whole + 1 }, (_, i) => i * beat),
    barOne: 0,
    bpm: 60 / beat,
    steady: true,
  };
}

/**
 * The best place for rows of one table among those of another: the mean of what they have in common as
 * they go on side by side, the loop going round.
 */
function bestRun(
  rows: number,
  all: number,
  first: number,
  alike: (row: number, other: number) => number | null,
): { score: number; at: BarRange } | null {
  let best: { score: number; at: BarRange } | null = null;
  const length = min(rows, all);
  for (let turn = 0; turn < rows; turn++) {
    for (let start = 0; start + length <= all; start++) {
      let sum = 0;
      let count = 0;
      for (let i = 0; i < length; i++) {
        const own = alike((turn + i) % rows, start + i);
        if (own === null) continue;
        sum += own;
        count++;
      }
      if (count < length / 2) continue;
      const score = (100 * sum) / count;
      // A loop begins with its own beginning unless another place is plainly nearer.
      if (!best || score > best.score + (turn > 0 ? 3 : 0.01))
        best = { score, at: { first: first + start, last: first + start + length - 1 } };
    }
  }
  return best;
}

/** The chord that sounds at each half beat of some bars. */
function chordRows(chords: readonly PlacedChord[], { first, last }: BarRange, beatsPerBar: number) {
  return Array.from({ length: last - first + 1 }, (_, bar) =>
    Array.from({ length: beatsPerBar * chordsPerBeat }, (__, step) =>
      chordAt(chords, (first - 1 + bar) * beatsPerBar + (step + 0.5) / chordsPerBeat),
    ),
  );
}

/** Chords that were placed on one grid, placed on another. */
const placedOn = (chords: readonly PlacedChord[], from: Grid, to: Grid): PlacedChord[] =>
  chords.map((own) => ({
    ...own,
    startBeat: beatAt(to, secondsAt(from, own.startBeat)),
    endBeat: beatAt(to, secondsAt(from, own.endBeat)),
  }));

/** Share of a bar in which the same chord sounds, by root and third; null where neither has one. */
function sameChords(
  a: readonly (Chord | null)[],
  b: readonly (Chord | null)[],
  shift: number,
): number | null {
  let same = 0;
  let count = 0;
  for (let i = 0; i < a.length; i++) {
    const [own, other] = [majorOrMinor(transposed(a[i]!, shift)), majorOrMinor(b[i] ?? null)];
    if (!own || !other) {
      if (own || other) count++;
      continue;
    }
    count++;
    if (own.root === other.root && own.minor === other.minor) same++;
  }
  return count > 0 ? same / count : null;
}

/** @returns null for what is no loop: a track, or less than a bar. */
export function loopFit(loop: LoopSide, reference: LoopSide): LoopFit | null {
  const cut = cutGrid(loop);
  const heard = cut ?? loop.grid;
  // A tempo that is read at half or double has bars of another length: they are counted anew.
  const octaves = round(log2(reference.grid.bpm / heard.bpm));
  const grid = readAnew(heard, { ...plainReading, factor: 2 ** octaves }, heard.beatsPerBar);
  const range = cut
    ? { first: 1, last: max(1, round((grid.beats.length - 1) / grid.beatsPerBar)) }
    : barsOf(grid);
  const bars = range.last - range.first + 1;
  if (bars < 1 || bars > mostBars) return null;
  const all = barsOf(reference.grid);
  const count = all.last - all.first + 1;

  const own = barDrums(loop.hits, grid, range.first, bars);
  const others = barDrums(reference.hits, reference.grid, all.first, count);
  const { similarity, says } = drumSimilarity(own, others);
  const isStruck = loop.hits.length >= 2 * bars;
  const drums = isStruck
    ? bestRun(bars, count, all.first, (row, other) =>
        says[row * count + other]! > 0 ? similarity[row * count + other]! : null,
      )
    : null;

  const shift = loop.key && reference.key ? shiftInto(loop.key, reference.key) : null;
  const chordsHere = chordRows(placedOn(loop.chords, loop.grid, grid), range, grid.beatsPerBar);
  const chordsThere = chordRows(reference.chords, all, reference.grid.beatsPerBar);
  const chords =
    shift && loop.chords.some(({ chord }) => chord !== null)
      ? bestRun(bars, count, all.first, (row, other) =>
          sameChords(chordsHere[row]!, chordsThere[other]!, shift.semitones),
        )
      : null;
  return {
    bars,
    bpm: grid.bpm,
    isCut: cut !== null,
    stretch: reference.grid.bpm / grid.bpm,
    shift,
    drums,
    chords,
  };
}
