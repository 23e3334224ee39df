/** What the view Sections shows: both plans along the reference's bars, and what of one is in the other. */
import { beatAt, secondsAt } from "@/core/grid/grid";
import type { CoverageSpan } from "@/core/align/coverage";
import type { CountedSection } from "@/core/plan";
import {
  measuresOfSection,
  presenceGroups,
  type FormEstimate,
  type PresenceGroup,
  type SectionMeasures,
} from "@/core/sections";
import type { PlanTrack } from "./plan";

export type Moment = FormEstimate["moments"][number];

export const momentWords: Record<Moment["kind"], { name: string; description: string }> = {
  stop: { name: "stop", description: "the music stops" },
  riser: { name: "riser", description: "something rises into what comes" },
  crash: { name: "crash", description: "a cymbal or impact" },
  drumsOut: { name: "drums out", description: "the drums drop out" },
  filterOpening: { name: "filter opens", description: "a filter opens" },
};

export const groupWords: Record<PresenceGroup, string> = {
  drums: "Drums",
  bass: "Bass",
  chords: "Chords",
  lead: "Lead or vocal",
  effects: "Effects",
};

/** What happens inside a section of a track; null where it has no bars that sound. */
export const measuresIn = (track: PlanTrack, section: CountedSection): SectionMeasures | null =>
  track.plan.measured.form && measuresOfSection(section, track.plan.measured.form);

/** Whether a group plays in a section: as said by hand, else by its probability. */
export function playsIn(
  group: PresenceGroup,
  section: CountedSection,
  measures: SectionMeasures | null,
): boolean {
  return section.presence?.[group] ?? (measures?.presence[group] ?? 0) > 0.5;
}

/** Bars of a version's own plan that answer some bars of the reference. */
export function answeringBars(
  version: PlanTrack,
  spans: readonly CoverageSpan[],
  firstBar: number,
  lastBar: number,
): number[] {
  const { grid, planGrid } = version;
  if (!grid || !planGrid) return [];
  const result: number[] = [];
  for (const span of spans) {
    const from = Math.max(firstBar, span.referenceFirst);
    const to = Math.min(lastBar, span.referenceFirst + span.bars - 1);
    for (let bar = from; bar <= to; bar++) {
      const beat = (bar - span.referenceFirst + span.versionFirst - 0.5) * grid.beatsPerBar;
      const own = beatAt(planGrid, secondsAt(grid, beat));
      result.push(Math.floor(own / planGrid.beatsPerBar) + 1);
    }
  }
  return result;
}

/** Probability that each group plays in those bars of the version that answer a section; null where none does. */
export function presenceAnswering(
  version: PlanTrack,
  spans: readonly CoverageSpan[],
  section: CountedSection,
): Record<PresenceGroup, number> | null {
  const form = version.plan.measured.form;
  const bars = answeringBars(version, spans, section.firstBar, section.lastBar);
  if (!form || bars.length === 0) return null;
  return Object.fromEntries(
    presenceGroups.map((group) => {
      const chances = bars.map((bar) => form.bars.presence[group][bar - form.bars.firstBar] ?? 0);
      const mean = chances.reduce((a, b) => a + b, 0) / chances.length;
      return [group, group === "effects" ? Number(chances.some((c) => c > 0)) : mean];
    }),
  ) as Record<PresenceGroup, number>;
}

/** Whether a version has a moment of the same kind at the same place; null where that is not recreated. */
export function hasMoment(
  version: PlanTrack,
  spans: readonly CoverageSpan[],
  moment: Moment,
  beatsPerBar: number,
): boolean | null {
  const form = version.plan.measured.form;
  const bar = Math.floor(moment.startBeat / beatsPerBar) + 1;
  const [own] = answeringBars(version, spans, bar, bar);
  if (!form || own === undefined || !version.planGrid) return null;
  return form.moments.some(
    ({ kind, startBeat }) =>
      kind === moment.kind &&
      Math.abs(
        startBeat / version.planGrid!.beatsPerBar + 1 - (own + (moment.startBeat / beatsPerBar + 1 - bar)),
      ) <= 1,
  );
}

export const barMeasures = {
  loudness: { title: "Loudness", unit: "LUFS", floor: -40, digits: 1 },
  brightness: { title: "Brightness", unit: "Hz", floor: 100, digits: 0 },
  density: { title: "Density", unit: "onsets a bar", floor: 0, digits: 0 },
  width: { title: "Width", unit: "dB, side to mid", floor: -40, digits: 1 },
} as const;
export type BarMeasure = keyof typeof barMeasures;
