/**
 * The whole analysis of one file: what is stored, what the command line prints, what comparisons
 * are made of.
 */
import { z } from "zod";
import { durationOf, foldToStereo, type Signal } from "./audio/signal";
import { waveformOverview } from "./audio/overview";
import { loadFft } from "./dsp/fft";
import { onsetStrength, type OnsetStrength } from "./grid/onset";
import { estimateTempo, tempoEstimateSchema } from "./grid/tempo";
import { levelCurves, measureLoudness, type LevelCurves } from "./loudness";
import { averageSpectrum, bandMap, spectralSlope, twelfthCount, wholeOf, type BandMap } from "./tone";
import type { Fraction } from "./units";

/** Results made by another version are computed again. Raise it whenever a result can change. */
export const analysisVersion = 1;

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
  /** Two bytes a block of 128 samples; see `waveformOverview`. */
  overview: Uint8Array;
}

/** The steps of an analysis after decoding, in order, with their share of the time. */
export const analysisStages = [
  { name: "loudness", says: "Measuring loudness and peaks", share: 0.35 },
  { name: "tone", says: "Measuring the spectrum", share: 0.2 },
  { name: "onsets", says: "Listening for onsets", share: 0.35 },
  { name: "tempo", says: "Finding the tempo", share: 0.1 },
] as const;

export type AnalysisStage = (typeof analysisStages)[number]["name"];

/** Below this a sample counts as silence when the first sound is looked for: −60 dBFS. */
const firstSoundAmplitude = 0.001;

function leadIn(channels: readonly [Float32Array, Float32Array], sampleRate: number): number | null {
  const [left, right] = channels;
  for (let i = 0; i < left.length; i++) {
    if (Math.abs(left[i]!) > firstSoundAmplitude || Math.abs(right[i]!) > firstSoundAmplitude) {
      return i / sampleRate;
    }
  }
  return null;
}

/**
 * Analyses a decoded file.
 *
 * @param signal at least 1 s of finite samples.
 * @param onProgress called with the stage that runs and the share 0–1 of the whole that is done.
 */
export async function analyse(
  signal: Signal,
  onProgress: (stage: AnalysisStage, done: Fraction) => void = () => {},
): Promise<{ analysis: TrackAnalysis; curves: TrackCurves }> {
  await loadFft();
  let before = 0;
  const stage = (index: number) => {
    const { name, share } = analysisStages[index]!;
    const start = before;
    before += share;
    onProgress(name, start);
    return (done: Fraction) => onProgress(name, start + share * done);
  };

  stage(0);
  const stereo = foldToStereo(signal);
  const levels = levelCurves(signal);
  const loudness = measureLoudness(levels);
  const overview = waveformOverview(stereo);
  const bands = bandMap(stereo, signal.sampleRate, stage(1));
  const onsets = onsetStrength(stereo, signal.sampleRate, stage(2));
  stage(3);
  const tempo = estimateTempo(onsets);
  const spectrum = averageSpectrum(bands);
  onProgress("tempo", 1);

  return {
    analysis: {
      analysisVersion,
      durationSeconds: durationOf(signal),
      sampleRate: signal.sampleRate,
      channels: signal.channels.length,
      silent: loudness.integratedLufs === null,
      leadInSeconds: leadIn(stereo, signal.sampleRate),
      tempo,
      loudness,
      clippedRuns: levels.clippedRuns,
      dcOffsets: levels.dcOffsets,
      spectrum: { mid: Array.from(spectrum.mid), side: Array.from(spectrum.side) },
      slopeDbPerOctave: spectralSlope(wholeOf(spectrum)),
    },
    curves: {
      levels: { energies: levels.energies, meanSquares: levels.meanSquares, truePeaks: levels.truePeaks },
      bands,
      onsets,
      overview,
    },
  };
}
