/** The shapes that the commands print; times in seconds. */
import { z } from "zod";
import type { TrackAnalysis } from "@/core/analysis/result";
import { tempoEstimateSchema } from "@/core/grid/tempoEstimate";
import { compareMixes, measureRules } from "@/core/match";
import { measuresOfWhole } from "@/core/study";

const level = z.number().nullable();

export const analyzeOutputSchema = z.object({
  durationSeconds: z.number(),
  sampleRate: z.number(),
  channels: z.number(),
  tempo: tempoEstimateSchema.extend({ beatsPerBar: z.number().optional() }).nullable(),
  beats: z.array(z.number()),
  downbeats: z.array(z.number()),
  loudness: z.object({
    integratedLufs: level,
    loudnessRangeLu: level,
    truePeakDbtp: level,
    maxMomentaryLufs: level,
    maxShortTermLufs: level,
  }),
});

export type AnalyzeOutput = z.infer<typeof analyzeOutputSchema>;

export const compareOutputSchema = z.object({
  match: z.number().nullable(),
  aspects: z.array(
    z.object({
      name: z.string(),
      score: z.number().nullable(),
      gap: z.number().nullable(),
      unit: z.string(),
    }),
  ),
  intended: z.object({ semitones: z.number(), tempoRatio: z.number() }),
});

export type CompareOutput = z.infer<typeof compareOutputSchema>;

export const analyzeOutput = ({
  durationSeconds,
  sampleRate,
  channels,
  tempo,
  grid,
  loudness,
}: TrackAnalysis): AnalyzeOutput =>
  analyzeOutputSchema.parse({
    durationSeconds,
    sampleRate,
    channels,
    tempo: tempo && { ...tempo, ...(grid ? { beatsPerBar: grid.beatsPerBar } : {}) },
    beats: grid?.beats ?? [],
    downbeats: grid?.downbeats ?? [],
    loudness,
  });

/**
 * Compares whole mixes. An aspect made of several measures gives the gap of the one that scores
 * lowest. Without a study there are no elements and no intended changes.
 */
export function compareOutput(reference: TrackAnalysis, version: TrackAnalysis): CompareOutput {
  const { match, aspects } = compareMixes(measuresOfWhole(reference), measuresOfWhole(version));
  return {
    match,
    aspects: aspects.map(({ name, score, measures }) => {
      const worst = measures.reduce((a, b) => ((b.score ?? 101) < (a.score ?? 101) ? b : a));
      return { name, score, gap: worst.gap, unit: measureRules[worst.name].unit };
    }),
    intended: { semitones: 0, tempoRatio: 1 },
  };
}
