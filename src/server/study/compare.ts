/** Compares the chosen version of a study with its reference, in whole or over a selection. */
import { spanOfBars, type BarRange, type Grid } from "@/core/grid/grid";
import { asHits } from "@/core/drums/hits";
import type { TrackAnalysis } from "@/core/analysis/result";
import type { TrackMeasures } from "@/core/match";
import {
  compareAll,
  countedLens,
  coverageOf,
  coveredSpans,
  evidenceOf,
  measuredLens,
  measuresOfSpans,
  measuresOfWhole,
  sameSeconds,
  versionOf,
  type FullComparison,
  type Span,
  type StoredLens,
  type SpanPair,
  type StudyResults,
  type TrackRecord,
} from "@/core/study";
import { loadSpanCurves } from "../storage/analyses";
import type { Database } from "../storage/database";
import { loadLift } from "../storage/lifts";

/** A selection in the reference: whole bars, or seconds where there is no grid. */
export interface Selection {
  bars: BarRange | null;
  span: Span | null;
}

/** Both sides as measured, and what comes of holding them against each other. */
export interface StudyComparison {
  version: TrackRecord;
  spans: SpanPair;
  /** Whether nothing of the selection is recreated; both sides are then measured but not comparable. */
  nothingRecreated: boolean;
  /** Whether the two could be aligned by bars. */
  isAligned: boolean;
  /** Whether the result is being worked out again after a change. */
  outdated: boolean;
  /** Semitones by which the version was found to sound higher. */
  semitones: number | null;
  reference: TrackMeasures;
  measured: TrackMeasures;
  compared: FullComparison;
}

async function measuresOver(
  db: Database,
  track: TrackRecord,
  analysis: TrackAnalysis,
  spans: readonly Span[] | null,
  grid: Grid | undefined,
): Promise<TrackMeasures> {
  const bpm = grid?.bpm ?? analysis.tempo?.bpm ?? null;
  return spans
    ? measuresOfSpans(
        await loadSpanCurves(db, track.file.hash, analysis.durationSeconds),
        spans,
        bpm,
        asHits(analysis.drums),
      )
    : measuresOfWhole(analysis, bpm);
}

/** What the lens has lifted out of both sides in a selection; null where one has not been taken apart. */
async function lensOver(
  db: Database,
  reference: TrackRecord,
  version: TrackRecord,
  spans: SpanPair,
  { bars }: StoredLens,
): Promise<StoredLens | null> {
  const ours = await loadLift(db, reference.file.hash);
  const theirs = ours && (await loadLift(db, version.file.hash));
  return theirs ? { ...measuredLens(ours, theirs, spans, null), bars } : null;
}

/**
 * @param number of the version; the newest where there is none with it.
 * @returns null where one side has no result yet, or they are still being aligned.
 */
export async function compareInStudy(
  db: Database,
  results: StudyResults,
  number: number | null,
  selection: Selection,
): Promise<StudyComparison | null> {
  const { study, analyses, alignments, comparisons, grids } = results;
  const version = versionOf(study, number);
  const referenceAnalysis = study.reference && analyses.get(study.reference.file.hash);
  const versionAnalysis = version && analyses.get(version.file.hash);
  const pair = version && alignments.get(version.id);
  if (!study.reference || !referenceAnalysis || !version || !versionAnalysis || !pair) return null;
  const referenceGrid = grids.get(study.reference.id);
  const grid = grids.get(version.id);
  const wanted = selection.bars && referenceGrid ? spanOfBars(referenceGrid, selection.bars) : selection.span;
  const coverage = coverageOf(version, pair.value.alignment);
  const aligned = referenceGrid && grid && coverage.length > 0;
  const covered = aligned
    ? coveredSpans(wanted, { reference: referenceGrid, version: grid, spans: coverage })
    : null;
  const nothingRecreated = covered !== null && covered.reference.length === 0;
  const spans: SpanPair =
    covered && !nothingRecreated
      ? covered
      : covered
        ? { reference: wanted ? [wanted] : null, version: null }
        : sameSeconds(wanted, referenceAnalysis.durationSeconds, versionAnalysis.durationSeconds);
  // The whole has been measured with the alignment; only a selection is measured here.
  const isWhole = wanted === null && pair.current && !nothingRecreated;
  const measures = isWhole
    ? pair.value.measures
    : {
        reference: await measuresOver(db, study.reference, referenceAnalysis, spans.reference, referenceGrid),
        version: await measuresOver(db, version, versionAnalysis, spans.version, grid),
      };
  const stored = results.lenses.get(version.id)?.value;
  const lifted = stored && (isWhole ? stored : await lensOver(db, study.reference, version, spans, stored));
  const lens = lifted ? countedLens(lifted, coverage, wanted && selection.bars) : null;
  const semitones = pair.value.alignment?.semitones ?? null;
  const comparison = comparisons.get(version.id);
  return {
    version,
    spans,
    nothingRecreated,
    isAligned: Boolean(aligned),
    outdated: !pair.current || !comparison?.current,
    semitones,
    reference: measures.reference,
    measured: measures.version,
    compared: compareAll(
      measures.reference,
      measures.version,
      study,
      semitones,
      comparison?.value ?? null,
      lens,
      evidenceOf(version, pair.value.alignment, study),
      results.style,
    ),
  };
}
