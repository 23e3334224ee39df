/**
 * Measures of accuracy. Tempo as in MIREX audio tempo estimation and mir_eval's companions: within
 * 4 % of the truth (accuracy 1), or of its half, double, third or triple too (accuracy 2; Gouyon
 * et al. 2006, "An experimental comparison of audio tempo induction algorithms").
 */

import { majorOrMinor, readChord } from "@/core/harmony/chords";
import type { Key } from "@/core/harmony/keys";
import { asPitchClass } from "@/core/harmony/notes";

const tolerance = 0.04;

const near = (bpm: number, truth: number) => Math.abs(bpm - truth) <= tolerance * truth;

/** Within 4 % of the truth. */
export function tempoAccuracy1(bpm: number, truth: number): boolean {
  if (!(truth > 0)) throw new Error(`a true tempo above 0 is expected, got ${truth}`);
  return near(bpm, truth);
}

/** Within 4 % of the truth or of half, double, a third or three times it. */
export const tempoAccuracy2 = (bpm: number, truth: number): boolean =>
  [1, 1 / 2, 2, 1 / 3, 3].some((factor) => tempoAccuracy1(bpm, truth * factor));

/** How often answers of a certain confidence are right. Empty bins are left out. */
export function reliability(answers: readonly { confidence: number; right: boolean }[]) {
  const edges = [0, 0.5, 0.7, 0.8, 0.9, 0.95, 1.0001];
  return edges.slice(0, -1).flatMap((low, i) => {
    const high = edges[i + 1]!;
    const inside = answers.filter((a) => a.confidence >= low && a.confidence < high);
    if (inside.length === 0) return [];
    return [
      {
        range: `${low.toFixed(2)}–${Math.min(1, high).toFixed(2)}`,
        count: inside.length,
        meanConfidence: inside.reduce((sum, a) => sum + a.confidence, 0) / inside.length,
        shareRight: inside.filter((a) => a.right).length / inside.length,
      },
    ];
  });
}

/**
 * F-measure of times against true times, each matched once within ±70 ms; what lies before 5 s is
 * left out on both sides (mir_eval `beat.f_measure` after `trim_beats`; Dixon 2007, "Evaluation of
 * the audio beat tracking system BeatRoot"). Both lists must rise. 0 where one is empty.
 */
export function eventF(truth: readonly number[], found: readonly number[], window = 0.07, from = 5): number {
  for (const times of [truth, found]) {
    if (times.some((time, i) => i > 0 && time < times[i - 1]!)) throw new Error("rising times are expected");
  }
  const a = truth.filter((time) => time >= from);
  const b = found.filter((time) => time >= from);
  const hits = matchedEvents(a, b, window).length;
  return hits === 0 ? 0 : (2 * hits) / (a.length + b.length);
}

/** A largest matching of rising times within a window: pairs of places in the two lists. */
export function matchedEvents(
  a: readonly number[],
  b: readonly number[],
  window: number,
): [inA: number, inB: number][] {
  const pairs: [number, number][] = [];
  let i = 0;
  let j = 0;
  // With one window, matching the earliest pair that fits is a largest matching.
  while (i < a.length && j < b.length) {
    const difference = b[j]! - a[i]!;
    if (Math.abs(difference) <= window + 1e-9) pairs.push([i++, j++]);
    else if (difference < 0) j++;
    else i++;
  }
  return pairs;
}

/**
 * Weighted key score (MIREX audio key detection; mir_eval `key.weighted_score`): 1 for the key
 * itself, 0.5 for a fifth above it in the same mode, 0.3 for its relative, 0.2 for its parallel.
 */
export function keyScore(truth: Key, found: Key): number {
  const up = asPitchClass(found.tonic - truth.tonic);
  if (truth.mode === found.mode) return up === 0 ? 1 : up === 7 ? 0.5 : 0;
  if (up === 0) return 0.2;
  return up === (truth.mode === "minor" ? 3 : 9) ? 0.3 : 0;
}

/** Labelled spans of time. */
export interface Labelled {
  start: number;
  end: number;
  label: string;
}

/**
 * Share of the time in which chords agree as major or minor (mir_eval `chord.majmin` weighted by
 * duration): true chords that are neither are left out, no chord must meet no chord. Time that the
 * found chords do not reach counts as no chord.
 */
export function majorMinorOverlap(truth: readonly Labelled[], found: readonly Labelled[]): number {
  const kindOf = (label: string) => {
    const chord = readChord(label);
    if (chord === undefined) throw new Error(`a chord label is expected, got ${label}`);
    return majorOrMinor(chord);
  };
  let agreed = 0;
  let whole = 0;
  for (const { start, end, label } of truth) {
    const wanted = kindOf(label);
    if (wanted === undefined) continue;
    whole += end - start;
    let covered = 0;
    for (const other of found) {
      const shared = Math.min(end, other.end) - Math.max(start, other.start);
      if (shared <= 0) continue;
      covered += shared;
      const kind = kindOf(other.label);
      const same =
        wanted === null || !kind
          ? wanted === null && kind === null
          : kind.root === wanted.root && kind.minor === wanted.minor;
      if (same) agreed += shared;
    }
    if (wanted === null) agreed += Math.max(0, end - start - covered);
  }
  return whole > 0 ? agreed / whole : 0;
}

/**
 * F-measure of boundaries (mir_eval `segment.detection` with its outer boundaries trimmed; Turnbull
 * et al. 2007): both lists of boundaries without the beginning and the end of the music.
 */
export const boundaryF = (truth: readonly number[], found: readonly number[], window: number): number =>
  truth.length === 0 && found.length === 0 ? 1 : eventF(truth, found, window, -Infinity);

/** Pearson's correlation; null with fewer pairs than asked for, and where one side does not vary. */
export function correlation(pairs: readonly (readonly [number, number])[], least: number): number | null {
  if (pairs.length < least) return null;
  const mean = (i: 0 | 1) => pairs.reduce((sum, pair) => sum + pair[i], 0) / pairs.length;
  const [a, b] = [mean(0), mean(1)];
  let both = 0;
  let first = 0;
  let second = 0;
  for (const [x, y] of pairs) {
    both += (x - a) * (y - b);
    first += (x - a) ** 2;
    second += (y - b) ** 2;
  }
  return first > 0 && second > 0 ? both / Math.sqrt(first * second) : null;
}
