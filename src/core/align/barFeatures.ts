/** What is played in each bar: rhythm, harmony and level, in shapes that can be held against each other. */
import { valueAt } from "../grid/curve";
import { barStart, barsOf, secondsAt, type Grid } from "../grid/grid";
import type { OnsetRanges } from "../grid/onset";
import { lowestPitch, pitchCount, type PitchSalience } from "../harmony/pitches";
import { kWeightedStepsPerSecond } from "../loudness";
import type { Seconds } from "../units";

const { floor, log10, max, min, round, sqrt } = Math;

/** Slots of a bar for rhythm: sixteenths and triplets of four beats both fall on slots. */
const slotsPerBar = 48;
/** Slots of a bar for harmony. */
const chordsPerBar = 4;
/** Semitones of the octave. */
const chromas = 12;

/** What bars are described from. */
export interface BarCurves {
  onsets: OnsetRanges;
  pitches: PitchSalience;
  /** K-weighted energy every 10 ms. */
  kWeightedMeanSquares: Float32Array;
}

/** Features of all whole bars of a track, bar by bar. Vectors have mean 0 and length 1, or are 0. */
export interface BarFeatures {
  /** Bar number of row 0. */
  firstBar: number;
  count: number;
  rhythm: Float32Array;
  rhythmSize: number;
  /** `chordsPerBar × 12`, chroma fastest. */
  harmony: Float32Array;
  harmonySize: number;
  /** How much of each bar's sound is pitched, against the loudest bar, 0–1. */
  pitched: Float32Array;
  /** Strength of what sounds above middle C. */
  upper: Float32Array;
  /** Mean square of each bar, K-weighted. */
  energy: Float32Array;
  /** Loudness of each bar in dB under the loudest bar, at most 60. */
  quieter: Float32Array;
}

/** Takes the mean out of a row and makes its length 1; a row without shape becomes 0. */
function normalise(rows: Float32Array, start: number, size: number): void {
  let mean = 0;
  for (let i = 0; i < size; i++) mean += rows[start + i]! / size;
  let power = 0;
  for (let i = 0; i < size; i++) {
    rows[start + i]! -= mean;
    power += rows[start + i]! ** 2;
  }
  const scale = power > 1e-9 ? 1 / sqrt(power) : 0;
  for (let i = 0; i < size; i++) rows[start + i]! *= scale;
}

/**
 * Features of every bar that lies in the file as a whole.
 *
 * @param durationSeconds length of the file.
 */
export function barFeatures(grid: Grid, curves: BarCurves, durationSeconds: Seconds): BarFeatures {
  const bars = barsOf(grid);
  let { first, last } = bars;
  // Only bars that lie in the file as a whole, give or take a sixteenth.
  const slack = 0.07 * (barStart(grid, 2) - barStart(grid, 1));
  while (first <= last && barStart(grid, first) < -slack) first++;
  while (last >= first && barStart(grid, last + 1) > durationSeconds + slack) last--;
  const count = max(0, last - first + 1);
  const { ranges, framesPerSecond } = curves.onsets;
  const rhythmSize = ranges.length * slotsPerBar;
  const harmonySize = chordsPerBar * chromas;
  const rhythm = new Float32Array(count * rhythmSize);
  const harmony = new Float32Array(count * harmonySize);
  const pitched = new Float32Array(count);
  const upper = new Float32Array(count);
  const energy = new Float32Array(count);
  const quieter = new Float32Array(count);
  const { beatsPerBar } = grid;
  for (let b = 0; b < count; b++) {
    const firstBeat = (first + b - 1) * beatsPerBar;
    for (let r = 0; r < ranges.length; r++) {
      const row = b * rhythmSize + r * slotsPerBar;
      for (let slot = 0; slot < slotsPerBar; slot++) {
        const time = secondsAt(grid, firstBeat + (slot * beatsPerBar) / slotsPerBar);
        const at = time * framesPerSecond;
        // A little blurred: feel differs between a track and its recreation.
        rhythm[row + slot] = sqrt(
          valueAt(ranges[r]!, at - 1) / 4 + valueAt(ranges[r]!, at) / 2 + valueAt(ranges[r]!, at + 1) / 4,
        );
      }
    }
    normalise(rhythm, b * rhythmSize, rhythmSize);
    for (let part = 0; part < chordsPerBar; part++) {
      const from = secondsAt(grid, firstBeat + (part * beatsPerBar) / chordsPerBar);
      const to = secondsAt(grid, firstBeat + ((part + 1) * beatsPerBar) / chordsPerBar);
      const strength = addChroma(curves.pitches, from, to, harmony, b * harmonySize + part * chromas);
      pitched[b]! += strength.whole;
      upper[b]! += strength.upper / chordsPerBar;
    }
    normalise(harmony, b * harmonySize, harmonySize);
    energy[b] = meanEnergy(
      curves.kWeightedMeanSquares,
      barStart(grid, first + b),
      barStart(grid, first + b + 1),
    );
  }
  const mostPitched = pitched.reduce((a, b) => max(a, b), 1e-9);
  const loudest = energy.reduce((a, b) => max(a, b), 1e-12);
  for (let b = 0; b < count; b++) {
    pitched[b]! /= mostPitched;
    quieter[b] = min(60, -10 * log10(max(1e-6, energy[b]! / loudest)));
  }
  return {
    firstBar: first,
    count,
    rhythm,
    rhythmSize,
    harmony,
    harmonySize,
    pitched,
    upper,
    energy,
    quieter,
  };
}

/** Middle C among the pitches that are kept. */
const middleC = 60 - lowestPitch;

/** Adds the pitch classes that sound in a span, compressed; returns how strong they are, and those above middle C. */
function addChroma(
  { strengths, framesPerSecond }: PitchSalience,
  from: Seconds,
  to: Seconds,
  into: Float32Array,
  start: number,
): { whole: number; upper: number } {
  const frames = strengths.length / pitchCount;
  const first = max(0, round(from * framesPerSecond));
  const last = min(frames - 1, max(first, floor(to * framesPerSecond)));
  let whole = 0;
  let upper = 0;
  for (let p = 0; p < pitchCount; p++) {
    let sum = 0;
    for (let frame = first; frame <= last; frame++) sum += strengths[frame * pitchCount + p]!;
    sum /= max(1, last - first + 1);
    whole += sum;
    if (p >= middleC) upper += sum;
    into[start + (p % chromas)]! += sqrt(sum);
  }
  return { whole, upper };
}

function meanEnergy(kWeightedMeanSquares: Float32Array, from: Seconds, to: Seconds): number {
  const first = max(0, round(from * kWeightedStepsPerSecond));
  const last = min(kWeightedMeanSquares.length, round(to * kWeightedStepsPerSecond));
  let sum = 0;
  for (let i = first; i < last; i++) sum += kWeightedMeanSquares[i]!;
  return last > first ? sum / (last - first) : 0;
}

/** A bar this much pitched, against the most pitched one, is pitched enough for its harmony to count in full. */
const fullyPitched = 0.15;
/** Levels that differ by less say nothing: dB. */
const levelTolerance = 3;

/** How alike each bar of one track is to each of another, in parts: all `a.count × b.count`. */
export interface SimilarityParts {
  /** Rhythm alone, −1 … 1. */
  rhythm: Float32Array;
  /** What a difference in level takes away, 0 … 0.3. */
  level: Float32Array;
  /** How far both bars are pitched, so that their harmony says something, 0–1. */
  pitched: Float32Array;
  /** Harmony, −1 … 1, for a second track that sounds higher by some semitones. */
  harmonyAt(semitones: number): Float32Array;
}

/** Compares rhythm and level once, harmony for each transposition that is asked for. */
export function similarityParts(a: BarFeatures, b: BarFeatures): SimilarityParts {
  const rhythms = new Float32Array(a.count * b.count);
  const levels = new Float32Array(a.count * b.count);
  const bothPitched = new Float32Array(a.count * b.count);
  for (let i = 0; i < a.count; i++) {
    const rowA = i * a.rhythmSize;
    for (let j = 0; j < b.count; j++) {
      const rowB = j * b.rhythmSize;
      let rhythm = 0;
      for (let k = 0; k < a.rhythmSize; k++) rhythm += a.rhythm[rowA + k]! * b.rhythm[rowB + k]!;
      // A bar far quieter than another is another passage, even where its few notes agree.
      const apart = a.quieter[i]! - b.quieter[j]!;
      const level = max(0, (apart < 0 ? -apart : apart) - levelTolerance) / 40;
      rhythms[i * b.count + j] = rhythm;
      levels[i * b.count + j] = min(0.3, level);
      bothPitched[i * b.count + j] = min(1, min(a.pitched[i]!, b.pitched[j]!) / fullyPitched);
    }
  }
  const turned = new Float32Array(b.harmonySize);
  return {
    rhythm: rhythms,
    level: levels,
    pitched: bothPitched,
    harmonyAt(semitones) {
      const result = new Float32Array(a.count * b.count);
      const roll = ((semitones % chromas) + chromas) % chromas;
      for (let j = 0; j < b.count; j++) {
        for (let i = 0; i < b.harmonySize; i++) {
          const chroma = i % chromas;
          turned[i] = b.harmony[j * b.harmonySize + i - chroma + ((chroma + roll) % chromas)]!;
        }
        for (let i = 0; i < a.count; i++) {
          const row = i * a.harmonySize;
          let harmony = 0;
          for (let k = 0; k < a.harmonySize; k++) harmony += a.harmony[row + k]! * turned[k]!;
          result[i * b.count + j] = harmony;
        }
      }
      return result;
    },
  };
}
