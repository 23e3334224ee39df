/** The entry of the computing threads: tasks on stored results, which never touch an uploaded file. */
import { loadFft } from "@/core/dsp/fft";
import { gridOf, type GridCorrection } from "@/core/grid/correction";
import type { Grid } from "@/core/grid/grid";
import type { OnsetRanges } from "@/core/grid/onsetRanges";
import { tempoNear } from "@/core/grid/tempo";
import type { TrackAnalysis } from "@/core/analysis/result";
import type { CoverageSpan } from "@/core/align/coverage";
import type { DrumStem } from "@/core/drums";
import type { TrackPlan } from "@/core/plan";
import { planOf } from "@/core/plan/estimatePlan";
import {
  alignVersion,
  comparisonSide,
  compareVersion,
  itemDrums,
  itemPlan,
  type AlignmentCurves,
  type AlignmentSide,
  type Corrections,
  type StemSound,
  type StoredAlignment,
  type StoredComparison,
} from "@/core/study";

export { hits } from "../hits/task";
export { fitLoops, layersFor, measureSounds, prepareSound, rankOneShots } from "../hits/candidateTasks";
export { readPart } from "./separatedPart";

/** Aligns a version with its reference. */
export async function align({
  reference,
  version,
  coverage,
}: {
  reference: AlignmentSide;
  version: AlignmentSide;
  coverage: CoverageSpan[] | null;
}): Promise<StoredAlignment> {
  await loadFft();
  return alignVersion(reference, version, coverage);
}

/** The plan of a track on its grid as corrected. */
export async function plan({
  analysis,
  curves: { onsets, pitches, bands, levels },
  correction,
}: AlignmentSide): Promise<TrackPlan> {
  await loadFft();
  return planOf(
    gridOf(analysis.grid, analysis.durationSeconds, correction, onsets),
    { onsets, pitches, bands, kWeightedMeanSquares: levels.kWeightedMeanSquares },
    analysis.durationSeconds,
  );
}

/** One track of a comparison, with all that goes into it. */
export interface ComparedItem {
  analysis: Pick<TrackAnalysis, "grid" | "drums" | "bass" | "lowEnd">;
  plan: TrackPlan;
  corrections: Corrections;
  stems: DrumStem[];
  grid: Grid | null;
  ownGrid: Grid | null;
  curves: Pick<AlignmentCurves, "bands" | "onsets">;
  /** Stems that are tied to elements. */
  elementStems: StemSound[];
}

/** What chords, sections and drums of a version have in common with its reference. */
export function compare({
  reference,
  version,
  spans,
}: {
  reference: ComparedItem;
  version: ComparedItem;
  spans: CoverageSpan[];
}): StoredComparison {
  const side = ({
    analysis,
    plan: measured,
    corrections,
    stems,
    grid,
    ownGrid,
    curves,
    elementStems,
  }: ComparedItem) => ({
    ...comparisonSide(
      analysis,
      corrections,
      itemPlan(measured, { corrections }),
      itemDrums(analysis, stems, corrections, ownGrid).counted,
      grid,
      ownGrid,
      curves,
    ),
    stems: elementStems,
  });
  return compareVersion(side(reference), side(version), spans);
}

/** The tempo that the onsets say near one that was tapped. */
export async function sharpenTempo({
  onsets,
  bpm,
  reach,
}: {
  onsets: OnsetRanges;
  bpm: number;
  reach: number;
}): Promise<number> {
  await loadFft();
  return tempoNear(onsets, bpm, reach);
}

export type { AlignmentCurves, GridCorrection };
