/** Compares the chosen version of a study with its reference, in whole or over a selection. */
import { spanOfBars, type BarRange, type Grid } from "@/core/grid/grid";
import { asHits } from "@/core/drums/hits";
import type { TrackAnalysis } from "@/core/analysis/result";
import { compareAspects, type Comparison, type MixAspect, type TrackMeasures } from "@/core/match";
import {
  compareAll,
  countedLens,
  countedStemPairs,
  measuredStems,
  type StoredStemPair,
  setPresence,
  coverageOf,
  coveredSpans,
  evidenceOf,
  gainOf,
  measuredLensOver,
  measuresOfSpans,
  measuresOfWhole,
  sameSeconds,
  settingsOf,
  versionOf,
  type FullComparison,
  type Span,
  type StoredLens,
  type SpanPair,
  type StudyResults,
  type TrackRecord,
} from "@/core/study";
import { loadSpanCurves, loadStemSounds } from "../storage/analyses";
import type { Database } from "../storage/database";
import { loadLift } from "../storage/lifts";

/** A selection in the reference: whole bars, or seconds where there is no grid. */
export interface Selection {
  bars: BarRange | null;
  span: Span | null;
}

/** Both sides as measured over the same music. */
interface MeasuredSides {
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
}

/** Both sides, and what comes of holding them against each other. */
export interface StudyComparison extends MeasuredSides {
  compared: FullComparison;
}

/** Both sides, held against each other in some aspects only. */
export interface AspectComparison extends MeasuredSides {
  compared: { mix: Omit<Comparison, "match"> };
}

async function measuresOver(
  db: Database,
  { track, analysis, grid }: { track: TrackRecord; analysis: TrackAnalysis; grid: Grid | undefined },
  spans: readonly Span[] | null,
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
  { reference, version, coverage }: ComparedPair,
  spans: SpanPair,
  stored: StoredLens,
  chosen: BarRange | null,
): Promise<StoredLens | null> {
  const ours = await loadLift(db, reference.track.file.hash);
  const theirs = ours && (await loadLift(db, version.track.file.hash));
  const aligned =
    reference.grid && version.grid
      ? { reference: reference.grid, version: version.grid, spans: coverage }
      : null;
  return theirs ? measuredLensOver(stored, [ours, theirs], spans, aligned, chosen) : null;
}

/** Elements with stems on both sides in a selection. */
async function stemsOver(
  db: Database,
  { analyses, stemSums }: StudyResults,
  { reference, version, coverage }: ComparedPair,
  spans: SpanPair,
  chosen: BarRange | null,
): Promise<Record<string, StoredStemPair>> {
  if (!reference.grid || !version.grid || coverage.length === 0) return {};
  const gainsOf = (track: TrackRecord) => (stemId: string) => gainOf(stemSums, track.id, stemId);
  const sides = [
    await loadStemSounds(db, reference.track.stems, analyses, gainsOf(reference.track)),
    await loadStemSounds(db, version.track.stems, analyses, gainsOf(version.track)),
  ] as const;
  return measuredStems(sides, { reference: reference.grid, version: version.grid }, coverage, spans, chosen);
}

/** The chosen version and its reference; null where one side has no result yet, or they are still being aligned. */
function pairOf({ study, analyses, alignments, grids }: StudyResults, number: number | null) {
  const version = versionOf(study, number);
  const ours = study.reference && analyses.get(study.reference.file.hash);
  const theirs = version && analyses.get(version.file.hash);
  const pair = version && alignments.get(version.id);
  if (!study.reference || !ours || !version || !theirs || !pair) return null;
  return {
    reference: { track: study.reference, analysis: ours, grid: grids.get(study.reference.id) },
    version: { track: version, analysis: theirs, grid: grids.get(version.id) },
    pair,
    coverage: coverageOf(version, pair.value.alignment),
    semitones: pair.value.alignment?.semitones ?? null,
  };
}
type ComparedPair = NonNullable<ReturnType<typeof pairOf>>;

async function measuredSides(
  db: Database,
  { comparisons }: StudyResults,
  { reference, version, pair, coverage, semitones }: ComparedPair,
  selection: Selection,
): Promise<{ sides: MeasuredSides; isWhole: boolean; wanted: Span | null }> {
  const wanted =
    selection.bars && reference.grid ? spanOfBars(reference.grid, selection.bars) : selection.span;
  const covered =
    reference.grid && version.grid && coverage.length > 0
      ? coveredSpans(wanted, { reference: reference.grid, version: version.grid, spans: coverage })
      : null;
  const nothingRecreated = covered !== null && covered.reference.length === 0;
  const spans: SpanPair =
    covered && !nothingRecreated
      ? covered
      : covered
        ? { reference: wanted ? [wanted] : null, version: null }
        : sameSeconds(wanted, reference.analysis.durationSeconds, version.analysis.durationSeconds);
  // The whole has been measured with the alignment; only a selection is measured here.
  const isWhole = wanted === null && pair.current && !nothingRecreated;
  const measures = isWhole
    ? pair.value.measures
    : {
        reference: await measuresOver(db, reference, spans.reference),
        version: await measuresOver(db, version, spans.version),
      };
  const sides = {
    version: version.track,
    spans,
    nothingRecreated,
    isAligned: covered !== null,
    outdated: !pair.current || !comparisons.get(version.track.id)?.current,
    semitones,
    reference: measures.reference,
    measured: measures.version,
  };
  return { sides, isWhole, wanted };
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
  const found = pairOf(results, number);
  if (!found) return null;
  const { study, comparisons, lenses, style } = results;
  const { sides, isWhole, wanted } = await measuredSides(db, results, found, selection);
  const { version, spans } = sides;
  const stored = lenses.get(version.id)?.value;
  const storedStems = comparisons.get(version.id)?.value.stems ?? {};
  const lifted =
    stored && (isWhole ? stored : await lensOver(db, found, spans, stored, wanted && selection.bars));
  return {
    ...sides,
    compared: compareAll(
      sides.reference,
      sides.measured,
      study,
      sides.semitones,
      comparisons.get(version.id)?.value ?? null,
      lifted
        ? countedLens(lifted, found.coverage, wanted && selection.bars, setPresence(study.reference, version))
        : null,
      evidenceOf(version, found.pair.value.alignment, study),
      style,
      countedStemPairs(
        isWhole ? storedStems : await stemsOver(db, results, found, spans, wanted && selection.bars),
        study,
        version,
        found.coverage,
        wanted && selection.bars,
      ),
    ),
  };
}

/** As `compareInStudy`, but in some aspects of the mix only, which is far quicker for a selection. */
export async function compareAspectsInStudy(
  db: Database,
  results: StudyResults,
  number: number | null,
  selection: Selection,
  aspects: readonly MixAspect[],
): Promise<AspectComparison | null> {
  const found = pairOf(results, number);
  if (!found) return null;
  const { sides } = await measuredSides(db, results, found, selection);
  const stored = results.comparisons.get(sides.version.id)?.value ?? null;
  const settings = settingsOf(results.study, sides.semitones, stored, results.style);
  return {
    ...sides,
    compared: { mix: compareAspects(sides.reference, sides.measured, aspects, settings) },
  };
}
