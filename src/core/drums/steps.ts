/**
 * Hits on a grid: which step of which bar, and how far from it. Steps are sixteenths, or finer or
 * triplet ones in beats where the hits ask for them; they lie where the track's swing puts them.
 */
import { beatAt, type Grid } from "../grid/grid";
import type { Percent, Seconds } from "../units";
import type { DrumHit } from "./hits";

const { abs, floor, max, min, round } = Math;

/** Swing as one number: of eighths or of sixteenths, 50 = straight. */
export interface MainSwing {
  of: 8 | 16;
  percent: Percent;
}

export const straight: MainSwing = { of: 16, percent: 50 };

/** Steps to the beat: sixteenths, thirty-seconds, triplet eighths, triplet sixteenths; in 6/8 12 are thirty-seconds. */
export type Division = 4 | 8 | 3 | 6 | 12;

/** Sixteenths to the beat: the steps that patterns are compared on. */
export const stepsPerBeat = (beatsPerBar: number): 4 | 6 => (beatsPerBar === 2 ? 6 : 4);

export interface PlacedHit<T extends DrumHit = DrumHit> {
  hit: T;
  /** Beats from bar 1 beat 1, as played. */
  beat: number;
  /** Beats from bar 1 beat 1 of the step, as written: on straight steps. */
  quantised: number;
  /** Counted from 1. */
  bar: number;
  division: Division;
  /** Behind (+) or ahead of (−) the step as the track swings it. */
  offset: Seconds;
}

/** Where a written place in beats falls with swing, in beats. */
export function swung(beat: number, { of, percent }: MainSwing): number {
  const pair = of === 8 ? 1 : 0.5;
  const start = floor(beat / pair + 1e-9) * pair;
  const inside = (beat - start) / pair;
  const turn = percent / 100;
  return start + pair * (inside < 0.5 ? inside * 2 * turn : turn + (inside - 0.5) * 2 * (1 - turn));
}

/** The inverse of `swung`. */
export function unswung(beat: number, { of, percent }: MainSwing): number {
  const pair = of === 8 ? 1 : 0.5;
  const start = floor(beat / pair + 1e-9) * pair;
  const inside = (beat - start) / pair;
  const turn = percent / 100;
  return start + pair * (inside < turn ? inside / (2 * turn) : 0.5 + (inside - turn) / (2 * (1 - turn)));
}

/** How far hits may lie from steps on average for the coarser division to be kept, beats. */
const near = 0.055;
/** Two hits of one voice nearer than this are a flam, which needs no step of its own: beats at any tempo, seconds. */
export const flamSeconds: Seconds = 0.042;

/** The coarsest division on which the hits of one voice within a beat stand apart and near. */
function divisionOf(places: readonly number[], flam: number, usual: 4 | 6): Division {
  const distance = (division: Division) =>
    places.reduce((sum, at) => sum + abs(at * division - round(at * division)) / division, 0) / places.length;
  const apart = (division: Division) =>
    places.every(
      (at, i) =>
        i === 0 || at - places[i - 1]! < flam || round(at * division) > round(places[i - 1]! * division),
    );
  if (places.length === 0 || (distance(usual) <= near && apart(usual))) return usual;
  if (usual === 6) return apart(12) ? 12 : 6;
  const others = ([3, 6, 8] as const).filter((division) => apart(division));
  const best = others.reduce<Division>(
    (a, b) => (distance(b) < distance(a) - (b === 8 ? 0.02 : 0.006) ? b : a),
    4,
  );
  return best !== 4 && (distance(best) < distance(4) * 0.6 || !apart(4)) ? best : 4;
}

/**
 * Places hits on a grid.
 *
 * @param hits in order of time.
 */
export function placeHits<T extends DrumHit>(
  hits: readonly T[],
  grid: Grid,
  swing: MainSwing = straight,
): PlacedHit<T>[] {
  const beatSeconds = 60 / grid.bpm;
  const flam = flamSeconds / beatSeconds;
  const straightened = hits.map(({ time }) => unswung(beatAt(grid, time), swing));
  // A hit somewhat early belongs to the beat that it leads into.
  const beatOf = (place: number) => floor(straightened[place]! + 0.09);
  const groups = new Map<string, number[]>();
  hits.forEach(({ voice }, i) => {
    const key = `${voice} ${beatOf(i)}`;
    const group = groups.get(key);
    if (group) group.push(i);
    else groups.set(key, [i]);
  });
  const placed = new Array<PlacedHit<T>>(hits.length);
  for (const group of groups.values()) {
    const beat = beatOf(group[0]!);
    const inside = group.map((i) => straightened[i]! - beat);
    const division = divisionOf(inside, flam, stepsPerBeat(grid.beatsPerBar));
    group.forEach((i, k) => {
      const quantised = beat + round(inside[k]! * division) / division;
      const at = beatAt(grid, hits[i]!.time);
      placed[i] = {
        hit: hits[i]!,
        beat: at,
        quantised,
        bar: floor(quantised / grid.beatsPerBar + 1e-6) + 1,
        division,
        offset: (at - swung(quantised, swing)) * localBeat(grid, at, beatSeconds),
      };
    });
  }
  return placed;
}

/** Length of the beat around a place. */
function localBeat({ beats, barOne, steady }: Grid, beat: number, usual: Seconds): Seconds {
  if (steady) return usual;
  const place = max(0, min(beats.length - 2, floor(beat + barOne)));
  return beats[place + 1]! - beats[place]!;
}

/** The place of a step in its bar, in words: `3`, `3½`, `3¼`, `3¾`; thirds and eighths of a beat likewise. */
export function placeInWords(quantised: number, beatsPerBar: number): string {
  const inBar = ((quantised % beatsPerBar) + beatsPerBar) % beatsPerBar;
  const beat = floor(inBar + 1e-6);
  const rest = inBar - beat;
  const fractions: readonly [number, string][] = [
    [0, ""],
    [1 / 8, "⅛"],
    [1 / 6, "⅙"],
    [1 / 4, "¼"],
    [1 / 3, "⅓"],
    [3 / 8, "⅜"],
    [1 / 2, "½"],
    [5 / 8, "⅝"],
    [2 / 3, "⅔"],
    [3 / 4, "¾"],
    [5 / 6, "⅚"],
    [7 / 8, "⅞"],
  ];
  const [, sign] = fractions.reduce((a, b) => (abs(b[0] - rest) < abs(a[0] - rest) ? b : a));
  return `${beat + 1}${sign}`;
}
