/** The plan of a track in seconds, as every export needs it. */
import { downbeatsOf, secondsAt, type Grid } from "../grid/grid";
import type { Chord } from "../harmony/chords";
import type { Key } from "../harmony/keys";
import type { CountedPlan } from "../plan/trackPlan";
import type { Fraction, Seconds } from "../units";

export interface PlanTimes {
  durationSeconds: Seconds;
  beats: readonly Seconds[];
  downbeats: readonly Seconds[];
  key: Key | null;
  chords: { start: Seconds; end: Seconds; chord: Chord | null; confidence: Fraction }[];
  sections: { start: Seconds; end: Seconds; name: string; letter: string }[];
}

/** @param grid that the plan is counted on. */
export function planTimes(plan: CountedPlan, grid: Grid | null, durationSeconds: Seconds): PlanTimes {
  const within = (seconds: Seconds) => Math.min(durationSeconds, Math.max(0, seconds));
  const barStart = (bar: number) => within(secondsAt(grid!, (bar - 1) * grid!.beatsPerBar));
  return {
    durationSeconds,
    beats: grid?.beats ?? [],
    downbeats: grid ? downbeatsOf(grid) : [],
    key: plan.key,
    chords: grid
      ? plan.chords.map(({ startBeat, endBeat, chord, confidence }) => ({
          start: within(secondsAt(grid, startBeat)),
          end: within(secondsAt(grid, endBeat)),
          chord,
          confidence,
        }))
      : [],
    sections: grid
      ? plan.sections.map(({ firstBar, lastBar, name, letter }) => ({
          start: barStart(firstBar),
          end: barStart(lastBar + 1),
          name,
          letter,
        }))
      : [],
  };
}
