/**
 * Hits on a grid: which step of which bar, and how far from it. Steps are sixteenths, or finer or
 * triplet ones in beats where the hits ask for them; they lie where the track's swing puts them.
 */
import { beatAt, type Grid } from "../grid/grid";
import type { Percent, Seconds } from "../units";
import type { DrumHit } from "./hits";
import { voiceIndex } from "./voices";

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

const finer: readonly Division[] = [3, 6, 8];

/** Mean distance of places from the steps of a division, beats. */
function distanceFrom(places: readonly number[], division: Division): number {
  let sum = 0;
  for (const at of places) sum += abs(at * division - round(at * division)) / division;
  return sum / places.length;
}

/** Whether places fall on steps of their own, but for flams. */
function areApart(places: readonly number[], division: Division, flam: number): boolean {
  for (let i = 1; i < places.length; i++) {
    const [before, at] = [places[i - 1]!, places[i]!];
    if (at - before >= flam && round(at * division) <= round(before * division)) return false;
  }
  return true;
}

/** The coarsest division on which the hits of one voice within a beat stand apart and near. */
function divisionOf(places: readonly number[], flam: number, usual: 4 | 6): Division {
  const isApart = areApart(places, usual, flam);
  if (isApart && distanceFrom(places, usual) <= near) return usual;
  if (usual === 6) return areApart(places, 12, flam) ? 12 : 6;
  const usualDistance = distanceFrom(places, 4);
  let best: Division = 4;
  let bestDistance = usualDistance;
  for (const division of finer) {
    if (!areApart(places, division, flam)) continue;
    const distance = distanceFrom(places, division);
    if (distance >= bestDistance - (division === 8 ? 0.02 : 0.006)) continue;
    best = division;
    bestDistance = distance;
  }
  return best !== 4 && (bestDistance < usualDistance * 0.6 || !isApart) ? best : 4;
}

/** Above the number of any beat of a track: voice and beat make one key. */
const beatKeys = 1e6;

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
  const usual = stepsPerBeat(grid.beatsPerBar);
  const played = new Float64Array(hits.length);
  const straightened = new Float64Array(hits.length);
  const groups = new Map<number, number[]>();
  for (let i = 0; i < hits.length; i++) {
    played[i] = beatAt(grid, hits[i]!.time);
    straightened[i] = unswung(played[i]!, swing);
    const key = voiceIndex[hits[i]!.voice] * beatKeys + beatOfPlace(straightened[i]!);
    const group = groups.get(key);
    if (group) group.push(i);
    else groups.set(key, [i]);
  }
  const placed = new Array<PlacedHit<T>>(hits.length);
  for (const group of groups.values()) {
    const beat = beatOfPlace(straightened[group[0]!]!);
    const inside = group.map((i) => straightened[i]! - beat);
    const division = divisionOf(inside, flam, usual);
    for (let k = 0; k < group.length; k++) {
      const i = group[k]!;
      const quantised = beat + round(inside[k]! * division) / division;
      const at = played[i]!;
      placed[i] = {
        hit: hits[i]!,
        beat: at,
        quantised,
        bar: floor(quantised / grid.beatsPerBar + 1e-6) + 1,
        division,
        offset: (at - swung(quantised, swing)) * localBeat(grid, at, beatSeconds),
      };
    }
  }
  return placed;
}

/** A hit somewhat early belongs to the beat that it leads into. */
const beatOfPlace = (place: number) => floor(place + 0.09);

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
