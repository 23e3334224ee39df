/** What chords, sections and drums of a version have in common with its reference: all that is stored of a comparison. */
import { z } from "zod";
import type { CoverageSpan } from "../align/coverage";
import { compareDrums, drumGaps, type DrumSide, type DrumSummary } from "../drums/compareDrums";
import { drumVoiceSchema } from "../drums/voices";
import { wrongCures, wrongCureSchema, type AnsweringSpan, type ToneSide, type WrongCure } from "../equaliser";
import type { DrumGaps, IntendedChanges, PlanOverlap } from "../match";
import { planOverlap, summarisePlans, type PlanSide, type PlanSummary } from "../plan/comparePlans";
import { timesOf } from "./spans";
import { countRange, decibelRange, fractionRange, percentRange, secondsRange } from "../ranges";

/** Raise it whenever comparing can give another result for the same analyses. */
export const comparisonVersion = 2;

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
  wrongCures: z.array(wrongCureSchema).max(40),
});

/** What is stored of a version's comparison: it holds for whatever is intended and however it is weighed. */
export interface StoredComparison {
  /** Null where one side has no bars. */
  plans: PlanSummary | null;
  drums: DrumSummary | null;
  /** Where no filter can mend the gap of the spectra. */
  wrongCures: WrongCure[];
}

/** One side of a comparison; null where it has no grid. */
export interface ComparisonSide {
  plan: PlanSide | null;
  drums: DrumSide | null;
  tone: ToneSide | null;
}

/** @param spans bars that answer each other; none where the two are not aligned. */
export function compareVersion(
  reference: ComparisonSide,
  version: ComparisonSide,
  spans: readonly CoverageSpan[],
): StoredComparison {
  if (spans.length === 0) return { plans: null, drums: null, wrongCures: [] };
  const drums = reference.drums && version.drums ? compareDrums(reference.drums, version.drums, spans) : null;
  return {
    plans: reference.plan && version.plan ? summarisePlans(reference.plan, version.plan, spans) : null,
    drums: drums && { voices: drums.voices, swing: drums.swing, bothPlay: drums.bothPlay },
    wrongCures:
      reference.tone && version.tone && reference.plan && version.plan
        ? wrongCures(reference.tone, version.tone, answeringPassages(reference.plan, version.plan, spans))
        : [],
  };
}

/** Bars that the gap of the spectra is followed in at once. */
const passageBars = 2;

/** Bars that answer each other in twos, with the section of the reference that they lie in. */
export function answeringPassages(
  reference: PlanSide,
  version: PlanSide,
  spans: readonly CoverageSpan[],
): AnsweringSpan[] {
  const grids = { reference: reference.grid, version: version.grid };
  const sectionAt = (bar: number) =>
    reference.plan.sections.findIndex(({ firstBar, lastBar }) => bar >= firstBar && bar <= lastBar);
  return spans.flatMap(({ referenceFirst, versionFirst, bars }) =>
    Array.from({ length: Math.ceil(bars / passageBars) }, (_, i) => {
      const first = i * passageBars;
      const times = timesOf(
        {
          referenceFirst: referenceFirst + first,
          versionFirst: versionFirst + first,
          bars: Math.min(passageBars, bars - first),
        },
        grids,
      );
      return { ...times, section: sectionAt(referenceFirst + first) };
    }),
  );
}

/** What counts of a stored comparison with what is intended. */
export function countedComparison(
  { plans, drums }: Pick<StoredComparison, "plans" | "drums">,
  { semitones, drums: intended = [] }: IntendedChanges,
): { plans: PlanOverlap | null; drums: DrumGaps | null } {
  return {
    plans: plans && planOverlap(plans, semitones),
    drums: drums && drumGaps(drums, intended),
  };
}
