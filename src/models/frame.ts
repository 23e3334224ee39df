/** What the frame of a study shows whatever the view: the study itself, its scores, and how its tracks lie. */
import type { Alignment } from "@/core/align/coverage";
import type { Grid } from "@/core/grid/grid";
import { packGrid, type PackedGrid } from "@/core/grid/packedGrid";
import type { Key } from "@/core/harmony/keys";
import type { Refusal } from "@/core/outcome";
import type { CountedSection } from "@/core/plan";
import type { FolderState } from "./folder";
import {
  itemPlan,
  tracksOf,
  type StoredStemSum,
  type StudyRecord,
  type StudyResults,
  type VersionScores,
} from "@/core/study";

/** The few measured numbers of a track that the frame shows. */
export interface TrackFacts {
  bpm: number | null;
  integratedLufs: number | null;
  /** As it counts: measured, corrected, and for a version counted as its reference. */
  grid: PackedGrid | null;
  key: Key | null;
  /** False while chords and sections are worked out again on a corrected grid. */
  planCurrent: boolean;
  /** On its own grid. */
  sections: CountedSection[];
  /** How its stems add up to it; null where it has none, or that is not known yet. */
  stemSum: StoredStemSum | null;
}

/** How a version lies along the reference. */
export interface AlignmentFacts {
  /** As found; null where one side has no grid. */
  alignment: Alignment | null;
  /** False while it, or what is compared over it, is worked out again after a change. */
  current: boolean;
}

/** What Undo and Redo would do; null where there is nothing. */
export interface UndoState {
  /** Counts edits, undos and redos of the study. */
  sequence: number;
  undo: string | null;
  redo: string | null;
}

export interface FrameModel {
  study: StudyRecord;
  scores: VersionScores[];
  /** By track id; tracks without a result have none. */
  facts: Record<string, TrackFacts>;
  /** By the id of the version; those not aligned yet have none. */
  alignments: Record<string, AlignmentFacts>;
  /** Why a version could not be aligned or compared, by its id. */
  failures: Record<string, Refusal>;
  undoState: UndoState;
  /** The watched folder; null where none is watched, or it has just been named. */
  folder: FolderState | null;
  /** Grows with every change of the study, also those that come of work in the background. */
  revision: number;
}

export function frameModel(
  { study, analyses, alignments, comparisons, grids, plans, stemSums, failures, scores }: StudyResults,
  undoState: UndoState,
  revision: number,
  folder: FolderState | null = null,
): FrameModel {
  const facts: FrameModel["facts"] = {};
  for (const track of tracksOf(study)) {
    const analysis = analyses.get(track.file.hash);
    const plan = plans.get(track.id);
    if (!analysis || !plan) continue;
    const counted = itemPlan(plan.value, track);
    const grid: Grid | null = grids.get(track.id) ?? null;
    facts[track.id] = {
      bpm: grid?.bpm ?? analysis.tempo?.bpm ?? null,
      integratedLufs: analysis.loudness.integratedLufs,
      grid: grid && packGrid(grid),
      key: counted.key,
      planCurrent: plan.current,
      sections: counted.sections,
      stemSum: (track.stems.length > 0 && stemSums.get(track.id)?.value) || null,
    };
  }
  return {
    study,
    scores,
    facts,
    alignments: Object.fromEntries(
      [...alignments].map(([id, { value, current }]) => [
        id,
        { alignment: value.alignment, current: current && comparisons.get(id)?.current === true },
      ]),
    ),
    failures: Object.fromEntries(failures),
    undoState,
    folder,
    revision,
  };
}
