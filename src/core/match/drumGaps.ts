/** Drums of two tracks held against each other. */
import type { Decibels, Fraction, Percent, Seconds } from "../units";
import { measured, shared, type ComparedMeasure } from "./compared";

/** How far the drums of both sides are apart; null where one side has none, or too few. */
export interface DrumGaps {
  /** F-measure of the hits. */
  pattern: Fraction | null;
  timing: Seconds | null;
  accents: Decibels | null;
  swing: { reference: Percent; version: Percent } | null;
}

const noDrums = "One side has no drums that could be held against the other's.";

export const comparedPattern = (drums: DrumGaps | null): ComparedMeasure =>
  shared("drumHits", drums?.pattern, noDrums);

export const comparedTiming = (drums: DrumGaps | null): ComparedMeasure =>
  measured(
    "hitTiming",
    null,
    null,
    typeof drums?.timing === "number" ? 1000 * drums.timing : null,
    drums ? undefined : noDrums,
  );

export const comparedAccents = (drums: DrumGaps | null): ComparedMeasure =>
  measured("accents", null, null, drums?.accents ?? null, drums ? undefined : noDrums);
