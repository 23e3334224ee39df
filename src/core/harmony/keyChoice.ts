/**
 * The key of a track or of a part of it. Two opinions are given: one from how strongly each note
 * sounds, by a published profile, and one from the chords. The answer weighs both, and its
 * probability comes from a model fitted on development songs.
 */
import { probabilities, type ChoiceModel } from "../grid/choice";
import type { Fraction } from "../units";
import { noChord } from "./chordModel";
import { allKeys, scaleIntervals, type Key } from "./keys";
import { asPitchClass } from "./notes";

const { max, sqrt } = Math;

/** How well notes fit a key, from the tonic up. */
interface KeyProfile {
  major: readonly number[];
  minor: readonly number[];
}

/** Krumhansl & Kessler 1982, "Tracing the dynamic changes in perceived tonal organization". */
const krumhanslKessler: KeyProfile = {
  major: [6.35, 2.23, 3.48, 2.33, 4.38, 4.09, 2.52, 5.19, 2.39, 3.66, 2.29, 2.88],
  minor: [6.33, 2.68, 3.52, 5.38, 2.6, 3.53, 2.54, 4.75, 3.98, 2.69, 3.34, 3.17],
};
/** Temperley 1999, "What's key for key? The Krumhansl-Schmuckler key-finding algorithm reconsidered". */
const temperley: KeyProfile = {
  major: [5, 2, 3.5, 2, 4.5, 4, 2, 4.5, 2, 3.5, 1.5, 4],
  minor: [5, 2, 3.5, 4.5, 2, 4, 2, 4.5, 3.5, 2, 1.5, 4],
};
/** Faraldo, Gómez, Jordà & Herrera 2016, "Key estimation in electronic dance music" (from memory). */
const electronic: KeyProfile = {
  major: [1, 0.29, 0.5, 0.4, 0.6, 0.56, 0.32, 0.8, 0.31, 0.45, 0.42, 0.39],
  minor: [1, 0.31, 0.44, 0.58, 0.33, 0.49, 0.29, 0.78, 0.43, 0.29, 0.53, 0.32],
};
const profiles = [krumhanslKessler, temperley, electronic] as const;

/** Pearson's correlation of a profile, turned to a tonic, with what sounds. */
function correlation(profile: readonly number[], chroma: Float32Array, tonic: number): number {
  const meanProfile = profile.reduce((a, b) => a + b, 0) / 12;
  const meanChromaValue = chroma.reduce((a, b) => a + b, 0) / 12;
  let product = 0;
  let squares = 0;
  let ownSquares = 0;
  for (let i = 0; i < 12; i++) {
    const a = profile[i]! - meanProfile;
    const b = chroma[(i + tonic) % 12]! - meanChromaValue;
    product += a * b;
    squares += a * a;
    ownSquares += b * b;
  }
  return ownSquares > 0 ? product / sqrt(squares * ownSquares) : 0;
}

/** Chords as states (root + 12 · minor, or none), with where each beat stands. */
export interface HeardChords {
  states: Int8Array;
  /** Which beat of its bar each beat is; −1 where unknown. */
  places: readonly number[];
  /** Beats of a phrase of four bars. */
  phraseBeats: number;
  /** Beat on which bar 1 begins. */
  barOne: number;
}

/** Scale degrees on which each mode has major and minor chords; a major V counts in minor too. */
const chordsOf = { major: [0, 5, 7, 14, 16, 21], minor: [12, 17, 19, 3, 8, 10, 7] } as const;

/** The state of a chord as seen from a tonic. */
const seenFrom = (state: number, tonic: number) =>
  12 * (state >= 12 ? 1 : 0) + asPitchClass((state % 12) - tonic);

/**
 * What speaks for each key, in the order of `allKeys`.
 *
 * @param sounding how strongly each pitch class sounds in those beats, 12 values.
 */
export function keyFeatures(
  sounding: Float32Array,
  chords: HeardChords,
  from: number,
  to: number,
): number[][] {
  const counts = new Float64Array(24);
  let total = 0;
  const starts = new Float64Array(24);
  let startTotal = 0;
  const moves = new Map<number, number>();
  let moveTotal = 0;
  let first = -1;
  let last = -1;
  for (let beat = from; beat < to; beat++) {
    const state = chords.states[beat]!;
    if (state === noChord) continue;
    counts[state]!++;
    total++;
    if (first < 0) first = state;
    if (asPitchClassOf(beat - chords.barOne, chords.phraseBeats) === 0) {
      starts[state]!++;
      startTotal++;
    }
    if (last >= 0 && last !== state) {
      moves.set(last * 24 + state, (moves.get(last * 24 + state) ?? 0) + 1);
      moveTotal++;
    }
    last = state;
  }
  return allKeys.map(({ tonic, mode }) => {
    const own = (state: number) => asPitchClass((state % 12) + tonic) + 12 * (state >= 12 ? 1 : 0);
    const tonicState = own(mode === "minor" ? 12 : 0);
    const inKey = chordsOf[mode].reduce<number>((sum, state) => sum + counts[own(state)]!, 0);
    const toTonic = (degrees: readonly number[]) =>
      degrees.reduce((sum, state) => sum + (moves.get(own(state) * 24 + tonicState) ?? 0), 0);
    const scale = scaleIntervals[mode];
    const outside = sounding.reduce(
      (sum, value, note) => sum + (scale.includes(asPitchClass(note - tonic)) ? 0 : value),
      0,
    );
    const share = (part: number, whole: number) => (whole > 0 ? part / whole : 0);
    return [
      ...profiles.map((profile) => correlation(profile[mode], sounding, tonic)),
      share(
        outside,
        sounding.reduce((a, b) => a + b, 0),
      ),
      share(inKey, total),
      share(counts[tonicState]!, total),
      share(starts[tonicState]!, startTotal),
      first >= 0 && seenFrom(first, tonic) === (mode === "minor" ? 12 : 0) ? 1 : 0,
      last >= 0 && seenFrom(last, tonic) === (mode === "minor" ? 12 : 0) ? 1 : 0,
      share(toTonic([7, 19]), moveTotal),
      share(toTonic([5, 17, 10]), moveTotal),
      mode === "minor" ? 1 : 0,
    ];
  });
}

const asPitchClassOf = (value: number, size: number) => ((value % size) + size) % size;

export interface KeyOption {
  key: Key;
  confidence: Fraction;
}

export interface KeyChoice {
  /** The likeliest keys, best first; their confidences are probabilities. */
  options: KeyOption[];
  /** The key by the notes alone, and by chords alone; null where there is none of either. */
  opinions: { notes: Key | null; chords: Key | null };
}

const keptOptions = 5;

/** Weighs keys by their features; null where nothing is pitched. */
export function chooseKey(model: ChoiceModel, features: readonly (readonly number[])[]): KeyChoice | null {
  if (features.every((row) => row[0] === 0)) return null;
  const shares = probabilities(model, features);
  const options = allKeys
    .map((key, i) => ({ key, confidence: shares[i]! }))
    .sort((a, b) => b.confidence - a.confidence)
    .slice(0, keptOptions);
  const best = (value: (row: readonly number[]) => number) => {
    const values = features.map(value);
    return allKeys[values.indexOf(max(...values))]!;
  };
  const hasChords = features.some((row) => row[4]! > 0);
  return {
    options,
    opinions: {
      notes: best((row) => row[0]!),
      chords: hasChords ? best((row) => row[4]! + row[5]! + 0.5 * row[6]! + 0.3 * row[9]!) : null,
    },
  };
}
