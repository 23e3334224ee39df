/** Lines a version up with its reference and measures what answers each other: all that is stored of a pair. */
import { findCoverage, readAnew, type Alignment, type CoverageSpan } from "../align/coverage";
import type { TrackAnalysis, TrackCurves } from "../analysis/result";
import { asHits } from "../drums/hits";
import { gridOf, isEmptyCorrection, type GridCorrection } from "../grid/correction";
import type { Grid } from "../grid/grid";
import type { OnsetRanges } from "../grid/onset";
import type { TrackMeasures } from "../match";
import { coveredSpans, measuresOfSpans, measuresOfWhole } from "./spans";

/** Raise it whenever lining up can give another result for the same analyses. */
export const alignmentVersion = 11;

/** The curves that lining up needs. */
export type AlignmentCurves = Pick<TrackCurves, "levels" | "bands" | "envelopes" | "pitches"> & {
  onsets: OnsetRanges;
};

/** One track of a pair. */
export interface AlignmentSide {
  analysis: TrackAnalysis;
  curves: AlignmentCurves;
  correction: GridCorrection;
}

export interface StoredAlignment {
  /** As found; null where one side has no grid. */
  alignment: Alignment | null;
  /** What is compared of the whole, over the bars that answer each other. */
  measures: { reference: TrackMeasures; version: TrackMeasures };
}

/** The grid of a version: corrected by hand, or else counted as lining up with the reference says. */
export function versionGrid(
  measured: Grid | null,
  correction: GridCorrection,
  alignment: Alignment | null,
  reference: Grid | null,
): Grid | null {
  if (!measured || !alignment || !reference || !isEmptyCorrection(correction)) return measured;
  return readAnew(measured, alignment.reading, reference.beatsPerBar);
}

export const gridOfSide = ({ analysis, curves, correction }: AlignmentSide): Grid | null =>
  gridOf(analysis.grid, analysis.durationSeconds, correction, curves.onsets);

/**
 * @param edited coverage that the producer has set in place of what is found.
 */
export function alignVersion(
  reference: AlignmentSide,
  version: AlignmentSide,
  edited: readonly CoverageSpan[] | null = null,
): StoredAlignment {
  const referenceGrid = gridOfSide(reference);
  const measuredGrid = gridOfSide(version);
  const sideOf = ({ analysis, curves }: AlignmentSide, grid: Grid) => ({
    grid,
    durationSeconds: analysis.durationSeconds,
    hits: asHits(analysis.drums),
    curves: {
      onsets: curves.onsets,
      pitches: curves.pitches,
      kWeightedMeanSquares: curves.levels.kWeightedMeanSquares,
    },
  });
  const alignment =
    referenceGrid && measuredGrid
      ? findCoverage(
          sideOf(reference, referenceGrid),
          sideOf(version, measuredGrid),
          !isEmptyCorrection(version.correction),
        )
      : null;
  const grid = versionGrid(measuredGrid, version.correction, alignment, referenceGrid);
  const spans = edited ?? alignment?.spans ?? [];
  if (!referenceGrid || !grid || spans.length === 0) {
    return {
      alignment,
      measures: {
        reference: measuresOfWhole(reference.analysis, referenceGrid?.bpm),
        version: measuresOfWhole(version.analysis, grid?.bpm),
      },
    };
  }
  const covered = coveredSpans(null, { reference: referenceGrid, version: grid, spans });
  return {
    alignment,
    measures: {
      reference: measuresOfSpans(
        reference.curves,
        covered.reference,
        referenceGrid.bpm,
        asHits(reference.analysis.drums),
      ),
      version: measuresOfSpans(version.curves, covered.version, grid.bpm, asHits(version.analysis.drums)),
    },
  };
}
