/** What chords, sections and drums of a version have in common with its reference: all that is stored of a comparison. */
import { z } from "zod";
import type { CoverageSpan } from "../align/coverage";
import { compareDrums, drumGaps, type DrumSide, type DrumSummary } from "../drums/compareDrums";
import { drumVoiceSchema } from "../drums/voices";
import type { DrumGaps, IntendedChanges, PlanOverlap } from "../match";
import { planOverlap, summarisePlans, type PlanSide, type PlanSummary } from "../plan/comparePlans";
import { countRange, decibelRange, fractionRange, percentRange, secondsRange } from "../ranges";

/** Raise it whenever comparing can give another result for the same analyses. */
export const comparisonVersion = 1;

const weightRange = z.number().min(0).max(1e7);

const voiceSchema = z.object({
  voice: drumVoiceSchema,
  pattern: fractionRange,
  weight: weightRange,
  timing: secondsRange.nullable(),
  meanTimingDeviation: secondsRange.nullable(),
  accents: decibelRange.nullable(),
  matched: countRange,
  missing: countRange,
  extra: countRange,
  weights: z.object({ agreed: weightRange, missing: weightRange, extra: weightRange }),
});

export const storedComparisonSchema = z.object({
  plans: z
    .object({
      chordOverlaps: z.array(fractionRange.nullable()).length(12),
      formOverlap: fractionRange.nullable(),
    })
    .nullable(),
  drums: z
    .object({
      voices: z.array(voiceSchema),
      swing: z
        .object({
          of: z.union([z.literal(8), z.literal(16)]),
          reference: percentRange,
          version: percentRange,
        })
        .nullable(),
      bothPlay: z.boolean(),
    })
    .nullable(),
});

/** What is stored of a version's comparison: it holds for whatever is intended and however it is weighed. */
export interface StoredComparison {
  /** Null where one side has no bars. */
  plans: PlanSummary | null;
  drums: DrumSummary | null;
}

/** One side of a comparison; null where it has no grid. */
export interface ComparisonSide {
  plan: PlanSide | null;
  drums: DrumSide | null;
}

/** @param spans bars that answer each other; none where the two are not aligned. */
export function compareVersion(
  reference: ComparisonSide,
  version: ComparisonSide,
  spans: readonly CoverageSpan[],
): StoredComparison {
  if (spans.length === 0) return { plans: null, drums: null };
  const drums = reference.drums && version.drums ? compareDrums(reference.drums, version.drums, spans) : null;
  return {
    plans: reference.plan && version.plan ? summarisePlans(reference.plan, version.plan, spans) : null,
    drums: drums && { voices: drums.voices, swing: drums.swing, bothPlay: drums.bothPlay },
  };
}

/** What counts of a stored comparison with what is intended. */
export function countedComparison(
  { plans, drums }: StoredComparison,
  { semitones, drums: intended = [] }: IntendedChanges,
): { plans: PlanOverlap | null; drums: DrumGaps | null } {
  return {
    plans: plans && planOverlap(plans, semitones),
    drums: drums && drumGaps(drums, intended),
  };
}
