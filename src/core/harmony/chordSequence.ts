/**
 * The most plausible sequence of chords over the beats: a hidden Markov model whose chords like to
 * last and to change where bars begin (Sheh & Ellis 2003, "Chord segmentation and recognition using
 * EM-trained hidden Markov models"; changes tied to the metre as in Papadopoulos & Peeters 2011).
 */
import { chordStates } from "./chordModel";

const { exp, log, max } = Math;

/** Which beat of its bar each beat is, 0 for the downbeat; −1 where bars are not known. */
export type PlacesInBar = readonly number[];

/** Probability that the chord changes at a beat. */
const changes = { downbeat: 0.55, middle: 0.1, other: 0.03, unknown: 0.15 } as const;
/** Neighbouring beats say much the same: a beat counts as less than one observation. */
const observationWeight = 0.7;
/** For how sure it is, a beat counts for even less: then the probabilities hold on development songs. */
const surenessWeight = 0.4;

function changeProbability(place: number, beatsPerBar: number): number {
  if (place < 0) return changes.unknown;
  if (place === 0) return changes.downbeat;
  return beatsPerBar % 2 === 0 && place === beatsPerBar / 2 ? changes.middle : changes.other;
}

export interface ChordPath {
  /** The chord state of each beat. */
  states: Int8Array;
  /** Probability of that state given the whole track, 0–1, for each beat. */
  confidences: Float32Array;
}

/**
 * @param likelihoods logarithms, `beats × chordStates`.
 */
export function chordPath(likelihoods: Float32Array, places: PlacesInBar, beatsPerBar: number): ChordPath {
  const n = chordStates;
  const beats = likelihoods.length / n;
  const states = new Int8Array(beats);
  const confidences = new Float32Array(beats);
  if (beats === 0) return { states, confidences };
  const at = (beat: number, s: number) => observationWeight * likelihoods[beat * n + s]!;
  const stay = new Float64Array(beats);
  const change = new Float64Array(beats);
  for (let beat = 1; beat < beats; beat++) {
    const p = changeProbability(places[beat]!, beatsPerBar);
    stay[beat] = 1 - p;
    change[beat] = p / (n - 1);
  }

  // Best path. Leaving any state costs the same, so only the best one left behind matters.
  const best = new Float64Array(n);
  const cameFrom = new Int8Array(beats * n);
  for (let s = 0; s < n; s++) best[s] = at(0, s);
  for (let beat = 1; beat < beats; beat++) {
    let top = 0;
    for (let s = 1; s < n; s++) if (best[s]! > best[top]!) top = s;
    const leaving = best[top]! + log(change[beat]!);
    const staying = log(stay[beat]!);
    for (let s = 0; s < n; s++) {
      const stays = best[s]! + staying >= leaving;
      cameFrom[beat * n + s] = stays ? s : top;
      best[s] = (stays ? best[s]! + staying : leaving) + at(beat, s);
    }
  }
  let last = 0;
  for (let s = 1; s < n; s++) if (best[s]! > best[last]!) last = s;
  for (let beat = beats - 1; beat >= 0; beat--) {
    states[beat] = last;
    last = cameFrom[beat * n + last]!;
  }

  // How sure of it: forward and backward, scaled at each beat.
  const sure = (beat: number, s: number) => surenessWeight * likelihoods[beat * n + s]!;
  const forward = new Float64Array(beats * n);
  const emit = new Float64Array(beats * n);
  for (let beat = 0; beat < beats; beat++) {
    let highest = -Infinity;
    for (let s = 0; s < n; s++) highest = max(highest, sure(beat, s));
    let total = 0;
    let before = 0;
    if (beat > 0) for (let s = 0; s < n; s++) before += forward[(beat - 1) * n + s]!;
    for (let s = 0; s < n; s++) {
      emit[beat * n + s] = exp(sure(beat, s) - highest);
      const prior =
        beat === 0
          ? 1
          : forward[(beat - 1) * n + s]! * stay[beat]! +
            (before - forward[(beat - 1) * n + s]!) * change[beat]!;
      forward[beat * n + s] = prior * emit[beat * n + s]!;
      total += forward[beat * n + s]!;
    }
    for (let s = 0; s < n; s++) forward[beat * n + s]! /= total;
  }
  let after = new Float64Array(n).fill(1);
  for (let beat = beats - 1; beat >= 0; beat--) {
    let total = 0;
    for (let s = 0; s < n; s++) total += forward[beat * n + s]! * after[s]!;
    confidences[beat] = (forward[beat * n + states[beat]!]! * after[states[beat]!]!) / total;
    if (beat === 0) break;
    const next = new Float64Array(n);
    let sum = 0;
    for (let s = 0; s < n; s++) sum += emit[beat * n + s]! * after[s]!;
    let scale = 0;
    for (let s = 0; s < n; s++) {
      const own = emit[beat * n + s]! * after[s]!;
      next[s] = own * stay[beat]! + (sum - own) * change[beat]!;
      scale += next[s]!;
    }
    for (let s = 0; s < n; s++) next[s]! /= scale;
    after = next;
  }
  return { states, confidences };
}
