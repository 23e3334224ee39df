import { z } from "zod";
import { bpmRange, fractionRange } from "../ranges";

export const tempoEstimateSchema = z.object({
  bpm: bpmRange,
  /** Probability 0–1 that this is the tempo people would count. */
  confidence: fractionRange,
  /** Other readings, most likely first. */
  alternatives: z.array(z.object({ bpm: bpmRange, confidence: fractionRange })),
});

/** A tempo with what else it could be. */
export type TempoEstimate = z.infer<typeof tempoEstimateSchema>;
