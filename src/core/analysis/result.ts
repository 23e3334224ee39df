/** What an analysis yields: the shapes that are stored, compared and printed. */
import { z } from "zod";
import {
  centsRange,
  countRange,
  decibelRange,
  fractionRange,
  hertzRange,
  lengthRange,
  powerRange,
  crossPowerRange,
} from "../ranges";
import { drumEstimateSchema } from "../drums/hits";
import { envelopeMeasuresSchema, type BandEnvelopes } from "../envelopes";
import type { OnsetStrength } from "../grid/onset";
import { gridEstimateSchema } from "../grid/gridEstimate";
import { tempoEstimateSchema } from "../grid/tempoEstimate";
import { trackPlanSchema } from "../plan/trackPlan";
import type { PitchSalience } from "../harmony/pitchSalience";
import { bassLineSchema, lowEndSchema, type LowEnd } from "../lowEnd";
import { mostClippedPlaces, type LevelCurves } from "../loudness";
import { fineBandCount } from "../tone/resonances";
import { twelfthCount, type FractionalOctaveSpectrogram } from "../tone";

/** Results made by another version are computed again. Raise it whenever a result can change. */
export const analysisVersion = 24;

const level = decibelRange.nullable();
const powers = z.array(powerRange).length(twelfthCount);
const crossPowers = z.array(crossPowerRange).length(twelfthCount);

export const loudnessSchema = z.object({
  integratedLufs: level,
  loudnessRangeLu: level,
  truePeakDbtp: level,
  maxMomentaryLufs: level,
  maxShortTermLufs: level,
  peakToLoudnessLu: level,
  crestFactorDb: level,
  measuredSeconds: lengthRange,
});

/** The small part of an analysis: numbers that are read often. */
export const trackAnalysisSchema = z.object({
  analysisVersion: z.number().int(),
  durationSeconds: lengthRange,
  sampleRate: hertzRange,
  channels: z.number().int().min(1).max(64),
  /** Whether no measure of level has a meaning because nothing sounds. */
  silent: z.boolean(),
  /** Time before the first sound; null in silence. */
  leadInSeconds: lengthRange.nullable(),
  tempo: tempoEstimateSchema.nullable(),
  /** Null where there is no tempo or too little of it. */
  grid: gridEstimateSchema.nullable(),
  /** How far the track is tuned above A4 = 440 Hz. */
  tuningCents: centsRange,
  /** Key, chords and sections on the grid as measured. */
  plan: trackPlanSchema,
  /** Hits as heard, and when bass notes begin. */
  drums: drumEstimateSchema,
  loudness: loudnessSchema,
  clippedRuns: countRange,
  /** The first of them. */
  clippedPlaces: z.array(z.object({ start: lengthRange, samples: countRange })).max(mostClippedPlaces),
  dcOffsets: z.array(z.number().min(-1000).max(1000)).max(2),
  /** Average power per twelfth-octave band of mid and side over the whole file. */
  spectrum: z.object({ mid: powers, side: powers, cross: crossPowers }),
  /** Slope of the average spectrum, dB per octave of power density. */
  slopeDbPerOctave: level,
  /** Narrow peaks of the spectrum that stay: `excess` per fine band, and the resonances among them. */
  narrowPeaks: z.object({
    excess: z.array(decibelRange).length(fineBandCount),
    resonances: z
      .array(z.object({ hz: hertzRange, heightDb: decibelRange, constancy: fractionRange }))
      .max(100),
  }),
  /** How pitch strays as a whole; null where partials can hardly be followed. */
  wobble: z
    .object({
      depthCents: z.number().min(0).max(1200),
      rateHz: z.number().min(0).max(100),
      confidence: fractionRange,
    })
    .nullable(),
  /** What hits, the space around them and the sound between them are like over the whole file. */
  envelopes: envelopeMeasuresSchema,
  /** The bass line as heard. */
  bass: bassLineSchema,
  /** Kick and bass below 100 Hz over the whole file. */
  lowEnd: lowEndSchema,
});

export type TrackAnalysis = z.infer<typeof trackAnalysisSchema>;

/** The large part of an analysis: curves over time, from which any span is measured. */
export interface TrackCurves {
  levels: Pick<LevelCurves, "kWeightedMeanSquares" | "meanSquares" | "truePeaks">;
  bands: FractionalOctaveSpectrogram;
  envelopes: BandEnvelopes;
  lowEnd: LowEnd;
  onsets: OnsetStrength;
  pitches: PitchSalience;
  /** Two bytes a block of 128 samples; see `waveformOverview`. */
  overview: Uint8Array;
}

/** The steps of an analysis after decoding, in order, with their share of the time. */
export const analysisStages = [
  { name: "loudness", label: "Measuring loudness and peaks", share: 0.16 },
  { name: "tone", label: "Measuring the spectrum", share: 0.09 },
  { name: "onsets", label: "Listening for onsets", share: 0.23 },
  { name: "drums", label: "Listening for drum hits", share: 0.07 },
  { name: "tempo", label: "Finding tempo and bars", share: 0.18 },
  { name: "pitches", label: "Listening for pitches", share: 0.09 },
  { name: "plan", label: "Finding key, chords and sections", share: 0.18 },
] as const;

export type AnalysisStage = (typeof analysisStages)[number]["name"];
