/** The shapes that the commands print; times in seconds. */
import { z } from "zod";
import type { TrackAnalysis } from "@/core/analysis/result";
import { mainSwing } from "@/core/grid/swing";
import { tempoEstimateSchema } from "@/core/grid/tempoEstimate";
import { compareMixes, measureRules, type IntendedChanges } from "@/core/match";
import { gridOfSide, lineUp, timesOf, versionGrid, type LineUpSide } from "@/core/study";

const level = z.number().nullable();

export const analyzeOutputSchema = z.object({
  durationSeconds: z.number(),
  sampleRate: z.number(),
  channels: z.number(),
  tempo: tempoEstimateSchema.extend({ beatsPerBar: z.number().optional() }).nullable(),
  beats: z.array(z.number()),
  downbeats: z.array(z.number()),
  tuningCents: z.number(),
  drums: z.object({ swingPercent: z.number() }),
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
  coverage: z.array(
    z.object({
      referenceStart: z.number(),
      referenceEnd: z.number(),
      versionStart: z.number(),
      versionEnd: z.number(),
    }),
  ),
  /** What was said to be meant. */
  intended: z.object({ semitones: z.number(), tempoRatio: z.number() }),
  /** What lining up found. */
  found: z.object({ semitones: level, tempoRatio: z.number() }),
});

export type CompareOutput = z.infer<typeof compareOutputSchema>;

export const analyzeOutput = ({
  durationSeconds,
  sampleRate,
  channels,
  tempo,
  grid,
  tuningCents,
  loudness,
}: TrackAnalysis): AnalyzeOutput =>
  analyzeOutputSchema.parse({
    durationSeconds,
    sampleRate,
    channels,
    tempo: tempo && { ...tempo, ...(grid ? { beatsPerBar: grid.beatsPerBar } : {}) },
    beats: grid?.beats ?? [],
    downbeats: grid?.downbeats ?? [],
    tuningCents,
    drums: { swingPercent: grid ? mainSwing(grid.swing).percent : 50 },
    loudness,
  });

/**
 * Compares over the bars that answer each other. An aspect made of several measures gives the gap of
 * the one that scores lowest. Without a study there are no elements.
 */
export function compareOutput(
  reference: LineUpSide,
  version: LineUpSide,
  intended: IntendedChanges,
): CompareOutput {
  const { alignment, measures } = lineUp(reference, version);
  const semitones = alignment?.semitones ?? null;
  const { match, aspects } = compareMixes(measures.reference, measures.version, { semitones, intended });
  const grids = {
    reference: gridOfSide(reference),
    version: versionGrid(gridOfSide(version), {}, alignment, gridOfSide(reference)),
  };
  const lined =
    grids.reference && grids.version && alignment
      ? { reference: grids.reference, version: grids.version, spans: alignment.spans }
      : null;
  const tempoRatio = (bpm: number | null | undefined) =>
    bpm && grids.reference ? bpm / grids.reference.bpm : 1;
  return {
    match,
    aspects: aspects.map(({ name, score, measures: parts }) => {
      const worst = parts.reduce((a, b) => ((b.score ?? 101) < (a.score ?? 101) ? b : a));
      return { name, score, gap: worst.gap, unit: measureRules[worst.name].unit };
    }),
    coverage: lined
      ? lined.spans.map((span) => {
          const times = timesOf(span, lined);
          return {
            referenceStart: times.reference.from,
            referenceEnd: times.reference.to,
            versionStart: times.version.from,
            versionEnd: times.version.to,
          };
        })
      : [],
    intended: { semitones: intended.semitones, tempoRatio: tempoRatio(intended.bpm) },
    found: { semitones, tempoRatio: tempoRatio(grids.version?.bpm) },
  };
}
