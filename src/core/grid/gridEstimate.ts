import { z } from "zod";

const swingSchema = z.object({ percent: z.number(), presence: z.number() }).nullable();

export const gridEstimateSchema = z.object({
  /** Seconds, rising. */
  beats: z.array(z.number()),
  /** Those beats that begin a bar. */
  downbeats: z.array(z.number()),
  /** 2 stands for 6/8. */
  beatsPerBar: z.number().int(),
  /** Whether all beats lie on one exact tempo; else they follow the player. */
  steady: z.boolean(),
  /** Tempo of the beats: exact where steady, else the median. */
  bpm: z.number(),
  /** Probability 0–1 that bars begin where they are said to. */
  confidence: z.number(),
  swing: z.object({ eighths: swingSchema, sixteenths: swingSchema }),
});

/** Beats and bars of a track as measured. */
export type GridEstimate = z.infer<typeof gridEstimateSchema>;
