/** What a producer has said of the typical hits of a track. */
import { z } from "zod";
import { secondsRange } from "../ranges";
import type { Seconds } from "../units";

export const hitCorrectionSchema = z.object({
  /** Times of strokes that must not enter: something else sounds in them. */
  leftOut: z.array(secondsRange).max(20_000).optional(),
});
/** Strokes this near to one that was left out are it, though they were measured anew. */
const sameStroke: Seconds = 0.01;

/** The times among `times` that were left out by hand. */
export const leftOutOf = ({ leftOut = [] }: HitCorrection, times: readonly Seconds[]): Set<Seconds> =>
  new Set(times.filter((time) => leftOut.some((own) => Math.abs(own - time) <= sameStroke)));

export type HitCorrection = z.infer<typeof hitCorrectionSchema>;
