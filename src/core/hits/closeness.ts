/** How close one hit comes to another, aspect by aspect, and what would bring it nearer. */
import { scoreOf, weightedMean, type Tolerance } from "../match/score";
import type { DrumVoice } from "../drums/voices";
import type { Fraction } from "../units";
import type { HitMeasures } from "./hitMeasures";

const { abs, log2, max, min, sign, sqrt } = Math;

export const closenessAspects = [
  "pitch",
  "glide",
  "length",
  "envelope",
  "attack",
  "tone",
  "texture",
] as const;
export type ClosenessAspect = (typeof closenessAspects)[number];

interface Rule extends Tolerance {
  unit: string;
  weight: number;
}

/** Lengths as in the match; the rest by ear on synthesised drums, no source. */
export const closenessRules: Record<ClosenessAspect, Rule> = {
  pitch: { unit: "semitones", justNoticeable: 0.25, halving: 2, weight: 2.5 },
  glide: { unit: "semitones", justNoticeable: 1.5, halving: 6, weight: 0.5 },
  length: { unit: "octaves of time", justNoticeable: 0.15, halving: 0.5, weight: 2 },
  envelope: { unit: "octaves of time", justNoticeable: 0.3, halving: 0.8, weight: 1 },
  attack: { unit: "octaves of time", justNoticeable: 0.7, halving: 1.5, weight: 0.5 },
  tone: { unit: "dB", justNoticeable: 1.5, halving: 4, weight: 3 },
  texture: { unit: "dB", justNoticeable: 2, halving: 8, weight: 0.5 },
};

export interface Closeness {
  /** 0–100. */
  score: number;
  /** Those that apply; the gap is the candidate's value less the target's. */
  aspects: { name: ClosenessAspect; score: number; gap: number }[];
}

/** Bands this far under the loudest are not heard beside it. */
const heardWithin = 35;
/** Attacks shorter than this sound the same. */
const shortestAttack = 2;
/** What is missing on one side only is a gap of so many semitones. */
const withoutPitch = 6;

const octavesBetween = (a: number | null, b: number | null): number | null =>
  a === null || b === null || a <= 0 || b <= 0 ? null : log2(b / a);

const meanOf = (values: readonly (number | null)[]): number | null => {
  const known = values.filter((value) => value !== null);
  return known.length > 0 ? known.reduce((sum, value) => sum + value, 0) / known.length : null;
};

/** Root-mean-square difference of third-octave levels, at equal loudness, where either is heard. */
function toneGap(a: readonly number[], b: readonly number[]): number {
  const loudest = max(...a, ...b);
  const heard = a.map((own, i) => max(own, b[i]!) > loudest - heardWithin);
  const floor = loudest - heardWithin - 6;
  const gaps = a.flatMap((own, i) => (heard[i] ? [max(floor, b[i]!) - max(floor, own)] : []));
  // Equal loudness of what is heard.
  const mean = gaps.reduce((sum, gap) => sum + gap, 0) / max(1, gaps.length);
  return sqrt(gaps.reduce((sum, gap) => sum + min(24, abs(gap - mean)) ** 2, 0) / max(1, gaps.length));
}

/** Pitches this near to an octave apart, in semitones, are one pitch that was read from another partial. */
const octaveWithin = 0.5;

export const withoutOctave = (semitones: number): number =>
  abs(abs(semitones) - 12) <= octaveWithin ? semitones - 12 * sign(semitones) : semitones;

/** What lies further off in tone, dB, is another kind of sound, whatever else it has in common. */
const stillRelated = 9;

/** @param target what is to be matched, of a track or a one-shot. */
export function closenessOf(target: HitMeasures, candidate: HitMeasures): Closeness {
  const pitched = (target.fundamentalHz !== null) === (candidate.fundamentalHz !== null);
  const semitones = octavesBetween(target.fundamentalHz, candidate.fundamentalHz);
  const glide =
    target.glideSemitones === null || candidate.glideSemitones === null
      ? null
      : candidate.glideSemitones - target.glideSemitones;
  const envelopes = target.bands.flatMap((own, i) => {
    const other = candidate.bands[i];
    if (!own || !other || min(own.levelDb, other.levelDb) < -heardWithin + 5) return [];
    return [octavesBetween(own.to20, other.to20), octavesBetween(own.to40, other.to40)];
  });
  const spread = meanOf(envelopes.map((gap) => gap && abs(gap)));
  const click =
    target.clickDb === null || candidate.clickDb === null ? null : candidate.clickDb - target.clickDb;
  const gaps: Record<ClosenessAspect, number | null> = {
    pitch: pitched ? semitones && withoutOctave(12 * semitones) : withoutPitch,
    glide,
    length: meanOf([
      octavesBetween(target.decay.to20, candidate.decay.to20),
      octavesBetween(target.decay.to40, candidate.decay.to40),
    ]),
    envelope: spread,
    attack: octavesBetween(max(shortestAttack, target.attackMs), max(shortestAttack, candidate.attackMs)),
    tone: toneGap(target.thirdOctaves, candidate.thirdOctaves),
    texture: click,
  };
  const aspects = closenessAspects.flatMap((name) => {
    const gap = gaps[name];
    return gap === null ? [] : [{ name, gap, score: scoreOf(gap, closenessRules[name]) }];
  });
  const score = weightedMean(aspects.map((own) => ({ ...own, weight: closenessRules[own.name].weight })));
  const strangeness = (gaps.tone! - stillRelated) / stillRelated;
  return { score: (score ?? 0) * (1 - 0.6 * min(1, max(0, strangeness))), aspects };
}

/**
 * Likeness of waveforms from which the same recording is told from one that is only like it, and at which
 * it is sure. Kicks are nearly sines, and so alike even if they are others.
 */
const sameness: Partial<Record<DrumVoice, readonly [from: Fraction, sure: Fraction]>> = {
  kick: [0.85, 0.97],
  tom: [0.85, 0.97],
};
const noisySameness = [0.45, 0.9] as const;

/**
 * The same recording shows in its waveform whatever its surroundings took away or added: likeness of the
 * waveforms raises the score.
 */
export function closenessWithWaveform(closeness: Closeness, likeness: Fraction, voice: DrumVoice): Closeness {
  const [from, at] = sameness[voice] ?? noisySameness;
  const sure = min(1, max(0, (likeness - from) / (at - from)));
  return { ...closeness, score: closeness.score + (100 - closeness.score) * sure };
}
