/** Lines a version up with its reference and measures what answers each other: all that is stored of a pair. */
import { z } from "zod";
import { findCoverage, readAnew, type Alignment, type CoverageSpan } from "../align/coverage";
import type { TrackAnalysis, TrackCurves } from "../analysis/result";
import { asHits } from "../drums/hits";
import { gridOf, isEmptyCorrection, type GridCorrection } from "../grid/correction";
import type { Grid } from "../grid/grid";
import type { OnsetRanges } from "../grid/onset";
import type { TrackMeasures } from "../match";
import { coveredSpans, measuresOfSpans, measuresOfWhole } from "./spans";

/** Raise it whenever lining up can give another result for the same analyses. */
export const lineUpVersion = 6;

/** The curves that lining up needs. */
export type LineUpCurves = Pick<TrackCurves, "levels" | "bands" | "pitches"> & { onsets: OnsetRanges };

/** One track of a pair. */
export interface LineUpSide {
  analysis: TrackAnalysis;
  curves: LineUpCurves;
  correction: GridCorrection;
}

export interface LinedUp {
  /** As found; null where one side has no grid. */
  alignment: Alignment | null;
  /** What is compared of the whole, over the bars that answer each other. */
  measures: { reference: TrackMeasures; version: TrackMeasures };
}

export const coverageSpanSchema = z.object({
  referenceFirst: z.number().int(),
  versionFirst: z.number().int(),
  bars: z.number().int().min(1, "a span needs at least one bar"),
});

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

export const gridOfSide = ({ analysis, curves, correction }: LineUpSide): Grid | null =>
  gridOf(analysis.grid, analysis.durationSeconds, correction, curves.onsets);

/**
 * @param edited coverage that the producer has set in place of what is found.
 */
export function lineUp(
  reference: LineUpSide,
  version: LineUpSide,
  edited: readonly CoverageSpan[] | null = null,
): LinedUp {
  const referenceGrid = gridOfSide(reference);
  const measuredGrid = gridOfSide(version);
  const sideOf = ({ analysis, curves }: LineUpSide, grid: Grid) => ({
    grid,
    durationSeconds: analysis.durationSeconds,
    hits: asHits(analysis.drums),
    curves: { onsets: curves.onsets, pitches: curves.pitches, energies: curves.levels.energies },
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
      reference: measuresOfSpans(reference.curves, covered.reference, referenceGrid.bpm),
      version: measuresOfSpans(version.curves, covered.version, grid.bpm),
    },
  };
}
