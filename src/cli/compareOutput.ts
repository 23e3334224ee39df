/** What `compare` prints; times in seconds. */
import { z } from "zod";
import { countedDrums } from "@/core/drums";
import type { Grid } from "@/core/grid/grid";
import { countedPlan } from "@/core/plan";
import {
  equalised,
  fitMoves,
  fitResolution,
  moveSchema,
  wrongCureSchema,
  type WrongCure,
} from "@/core/equaliser";
import {
  compareMixes,
  defaultElementWeight,
  evidenceShare,
  gainToReference,
  measureRules,
  type ComparedAspect,
  type ComparedElement,
  type IntendedChanges,
  type TrackMeasures,
} from "@/core/match";
import { lensParts, type LensPart, type LiftedTrack } from "@/core/lens";
import { gapCurve, wholeOf } from "@/core/tone";
import { lensNames } from "@/models/elements";
import { findingsOf } from "@/models/findings";
import {
  gridOfSide,
  alignVersion,
  comparisonSide,
  compareVersion,
  countedComparison,
  countedLens,
  coveredSpans,
  elementsThroughLens,
  measuredLens,
  noCorrections,
  timesOf,
  versionGrid,
  type AlignmentSide,
  type FullComparison,
  type StoredAlignment,
} from "@/core/study";

const level = z.number().nullable();

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
  /** What the lens lifts out of both, how each compares, and how much its score is to be trusted, 0–1. */
  elements: z.array(
    z.object({
      name: z.string(),
      kind: z.enum(lensParts),
      score: z.number().nullable(),
      /** By how many points the score may be off, by how exactly it was measured. */
      spread: z.number().nullable(),
      sure: z.number().min(0).max(1),
      aspects: z.array(z.object({ name: z.string(), score: level, gap: level, unit: z.string() })),
      /** Which others stand above it in the version more than they do in the reference, and how far. */
      covered: z.array(
        z.object({
          by: z.enum(lensParts),
          fromHz: z.number(),
          toHz: z.number(),
          referenceDb: z.number(),
          versionDb: z.number(),
          bars: z.array(z.number().int()),
        }),
      ),
    }),
  ),
  /** What to do, the most valuable first: points of the match, bars of the reference and the part that it is about. */
  next: z.array(
    z.object({
      title: z.string(),
      detail: z.string(),
      points: z.number().nullable(),
      bars: z.array(z.number().int()),
      element: z.enum(lensParts).nullable(),
    }),
  ),
  /** Bars of the reference that the version answers. */
  recreatedBars: z.number().int().min(0),
  /** Probability that the two have to do with each other; null where one has no bars. */
  related: z.number().min(0).max(1).nullable(),
  /** The shortest list of filters that brings the version near, and where filters can't help. */
  equaliser: z.object({
    moves: z.array(moveSchema),
    gapBeforeDb: z.number(),
    gapAfterDb: z.number(),
    wrongCure: z.array(wrongCureSchema),
  }),
  /** What was said to be intended. */
  intended: z.object({ semitones: z.number(), tempoRatio: z.number() }),
  /** What lining up found. */
  found: z.object({ semitones: level, tempoRatio: z.number() }),
});

export type CompareOutput = z.infer<typeof compareOutputSchema>;

/** The measure of an aspect that scores lowest. */
function worstOf({ name, score, measures }: ComparedAspect<string>) {
  const worst = measures.reduce((a, b) => ((b.score ?? 101) < (a.score ?? 101) ? b : a));
  return { name, score, gap: worst.gap, unit: measureRules[worst.name].unit };
}

/** A track with what the lens has lifted out of it. */
export interface LiftedSide extends AlignmentSide {
  lifted: LiftedTrack;
}

/** What to do, with each part as an element of the weight that new studies give it. */
function nextOutput(
  { mix, elements, evidence }: Pick<FullComparison, "mix" | "evidence"> & { elements: ComparedElement[] },
  { reference, version }: StoredAlignment["measures"],
): CompareOutput["next"] {
  const compared: FullComparison = {
    mix,
    evidence,
    match: null,
    elements: elements.map((own, i) => ({
      compared: own,
      element: {
        id: lensParts[i]!,
        name: lensNames[lensParts[i]!],
        lens: lensParts[i]!,
        fromHz: 20,
        toHz: 20_000,
        state: "in work",
        note: "",
        weight: defaultElementWeight,
        target: null,
        hidden: false,
      },
    })),
  };
  return findingsOf(compared, reference, version).map(({ title, detail, points, bars, place }) => ({
    title,
    detail,
    points,
    bars: bars ?? [],
    element: place.kind === "element" ? (place.elementId as LensPart) : null,
  }));
}

/** Moves for all that is compared, their worth, and what filters can't mend. */
function equaliserOutput(
  reference: TrackMeasures,
  version: TrackMeasures,
  sampleRate: number,
  wrongCure: WrongCure[],
): CompareOutput["equaliser"] {
  const gain = gainToReference(reference, version);
  const curve = gapCurve(wholeOf(reference.spectrum), wholeOf(version.spectrum), gain, fitResolution);
  const moves = fitMoves(curve, sampleRate);
  const left = (own: typeof moves) => equalised(curve, own, fitResolution, sampleRate).left;
  return { moves, gapBeforeDb: left([]), gapAfterDb: left(moves), wrongCure };
}

/**
 * Compares over the bars that answer each other. An aspect made of several measures gives the gap of
 * the one that scores lowest. Without a study elements do not count in the match; where the two have little to
 * do with each other, only a share of it counts.
 */
export function compareOutput(
  reference: LiftedSide,
  version: LiftedSide,
  intended: IntendedChanges,
): CompareOutput {
  const { alignment, measures } = alignVersion(reference, version);
  const semitones = alignment?.semitones ?? null;
  const grids = {
    reference: gridOfSide(reference),
    version: versionGrid(gridOfSide(version), {}, alignment, gridOfSide(reference)),
  };
  const lined =
    grids.reference && grids.version && alignment
      ? { reference: grids.reference, version: grids.version, spans: alignment.spans }
      : null;
  const side = (own: AlignmentSide, grid: Grid | null) => {
    const ownGrid = gridOfSide(own);
    const drums = countedDrums(own.analysis.drums, {}, ownGrid);
    return comparisonSide(
      own.analysis,
      noCorrections,
      countedPlan(own.analysis.plan),
      drums,
      grid,
      ownGrid,
      own.curves,
    );
  };
  const compared = compareVersion(
    side(reference, grids.reference),
    side(version, grids.version),
    lined?.spans ?? [],
  );
  const mix = compareMixes(measures.reference, measures.version, {
    semitones,
    intended,
    ...countedComparison(compared, intended),
  });
  const evidence = evidenceShare({
    related: alignment?.related ?? null,
    harmony: alignment?.harmony ?? null,
    isSaid: false,
  });
  const coverage = lined?.spans ?? [];
  const spans = lined && coverage.length > 0 ? coveredSpans(null, lined) : { reference: null, version: null };
  const lens = countedLens(measuredLens(reference.lifted, version.lifted, spans, lined), coverage);
  const elements = elementsThroughLens(measures.reference, measures.version, lens, compared, intended);
  const tempoRatio = (bpm: number | null | undefined) =>
    bpm && grids.reference ? bpm / grids.reference.bpm : 1;
  return {
    match: mix.match && evidence * mix.match,
    aspects: mix.aspects.map(worstOf),
    next: nextOutput({ mix, elements, evidence }, measures),
    elements: elements.map(({ aspects: own, score, spread, trust, bars }, i) => ({
      name: lensParts[i]!,
      kind: lensParts[i]!,
      score,
      spread,
      sure: trust,
      aspects: own.map(worstOf),
      covered: (bars?.coverings ?? []).map((covering) => ({
        by: covering.by,
        fromHz: covering.fromHz,
        toHz: covering.toHz,
        referenceDb: covering.reference,
        versionDb: covering.version,
        bars: covering.bars,
      })),
    })),
    recreatedBars: coverage.reduce((sum, { bars }) => sum + bars, 0),
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
    related: alignment?.related ?? null,
    equaliser: equaliserOutput(
      measures.reference,
      measures.version,
      version.analysis.sampleRate,
      compared.wrongCures,
    ),
    intended: { semitones: intended.semitones, tempoRatio: tempoRatio(intended.bpm) },
    found: { semitones, tempoRatio: tempoRatio(grids.version?.bpm) },
  };
}
