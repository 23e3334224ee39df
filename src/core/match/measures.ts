/**
 * The one table of what is compared: the unit of each gap, from which size on it is heard, how
 * fast the score falls, and why. Starting values; the reasons say where they come from.
 */
import type { Decibels } from "../units";
import type { Tolerance } from "./score";

/** What whole mixes are compared in so far. */
export const mixAspects = [
  "tempo",
  "harmony",
  "form",
  "pattern",
  "timing",
  "swing",
  "accents",
  "bass",
  "lowEnd",
  "loudness",
  "dynamics",
  "punch",
  "pumping",
  "tone",
  "width",
  "space",
] as const;
export type MixAspect = (typeof mixAspects)[number];

/** What elements are compared in so far. */
export const elementAspects = [
  "level",
  "tone",
  "width",
  "presence",
  "movement",
  "space",
  "envelope",
  "pattern",
  "timing",
  "accents",
  "notes",
  "chords",
] as const;
export type ElementAspect = (typeof elementAspects)[number];

export type MeasureName =
  | "tempo"
  | "transposition"
  | "chords"
  | "sections"
  | "drumHits"
  | "hitTiming"
  | "swing"
  | "accents"
  | "bassNotes"
  | "bassLength"
  | "bassEvenness"
  | "noteTiming"
  | "kickLength"
  | "kickToBass"
  | "integratedLoudness"
  | "loudnessRange"
  | "peakToLoudness"
  | "attack"
  | "sustain"
  | "pumping"
  | "tone"
  | "width"
  | "reverberance"
  | "elementLevel"
  | "elementTone"
  | "elementWidth"
  | "elementBalance"
  | "presence"
  | "toneMovement"
  | "levelMovement"
  | "elementSpace"
  | "strokeLength";

export interface MeasureRule extends Tolerance {
  /** Name for people. */
  title: string;
  unit: "%" | "LU" | "dB" | "semitones" | "ms" | "points" | "octaves";
  /** Why these values. */
  reason: string;
}

/** So far a single band may be off without being heard; the average over all bands has a rule of its own. */
export const bandTolerance: Decibels = 1;

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
  drumHits: {
    title: "Drum hits in common",
    unit: "%",
    isShare: true,
    justNoticeable: 0,
    halving: 0,
    reason:
      "The F-measure of the hits, each weighed by its velocity, is the score; hits that were heard too unsurely to be called wrong count half.",
  },
  hitTiming: {
    title: "Timing of the hits",
    unit: "ms",
    justNoticeable: 5,
    halving: 15,
    reason:
      "5 ms is about what listeners notice between two voices; 15 ms makes another feel. Steps of the bar are averaged first, so that chance does not count.",
  },
  swing: {
    title: "Swing",
    unit: "points",
    justNoticeable: 1,
    halving: 5,
    reason: "One point is 2 to 3 ms at usual tempi; five points lie between straight and a clear shuffle.",
  },
  accents: {
    title: "Accents",
    unit: "dB",
    justNoticeable: 1.5,
    halving: 4,
    reason:
      "How hard the steps of a voice are struck beside one another; 1.5 dB is lost in the next hit, 4 dB is an accent that is there or not.",
  },
  bassNotes: {
    title: "Bass notes in common",
    unit: "%",
    justNoticeable: 4,
    halving: 30,
    reason:
      "The F-measure of the notes by beginning and pitch, weighed by length up to a beat and by how surely they were heard, less what the same line in another mix would have in common; the right note an octave off counts half. With 30 % less it is another line.",
  },
  bassLength: {
    title: "Length of the bass notes",
    unit: "octaves",
    justNoticeable: 0.3,
    halving: 1,
    reason:
      "How long notes last beside those they answer; a fifth longer is lost in the mix, twice as long is legato for staccato. Set by ear, no source.",
  },
  bassEvenness: {
    title: "Spread of the bass notes",
    unit: "dB",
    justNoticeable: 1,
    halving: 3,
    reason:
      "Standard deviation of their levels; 1 dB is within what one take differs from the next, 3 dB is a bass that needs compression or one that has too much. Set by ear, no source.",
  },
  noteTiming: {
    title: "Timing of the notes",
    unit: "ms",
    justNoticeable: 8,
    halving: 15,
    reason:
      "How much later or earlier the notes begin than those they answer, in the middle and beside the drums. A note rises more slowly than a stroke, so 8 ms are allowed; 15 ms more is another feel, as for drums. Set by ear, no source.",
  },
  kickLength: {
    title: "Length of the kick",
    unit: "octaves",
    justNoticeable: 0.15,
    halving: 0.5,
    reason:
      "Time until it has fallen by 20 dB, as a ratio; a tenth longer is within what a mix adds, half as long again is another kick. Set by ear, no source.",
  },
  kickToBass: {
    title: "Kick to bass",
    unit: "dB",
    justNoticeable: 1,
    halving: 4,
    reason:
      "Peak of the kicks over the bass below 100 Hz; 1 dB is a careful step of a fader, 4 dB changes which of them leads. Set by ear, no source.",
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
  attack: {
    title: "Attack of the hits",
    unit: "dB",
    justNoticeable: 1,
    halving: 3,
    reason:
      "How far kicks and back-beats stand out of the mix; 1 dB is lost in the next bar, 3 dB is a drum that leads or one that is buried. Set by ear, no source.",
  },
  sustain: {
    title: "Sustain of the hits",
    unit: "dB",
    justNoticeable: 1.5,
    halving: 4,
    reason:
      "What is left of them about a tenth of a second later; 1.5 dB is a slightly longer room, 4 dB another envelope. Set by ear, no source.",
  },
  pumping: {
    title: "Dip at the kicks",
    unit: "dB",
    justNoticeable: 1,
    halving: 4,
    reason:
      "How far everything else makes way for the kick; 1 dB is felt at most, 4 dB is a mix that plainly breathes with it. Set by ear, no source.",
  },
  tone: {
    title: "Average spectrum",
    unit: "dB",
    justNoticeable: 0.5,
    halving: 3,
    reason:
      "Half a dB on average over the bands, as 1 dB on a few of them, is heard only side by side; 3 dB is another sound altogether.",
  },
  width: {
    title: "Stereo width",
    unit: "dB",
    justNoticeable: 1.5,
    halving: 5,
    reason:
      "Side against mid per octave from 125 Hz up; 1.5 dB on average is lost in a room, 5 dB is the step from narrow to wide. Set by ear, no source.",
  },
  reverberance: {
    title: "Level in the gaps",
    unit: "dB",
    justNoticeable: 1.5,
    halving: 5,
    reason:
      "How far the level falls within a beat, in three ranges from 150 Hz: reverberance fills the gaps. 1.5 dB is within what one take differs from the next, 5 dB is another room. Set by ear, no source.",
  },
  elementLevel: {
    title: "Level in the mix",
    unit: "dB",
    justNoticeable: 0.5,
    halving: 3,
    reason: "Half a decibel is the step of a careful mixer; 3 dB is half the power.",
  },
  elementTone: {
    title: "Spectrum",
    unit: "dB",
    justNoticeable: 1,
    halving: 3,
    reason:
      "As for the whole spectrum, with the level difference taken out first; through the lens bar against bar, by what two of three bars share.",
  },
  elementWidth: {
    title: "Stereo width",
    unit: "dB",
    justNoticeable: 2,
    halving: 5,
    reason:
      "Side against mid over all of the part: softer bands, in which others are left, hardly count. As for the whole mix, with that allowed for.",
  },
  elementBalance: {
    title: "Left to right",
    unit: "dB",
    justNoticeable: 1.5,
    halving: 5,
    reason:
      "Power of left over right; 1.5 dB is lost in a room, 5 dB stands plainly to one side. Common practice, no source.",
  },
  toneMovement: {
    title: "Tone from bar to bar",
    unit: "dB",
    justNoticeable: 1,
    halving: 2,
    reason:
      "How far the spectra of single bars are apart, over all bands and bars, what is apart throughout left out; a filter that is half closed for half of the bars is 2 to 4 dB. Set by ear, no source.",
  },
  levelMovement: {
    title: "Level from bar to bar",
    unit: "dB",
    justNoticeable: 1.5,
    halving: 4,
    reason:
      "How far its level moves otherwise, what is apart throughout left out; 4 dB is a fade that is there or not. Set by ear, no source.",
  },
  elementSpace: {
    title: "Level in the gaps",
    unit: "dB",
    justNoticeable: 1.5,
    halving: 5,
    reason:
      "How far it falls within a beat, in the bars in which both play it. As for the whole mix: 1.5 dB is within what one take differs from the next, 5 dB is another room.",
  },
  strokeLength: {
    title: "Length of the strokes",
    unit: "octaves",
    justNoticeable: 0.15,
    halving: 0.5,
    reason:
      "Time until an even stroke with as much below its decay is 10 dB down, as a ratio; a tenth longer is hardly heard, half as long again is another decay. Set by ear, no source.",
  },
  presence: {
    title: "Bars played in",
    unit: "%",
    isShare: true,
    justNoticeable: 0,
    halving: 0,
    reason:
      "Of the bars in which it plays on either side, those in which it plays on both. It plays where its level is within 18 dB of its loud bars; bass and the rest also have to be more than what others left in the bar. Single bars without a stroke are pattern. Set by ear, no source.",
  },
};

/** Weights of aspects in a version's match until the producer sets others. */
export const defaultAspectWeights: Record<MixAspect, number> = {
  tempo: 2,
  harmony: 2,
  form: 1,
  pattern: 2,
  timing: 1,
  swing: 0.5,
  accents: 0.5,
  bass: 1,
  lowEnd: 1,
  loudness: 1,
  dynamics: 1,
  punch: 0.5,
  pumping: 0.5,
  tone: 3,
  width: 1,
  space: 0.5,
};

/** Weight of a new element in a version's match. */
export const defaultElementWeight = 0.5;

/** Spans shorter than this have no loudness range worth comparing (EBU R 128 s1, from memory). */
export const shortestForRangeSeconds = 60;

/** True peak above which a lossy encoder is likely to clip (EBU R 128: −1 dBTP). */
export const truePeakCeiling = -1;
