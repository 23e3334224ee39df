/** What an analysis yields: the shapes that are stored, compared and printed. */
import { z } from "zod";
import { drumEstimateSchema } from "../drums/hits";
import type { OnsetStrength } from "../grid/onset";
import { gridEstimateSchema } from "../grid/gridEstimate";
import { tempoEstimateSchema } from "../grid/tempoEstimate";
import { trackPlanSchema } from "../plan/trackPlan";
import type { PitchMap } from "../harmony/pitchMap";
import type { LevelCurves } from "../loudness";
import { twelfthCount, type BandMap } from "../tone";

/** Results made by another version are computed again. Raise it whenever a result can change. */
export const analysisVersion = 8;

const level = z.number().nullable();
const powers = z.array(z.number()).length(twelfthCount);

export const loudnessSchema = z.object({
  integratedLufs: level,
  loudnessRangeLu: level,
  truePeakDbtp: level,
  maxMomentaryLufs: level,
  maxShortTermLufs: level,
  peakToLoudnessLu: level,
  crestFactorDb: level,
  measuredSeconds: z.number(),
});

/** The small part of an analysis: numbers that are read often. */
export const trackAnalysisSchema = z.object({
  analysisVersion: z.number().int(),
  durationSeconds: z.number(),
  sampleRate: z.number(),
  channels: z.number().int(),
  /** Whether no measure of level has a meaning because nothing sounds. */
  silent: z.boolean(),
  /** Time before the first sound; null in silence. */
  leadInSeconds: z.number().nullable(),
  tempo: tempoEstimateSchema.nullable(),
  /** Null where there is no tempo or too little of it. */
  grid: gridEstimateSchema.nullable(),
  /** How far the track is tuned above A4 = 440 Hz. */
  tuningCents: z.number(),
  /** Key, chords and sections on the grid as measured. */
  plan: trackPlanSchema,
  /** Hits as heard, and when bass notes begin. */
  drums: drumEstimateSchema,
  loudness: loudnessSchema,
  clippedRuns: z.number().int(),
  dcOffsets: z.array(z.number()),
  /** Average power per twelfth-octave band of mid and side over the whole file. */
  spectrum: z.object({ mid: powers, side: powers }),
  /** Slope of the average spectrum, dB per octave of power density. */
  slopeDbPerOctave: level,
});

export type TrackAnalysis = z.infer<typeof trackAnalysisSchema>;

/** The large part of an analysis: curves over time, from which any span is measured. */
export interface TrackCurves {
  levels: Pick<LevelCurves, "energies" | "meanSquares" | "truePeaks">;
  bands: BandMap;
  onsets: OnsetStrength;
  pitches: PitchMap;
  /** Two bytes a block of 128 samples; see `waveformOverview`. */
  overview: Uint8Array;
}

/** The steps of an analysis after decoding, in order, with their share of the time. */
export const analysisStages = [
  { name: "loudness", says: "Measuring loudness and peaks", share: 0.27 },
  { name: "tone", says: "Measuring the spectrum", share: 0.16 },
  { name: "onsets", says: "Listening for onsets", share: 0.2 },
  { name: "pitches", says: "Listening for pitches", share: 0.08 },
  { name: "tempo", says: "Finding tempo and bars", share: 0.07 },
  { name: "drums", says: "Listening for drum hits", share: 0.2 },
  { name: "plan", says: "Finding key, chords and sections", share: 0.02 },
] as const;

export type AnalysisStage = (typeof analysisStages)[number]["name"];
