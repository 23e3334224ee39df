/** What chords, sections and drums of a version have in common with its reference: all that is stored of a comparison. */
import { z } from "zod";
import type { CoverageSpan } from "../align/coverage";
import { compareDrums, drumGaps, type DrumSide, type DrumSummary } from "../drums/compareDrums";
import { drumVoiceSchema } from "../drums/voices";
import { wrongCures, wrongCureSchema, type AnsweringSpan, type ToneSide, type WrongCure } from "../equaliser";
import { bassSummarySchema, compareBass, lowEndSchema, type BassSide, type BassSummary } from "../lowEnd";
import type { DrumGaps, IntendedChanges, LowFigures, LowGaps, PlanOverlap } from "../match";
import { planOverlap, summarisePlans, type PlanSide, type PlanSummary } from "../plan/comparePlans";
import type { Grid } from "../grid/grid";
import { timesOf } from "./spans";
import { measuredStems, storedStemPairSchema, type StemSound, type StoredStemPair } from "./stemPairs";
import {
  barRange,
  countRange,
  decibelRange,
  fractionRange,
  mostBeats,
  percentRange,
  secondsRange,
} from "../ranges";

/** Raise it whenever comparing can give another result for the same analyses. */
export const comparisonVersion = 6;

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
  inBars: z.array(z.object({ bar: barRange, missing: weightRange, extra: weightRange })).max(mostBeats),
});

const lowFiguresSchema = lowEndSchema.pick({
  kickLengthBeats: true,
  kickLengthIsSure: true,
  kickToBassDb: true,
  bassEvennessDb: true,
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
  bass: bassSummarySchema.nullable(),
  lowEnd: z.object({ reference: lowFiguresSchema, version: lowFiguresSchema }).nullable(),
  wrongCures: z.array(wrongCureSchema).max(40),
  stems: z.record(z.string().max(64), storedStemPairSchema),
});

/** What is stored of a version's comparison: it holds for whatever is intended and however it is weighed. */
export interface StoredComparison {
  /** Null where one side has no bars. */
  plans: PlanSummary | null;
  drums: DrumSummary | null;
  bass: BassSummary | null;
  /** Over the whole of both files; null where one side has no bars. */
  lowEnd: { reference: LowFigures; version: LowFigures } | null;
  /** Where no filter can mend the gap of the spectra. */
  wrongCures: WrongCure[];
  /** By element, of those that have stems on both sides. */
  stems: Record<string, StoredStemPair>;
}

/** One side of a comparison; null where it has no grid. */
export interface ComparisonSide {
  plan: PlanSide | null;
  drums: DrumSide | null;
  bass: BassSide | null;
  lowEnd: LowFigures;
  tone: ToneSide | null;
  /** Stems that are tied to elements. */
  stems?: readonly StemSound[];
}

/** @param spans bars that answer each other; none where the two are not aligned. */
export function compareVersion(
  reference: ComparisonSide,
  version: ComparisonSide,
  spans: readonly CoverageSpan[],
): StoredComparison {
  if (spans.length === 0)
    return { plans: null, drums: null, bass: null, lowEnd: null, wrongCures: [], stems: {} };
  const drums = reference.drums && version.drums ? compareDrums(reference.drums, version.drums, spans) : null;
  return {
    plans: reference.plan && version.plan ? summarisePlans(reference.plan, version.plan, spans) : null,
    drums: drums && { voices: drums.voices, swing: drums.swing, bothPlay: drums.bothPlay },
    bass:
      reference.bass && version.bass
        ? compareBass(reference.bass, version.bass, spans, drums?.gridShift ?? 0)
        : null,
    lowEnd: { reference: figuresOf(reference.lowEnd), version: figuresOf(version.lowEnd) },
    wrongCures:
      reference.tone && version.tone && reference.plan && version.plan
        ? wrongCures(reference.tone, version.tone, answeringPassages(reference.plan, version.plan, spans))
        : [],
    stems:
      reference.plan && version.plan
        ? stemsOfSides(
            reference,
            version,
            { reference: reference.plan.grid, version: version.plan.grid },
            spans,
          )
        : {},
  };
}

function stemsOfSides(
  { stems: ours = [] }: ComparisonSide,
  { stems: theirs = [] }: ComparisonSide,
  grids: { reference: Grid; version: Grid },
  spans: readonly CoverageSpan[],
): Record<string, StoredStemPair> {
  const times = spans.map((span) => timesOf(span, grids));
  return measuredStems([ours, theirs], grids, spans, {
    reference: times.map(({ reference }) => reference),
    version: times.map(({ version }) => version),
  });
}

const figuresOf = ({
  kickLengthBeats,
  kickLengthIsSure,
  kickToBassDb,
  bassEvennessDb,
}: LowFigures): LowFigures => ({
  kickLengthBeats,
  kickLengthIsSure,
  kickToBassDb,
  bassEvennessDb,
});

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
  { plans, drums, bass, lowEnd }: Omit<StoredComparison, "wrongCures" | "stems">,
  { semitones, drums: intended = [] }: IntendedChanges,
): { plans: PlanOverlap | null; drums: DrumGaps | null; low: LowGaps | null } {
  const overlap = bass?.overlaps[((semitones % 12) + 12) % 12] ?? null;
  return {
    low: lowEnd && {
      ...lowEnd,
      notes: overlap === null || !bass?.expected ? null : { overlap, expected: bass.expected },
      lengthOctaves: bass?.lengthOctaves ?? null,
      late: bass?.late ?? null,
    },
    plans: plans && planOverlap(plans, semitones),
    drums: drums && drumGaps(drums, intended),
  };
}
