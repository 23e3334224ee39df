/** Plans of reference, version and stems as the views Harmony and Sections show them. */
import { beatAt, secondsAt, type Grid } from "@/core/grid/grid";
import type { CoverageSpan } from "@/core/align/coverage";
import type { KeyChoice } from "@/core/harmony/keyChoice";
import type { HarmonyEstimate } from "@/core/harmony/harmonyEstimate";
import type { ComparedBeat, CountedPlan, FormCorrection, HarmonyCorrection } from "@/core/plan";

export interface PlanTrack {
  placeId: string;
  kind: "reference" | "version" | "stem";
  name: string;
  /** The key as measured, with its alternatives. */
  choice: KeyChoice | null;
  tuningCents: number;
  plan: CountedPlan;
  /** The grid that the plan is counted on. */
  planGrid: Grid | null;
  /** The grid that bars are answered on; for stems the same. */
  grid: Grid | null;
  harmonyCorrection: HarmonyCorrection;
  formCorrection: FormCorrection;
  made: { harmony: number; form: number };
  /** False while the plan is worked out again on a corrected grid. */
  current: boolean;
}

export interface PlanModel {
  reference: PlanTrack | null;
  version: PlanTrack | null;
  stems: PlanTrack[];
  /** Beats of the reference that are recreated, with what sounds on either side. */
  beats: ComparedBeat[];
  chordOverlap: number | null;
}

export type BarsOfHarmony = HarmonyEstimate["bars"];

/** Something that a version has, placed in beats of the reference. */
export interface Answered<T> {
  item: T;
  /** Its place in the version's own list. */
  place: number;
  /** Beats from bar 1 beat 1 of the reference. */
  startBeat: number;
  endBeat: number;
}

/** Places items of a version along the reference, once for each span of coverage that they reach into. */
export function answeredItems<T>(
  items: readonly T[],
  rangeOf: (item: T) => readonly [startBeat: number, endBeat: number],
  version: Pick<PlanTrack, "planGrid" | "grid">,
  spans: readonly CoverageSpan[],
  beatsPerBar: number,
): Answered<T>[] {
  const { planGrid, grid } = version;
  if (!planGrid || !grid) return [];
  const onCoverage = (beat: number) => beatAt(grid, secondsAt(planGrid, beat));
  return spans.flatMap(({ referenceFirst, versionFirst, bars }) => {
    const from = (versionFirst - 1) * beatsPerBar;
    const to = from + bars * beatsPerBar;
    const moved = (referenceFirst - versionFirst) * beatsPerBar;
    return items.flatMap((item, place) => {
      const [start, end] = rangeOf(item).map(onCoverage) as [number, number];
      const startBeat = Math.max(from, start);
      const endBeat = Math.min(to, end);
      return endBeat - startBeat > 0.25
        ? [{ item, place, startBeat: startBeat + moved, endBeat: endBeat + moved }]
        : [];
    });
  });
}
