/** What sounds in each beat, folded to pitch classes in three ranges of height. */
import type { Fraction, Seconds } from "../units";
import { lowestPitch, pitchCount, type PitchSalience } from "./pitches";

const { ceil, floor, max, min, sqrt } = Math;

/** First MIDI pitch above each range: bass, middle, top. */
const rangeEnds = [52, 72, 96] as const;
export const chromaRanges = rangeEnds.length;
/** Numbers a beat: twelve pitch classes in each range. */
export const chromaSize = 12 * chromaRanges;

export interface BeatChroma {
  /** Number of beats, one less than the times that bound them. */
  count: number;
  /** `count × chromaSize` values ≥ 0, each beat's of length 1, or all 0 where nothing is pitched. */
  values: Float32Array;
  /** How strongly each beat is pitched, against the most pitched ones, 0–1. */
  presence: Float32Array;
}

/** A beat needs this much of the strength of the most pitched ones to be scaled up in full. */
const leastPresence = 0.03;

/** Folds a map of pitches into the beats between rising times. */
export function beatChroma(
  { strengths, framesPerSecond }: PitchSalience,
  beats: readonly Seconds[],
): BeatChroma {
  const count = max(0, beats.length - 1);
  const frames = strengths.length / pitchCount;
  const values = new Float32Array(count * chromaSize);
  const norms = new Float32Array(count);
  const sums = new Float32Array(pitchCount);
  for (let beat = 0; beat < count; beat++) {
    // The frame around the next beat already hears the next chord.
    const first = max(0, ceil(beats[beat]! * framesPerSecond));
    const last = min(frames, max(first + 1, floor(beats[beat + 1]! * framesPerSecond)));
    sums.fill(0);
    for (let frame = first; frame < last; frame++) {
      const row = frame * pitchCount;
      for (let pitch = 0; pitch < pitchCount; pitch++) sums[pitch]! += strengths[row + pitch]!;
    }
    const length = max(1, last - first);
    let power = 0;
    const row = beat * chromaSize;
    for (let pitch = 0; pitch < pitchCount; pitch++) {
      const midi = lowestPitch + pitch;
      const range = midi < rangeEnds[0] ? 0 : midi < rangeEnds[1] ? 1 : 2;
      // Square roots, so that one loud note does not hide the rest of a chord.
      values[row + 12 * range + (midi % 12)]! += sqrt(sums[pitch]! / length);
    }
    for (let i = 0; i < chromaSize; i++) power += values[row + i]! ** 2;
    norms[beat] = sqrt(power);
  }
  const loudest = Float32Array.from(norms).sort()[floor(0.95 * (count - 1))] ?? 0;
  const presence = new Float32Array(count);
  for (let beat = 0; beat < count; beat++) {
    presence[beat] = loudest > 0 ? min(1, norms[beat]! / loudest) : 0;
    const scale = loudest > 0 ? 1 / max(norms[beat]!, leastPresence * loudest) : 0;
    for (let i = beat * chromaSize; i < (beat + 1) * chromaSize; i++) values[i]! *= scale;
  }
  return { count, values, presence };
}

/** Mean of some beats, all ranges folded together: twelve values, the largest 1, or all 0. */
export function meanChroma({ values }: BeatChroma, from: number, to: number): Float32Array {
  const result = new Float32Array(12);
  for (let beat = from; beat < to; beat++) {
    for (let i = 0; i < chromaSize; i++) result[i % 12]! += values[beat * chromaSize + i]!;
  }
  const largest: Fraction = max(...result);
  return largest > 0 ? result.map((value) => value / largest) : result;
}
