/**
 * How likely each chord is in each beat: a logistic model whose weights are the same for all roots,
 * turned to each root in the way of Fujishima 1999 ("Realtime chord recognition of musical sound"),
 * with templates that are fitted rather than given.
 */
import { chromaSize, type BeatChroma } from "./beatChroma";

const { exp, log, max } = Math;

/** Chords that are told apart beat by beat: 12 major, 12 minor, none. */
export const chordStates = 25;
export const noChord = 24;

/** `root + 12 · minor`. */
export interface ChordModel {
  /** One row of `chromaSize` weights for major and one for minor, as if the root were C. */
  templates: readonly (readonly number[])[];
  biases: readonly number[];
  /** For no chord: constant, presence, and how evenly the pitch classes sound. */
  none: readonly number[];
}

/** Of a beat: 1, how pitched it is, and the strength of its strongest pitch class. */
export function noneFeatures({ values, presence }: BeatChroma, beat: number): number[] {
  const folded = new Float32Array(12);
  for (let i = 0; i < chromaSize; i++) folded[i % 12]! += values[beat * chromaSize + i]!;
  return [1, presence[beat]!, log(0.02 + presence[beat]!), max(...folded)];
}

/** Logarithms of the probabilities of all chord states, `count × chordStates`. */
export function chordLikelihoods(model: ChordModel, chroma: BeatChroma): Float32Array {
  const result = new Float32Array(chroma.count * chordStates);
  for (let beat = 0; beat < chroma.count; beat++) {
    const row = beat * chordStates;
    const values = chroma.values.subarray(beat * chromaSize, (beat + 1) * chromaSize);
    for (let kind = 0; kind < 2; kind++) {
      const template = model.templates[kind]!;
      for (let root = 0; root < 12; root++) {
        let score = model.biases[kind]!;
        for (let i = 0; i < chromaSize; i++) {
          const pitchClass = i % 12;
          score += template[i]! * values[i - pitchClass + ((pitchClass + root) % 12)]!;
        }
        result[row + 12 * kind + root] = score;
      }
    }
    result[row + noChord] = noneFeatures(chroma, beat).reduce((sum, f, i) => sum + f * model.none[i]!, 0);
    let highest = -Infinity;
    for (let s = 0; s < chordStates; s++) highest = max(highest, result[row + s]!);
    let total = 0;
    for (let s = 0; s < chordStates; s++) total += exp(result[row + s]! - highest);
    for (let s = 0; s < chordStates; s++) result[row + s]! -= highest + log(total);
  }
  return result;
}
