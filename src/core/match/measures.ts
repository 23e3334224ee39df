/**
 * The one table of what is compared: the unit of each gap, from which size on it is heard, how
 * fast the score falls, and why. Starting values; the reasons say where they come from.
 */
import type { Tolerance } from "./score";

/** What whole mixes are compared in so far. */
export const mixAspects = ["tempo", "harmony", "form", "loudness", "dynamics", "tone"] as const;
export type MixAspect = (typeof mixAspects)[number];

/** What elements are compared in so far. */
export const elementAspects = ["level", "tone"] as const;
export type ElementAspect = (typeof elementAspects)[number];

export type MeasureName =
  | "tempo"
  | "transposition"
  | "chords"
  | "sections"
  | "integratedLoudness"
  | "loudnessRange"
  | "peakToLoudness"
  | "tone"
  | "elementLevel"
  | "elementTone";

export interface MeasureRule extends Tolerance {
  /** Name for people. */
  title: string;
  unit: "%" | "LU" | "dB" | "semitones";
  /** Why these values. */
  reason: string;
}

export const measureRules: Record<MeasureName, MeasureRule> = {
  tempo: {
    title: "Tempo",
    unit: "%",
    justNoticeable: 0.05,
    halving: 1,
    reason:
      "0.05 % drifts by 10 ms in 20 s, which no bar shows; 1 % is a different tempo to anyone who plays along.",
  },
  transposition: {
    title: "Transposition",
    unit: "semitones",
    justNoticeable: 0.1,
    halving: 1,
    reason: "Ten cents are heard only when both sound together; a semitone is another key.",
  },
  chords: {
    title: "Chords in common",
    unit: "%",
    isShare: true,
    justNoticeable: 0,
    halving: 0,
    reason: "The share of beats on which both have the same chord, as major or minor, is the score.",
  },
  sections: {
    title: "Bars recreated",
    unit: "%",
    isShare: true,
    justNoticeable: 0,
    halving: 0,
    reason:
      "Of the bars from the first in common to the last, counted where they are more, the share in common is the score.",
  },
  integratedLoudness: {
    title: "Integrated loudness",
    unit: "LU",
    justNoticeable: 0.5,
    halving: 2,
    reason: "Half a loudness unit is about what listeners can tell apart; 2 LU is heard at once.",
  },
  loudnessRange: {
    title: "Loudness range",
    unit: "LU",
    justNoticeable: 1,
    halving: 3,
    reason: "Ranges within 1 LU sound equally lively; 3 LU separates a flat master from a dynamic one.",
  },
  peakToLoudness: {
    title: "Peak-to-loudness ratio",
    unit: "LU",
    justNoticeable: 1,
    halving: 3,
    reason: "1 LU comes and goes with one loud hit; 3 LU is a clearly harder or softer limiter.",
  },
  tone: {
    title: "Average spectrum",
    unit: "dB",
    justNoticeable: 1,
    halving: 3,
    reason: "1 dB on average over the bands is heard only side by side; 3 dB is another sound altogether.",
  },
  elementLevel: {
    title: "Level in the focus",
    unit: "dB",
    justNoticeable: 0.5,
    halving: 3,
    reason: "Half a decibel is the step of a careful mixer; 3 dB is half the power.",
  },
  elementTone: {
    title: "Spectrum in the focus",
    unit: "dB",
    justNoticeable: 1,
    halving: 3,
    reason: "As for the whole spectrum, with the level difference taken out first.",
  },
};

/** Weights of aspects in a version's match until the producer sets others. */
export const defaultAspectWeights: Record<MixAspect, number> = {
  tempo: 2,
  harmony: 2,
  form: 1,
  loudness: 1,
  dynamics: 1,
  tone: 3,
};

/** Weight of a new element in a version's match. */
export const defaultElementWeight = 0.5;

/** Spans shorter than this have no loudness range worth comparing (EBU R 128 s1, from memory). */
export const shortestForRangeSeconds = 60;

/** True peak above which a lossy encoder is likely to clip (EBU R 128: −1 dBTP). */
export const truePeakCeiling = -1;
