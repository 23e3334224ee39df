import { z } from "zod";
import { beatsPerBarRange, bpmRange, fractionRange, percentRange, secondsRange } from "../ranges";

const swingSchema = z.object({ percent: percentRange, presence: fractionRange }).nullable();

export const gridEstimateSchema = z.object({
  /** Seconds, rising. */
  beats: z.array(secondsRange),
  /** Those beats that begin a bar. */
  downbeats: z.array(secondsRange),
  /** 2 stands for 6/8. */
  beatsPerBar: beatsPerBarRange,
  /** Whether all beats lie on one exact tempo; else they follow the player. */
  steady: z.boolean(),
  /** Tempo of the beats: exact where steady, else the median. */
  bpm: bpmRange,
  /** Probability 0–1 that bars begin where they are said to. */
  confidence: fractionRange,
  /** Where else bars may begin, the most probable first: how much later in beats, and where bar 1 then begins. */
  otherBarStarts: z
    .array(
      z.object({
        beatsLater: z.number().min(-16).max(16),
        barOneAt: secondsRange,
        confidence: fractionRange,
      }),
    )
    .max(8),
  swing: z.object({ eighths: swingSchema, sixteenths: swingSchema }),
});

/** Beats and bars of a track as measured. */
export type GridEstimate = z.infer<typeof gridEstimateSchema>;
