import { z } from "zod";

export const tempoEstimateSchema = z.object({
  bpm: z.number(),
  /** Probability 0–1 that this is the tempo people would count. */
  confidence: z.number(),
  /** Other readings, most likely first. */
  alternatives: z.array(z.object({ bpm: z.number(), confidence: z.number() })),
});

/** A tempo with what else it could be. */
export type TempoEstimate = z.infer<typeof tempoEstimateSchema>;
