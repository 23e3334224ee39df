/** Plans of reference, version and stems as the views Harmony and Sections show them. */
import { beatAt, secondsAt, type Grid } from "@/core/grid/grid";
import type { CoverageSpan } from "@/core/align/coverage";
import type { KeyChoice } from "@/core/harmony/keyChoice";
import type { HarmonyEstimate } from "@/core/harmony/harmonyEstimate";
import {
  comparePlans,
  countedPlan,
  namedAsReference,
  type ComparedBeat,
  type CountedPlan,
  type PlanSide,
} from "@/core/plan";
import {
  itemPlan,
  versionOf,
  type Corrections,
  type StemRecord,
  type StudyResults,
  type TrackRecord,
} from "@/core/study";

export interface PlanTrack {
  itemId: string;
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
  corrections: Pick<Corrections, "harmony" | "form">;
  /** False while the plan is worked out again on a corrected grid. */
  current: boolean;
}

export interface PlanModel {
  reference: PlanTrack | null;
  version: PlanTrack | null;
  stems: PlanTrack[];
}

const planTrack = (
  { analyses, plans, grids, ownGrids }: StudyResults,
  item: TrackRecord | StemRecord,
  kind: PlanTrack["kind"],
  name: string,
): PlanTrack | null => {
  const analysis = analyses.get(item.file.hash);
  const plan = plans.get(item.id);
  if (!analysis || !plan) return null;
  const planGrid = ownGrids.get(item.id) ?? null;
  const { harmony, form } = item.corrections;
  return {
    itemId: item.id,
    kind,
    name,
    choice: plan.value.harmony.key,
    tuningCents: analysis.tuningCents,
    plan: itemPlan(plan.value, item),
    planGrid,
    grid: grids.get(item.id) ?? planGrid,
    corrections: { harmony, form },
    current: plan.current,
  };
};

/** Plans of the reference, of the version with a number or else the newest, and of their stems. */
export function planModel(results: StudyResults, number: number | null): PlanModel {
  const { study } = results;
  const version = versionOf(study, number);
  const stems = [study.reference, version].flatMap((track) =>
    (track?.stems ?? []).map((stem) => planTrack(results, stem, "stem", stem.fileName)),
  );
  return {
    reference: study.reference && planTrack(results, study.reference, "reference", "Reference"),
    version: version && planTrack(results, version, "version", `Version ${version.number}`),
    stems: stems.filter((track) => track !== null),
  };
}

/** A track with the corrections that count now, which may be newer than those it was sent with. */
const corrected = (track: PlanTrack, now: Corrections | undefined): PlanTrack =>
  now && (now.harmony !== track.corrections.harmony || now.form !== track.corrections.form)
    ? { ...track, corrections: now, plan: countedPlan(track.plan.measured, now.harmony, now.form) }
    : track;

/** One side of a comparison of plans; null where a grid is missing. */
export const planSideOf = ({ plan, planGrid, grid }: PlanTrack): PlanSide | null =>
  planGrid && grid ? { plan, planGrid, grid } : null;

/** Plans as they count now, and what they have in common. */
export interface CountedPlans extends PlanModel {
  /** Beats of the reference that are recreated, with what sounds on either side. */
  beats: ComparedBeat[];
  chordOverlap: number | null;
}

/**
 * @param correctionsOf the corrections that count now of a track or stem, by its id.
 * @param spans bars that answer each other; none where the two are not aligned.
 */
export function countedPlans(
  model: PlanModel,
  correctionsOf: (itemId: string) => Corrections | undefined,
  spans: readonly CoverageSpan[],
  semitones: number,
): CountedPlans {
  const now = (track: PlanTrack) => corrected(track, correctionsOf(track.itemId));
  const reference = model.reference && now(model.reference);
  let version = model.version && now(model.version);
  const ours = reference && planSideOf(reference);
  const theirs = version && planSideOf(version);
  const compared = ours && theirs && spans.length > 0 ? comparePlans(ours, theirs, spans, semitones) : null;
  // Names given by hand stay; the others are those of the reference where the same bars answer.
  if (version && ours && theirs && spans.length > 0 && !version.corrections.form.sections) {
    version = { ...version, plan: { ...version.plan, sections: namedAsReference(ours, theirs, spans) } };
  }
  return {
    reference,
    version,
    stems: model.stems.map(now),
    beats: compared?.beats ?? [],
    chordOverlap: compared?.chordOverlap ?? null,
  };
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
