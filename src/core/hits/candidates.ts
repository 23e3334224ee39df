/** One-shots that are offered for a drum: trimmed, measured, ranked, with what would bring each nearer. */
import type { DrumVoice } from "../drums/voices";
import { applyBiquad } from "../dsp/biquad";
import { kWeighting } from "../loudness/kWeighting";
import type { Fraction, Hertz, Seconds } from "../units";
import { cutOut } from "./average";
import { closenessOf, closenessWithWaveform, withoutOctave, type Closeness } from "./closeness";
import { waveformLikeness } from "./waveform";
import { beforeHit, type HitMeasures } from "./hitMeasures";
import { measureHit } from "./measures";
import type { StereoSamples } from "./strokes";

const { abs, ceil, exp, floor, LN10, log2, max, min, pow, round, sqrt } = Math;

/** A hit by itself, from `beforeHit` ahead of its beginning on. */
export interface OneShot {
  samples: StereoSamples;
  rate: Hertz;
  measures: HitMeasures;
}

/** It begins where it first comes within so many decibels of its peak. */
const beginsAt = 0.01;
const longestSeconds = 3;

/** Cuts a one-shot out of a file: without the silence before it, and not longer than any drum rings. */
export function trimmed([left, right]: StereoSamples, rate: Hertz): [Float32Array, Float32Array] | null {
  let peak = 0;
  for (let i = 0; i < left.length; i++) peak = max(peak, abs(left[i]!), abs(right[i]!));
  if (peak < 1e-5) return null;
  let begin = 0;
  while (max(abs(left[begin]!), abs(right[begin]!)) < beginsAt * peak) begin++;
  let end = left.length;
  while (end > begin && max(abs(left[end - 1]!), abs(right[end - 1]!)) < 1e-4 * peak) end--;
  const from = begin - round(beforeHit * rate);
  const length = min(end - from + round(0.05 * rate), round(longestSeconds * rate));
  return [cutOut(left, from, 0, length), cutOut(right, from, 0, length)];
}

export const oneShot = (samples: StereoSamples, rate: Hertz, voice: DrumVoice): OneShot | null => {
  const own = trimmed(samples, rate);
  return own && { samples: own, rate, measures: measureHit(own, rate, voice) };
};

/** What would bring a candidate nearer. */
export interface Suggestion {
  /** To be tuned by; 0 leaves it. */
  semitones: number;
  /** Its length times this, by an envelope; 1 leaves it. */
  decay: number;
  /** Closeness with both. */
  score: number;
}

export interface Ranked {
  closeness: Closeness;
  /** Correlation of the waveforms. */
  likeness: Fraction;
  suggestion: Suggestion | null;
}

/** Reads a hit faster or slower, as a sampler tunes it, by a cubic between its samples. */
function tuned(samples: StereoSamples, ratio: number): [Float32Array, Float32Array] {
  const length = ceil(samples[0].length / ratio);
  return samples.map((channel) => {
    const result = new Float32Array(length);
    for (let i = 0; i < length; i++) {
      const at = i * ratio;
      const k = floor(at);
      const [a, b, c, d] = [channel[k - 1] ?? 0, channel[k] ?? 0, channel[k + 1] ?? 0, channel[k + 2] ?? 0];
      const t = at - k;
      // Cubic through four neighbours (Catmull–Rom).
      result[i] = b + 0.5 * t * (c - a + t * (2 * a - 5 * b + 4 * c - d + t * (3 * (b - c) + d - a)));
    }
    return result;
  }) as [Float32Array, Float32Array];
}

/** A hit at another sample rate. */
export const resampled = (samples: StereoSamples, from: Hertz, to: Hertz): StereoSamples =>
  from === to ? samples : tuned(samples, from / to);

/** Changes how fast a hit dies away, from its peak on. */
function withDecay(
  samples: StereoSamples,
  rate: Hertz,
  from20: number,
  to20: number,
): [Float32Array, Float32Array] {
  // 20 dB in the one time or the other, as rates of decay of the amplitude.
  const change = LN10 * (1000 / to20 - 1000 / from20);
  const start = round((beforeHit + 0.005) * rate);
  return samples.map((channel) =>
    channel.map((x, i) => (i < start ? x : x * min(30, exp((-change * (i - start)) / rate)))),
  ) as [Float32Array, Float32Array];
}

/** Loudness of a hit is judged over this long: K-weighted energy. */
const loudFor: Seconds = 0.4;

/** K-weighted energy of the beginning of a hit. */
function energyOf(samples: StereoSamples, rate: Hertz): number {
  const { shelf, highPass } = kWeighting(rate);
  let sum = 0;
  for (const channel of samples) {
    const own = channel.slice(0, round((beforeHit + loudFor) * rate));
    applyBiquad(shelf, own);
    applyBiquad(highPass, own);
    for (let i = 0; i < own.length; i++) sum += own[i]! * own[i]!;
  }
  return sum / rate;
}

/** The gain that makes a hit as loud as another. */
export function gainToMatch(
  target: Pick<OneShot, "samples" | "rate">,
  samples: StereoSamples,
  rate: Hertz,
): number {
  const own = energyOf(samples, rate);
  return own > 0 ? sqrt(energyOf(target.samples, target.rate) / own) : 1;
}

const tunedFrom = 0.3;
const tunedTo = 12;
const stretchedFrom = 0.12;
/** A suggestion must bring so many points. */
const worthwhile = 2;

/** Applies tuning and decay to a one-shot. */
export function adjusted(
  { samples, rate, measures }: OneShot,
  { semitones, decay }: Pick<Suggestion, "semitones" | "decay">,
): [Float32Array, Float32Array] {
  const ratio = pow(2, semitones / 12);
  const own = semitones === 0 ? samples : tuned(samples, ratio);
  const from20 = (measures.decay.to20 ?? 100) / ratio;
  // Decay says how long the whole becomes: tuning alone shortens it already.
  return decay === 1 && semitones === 0
    ? [own[0], own[1]]
    : withDecay(own, rate, from20, (measures.decay.to20 ?? 100) * decay);
}

/** What tuning and another decay would do, measured on the sound so changed; null where nothing is gained. */
export function suggestionFor(
  target: OneShot,
  candidate: OneShot,
  voice: DrumVoice,
  before: number,
): Suggestion | null {
  const [wanted, own] = [target.measures, candidate.measures];
  const apart =
    wanted.fundamentalHz !== null && own.fundamentalHz !== null
      ? withoutOctave(12 * log2(wanted.fundamentalHz / own.fundamentalHz))
      : 0;
  const semitones = abs(apart) >= tunedFrom && abs(apart) <= tunedTo ? round(10 * apart) / 10 : 0;
  const lengths =
    wanted.decay.to20 !== null && own.decay.to20 !== null ? wanted.decay.to20 / own.decay.to20 : 1;
  const stretched = abs(log2(lengths)) >= stretchedFrom ? min(2, max(0.2, lengths)) : 1;
  if (semitones === 0 && stretched === 1) return null;
  const change = { semitones, decay: round(100 * stretched) / 100 };
  const samples = adjusted(candidate, change);
  const { score } = closenessOf(wanted, measureHit(samples, candidate.rate, voice));
  return score > before + worthwhile ? { ...change, score } : null;
}

/** Best first. Suggestions are worked out for the first `suggested` only. */
export function rankCandidates<T extends { shot: OneShot }>(
  target: OneShot,
  voice: DrumVoice,
  candidates: readonly T[],
  suggested = 10,
): (T & Ranked)[] {
  const ranked = candidates.map((own) => {
    const { samples, rate } = own.shot;
    const atOneRate = resampled(samples, rate, target.rate);
    const likeness = waveformLikeness(target.samples, atOneRate, target.rate);
    const closeness = closenessOf(target.measures, own.shot.measures);
    return { ...own, likeness, closeness: closenessWithWaveform(closeness, likeness, voice) };
  });
  ranked.sort((a, b) => b.closeness.score - a.closeness.score);
  return ranked.map((own, i) => ({
    ...own,
    suggestion: i < suggested ? suggestionFor(target, own.shot, voice, own.closeness.score) : null,
  }));
}
