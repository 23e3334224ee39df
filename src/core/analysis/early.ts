/** What an analysis knows of a track before it has ended: what people look for first. */
import { z } from "zod";
import { beatsPerBarRange, bpmRange, decibelRange } from "../ranges";

export const earlyFindingsSchema = z.object({
  integratedLufs: decibelRange.nullable(),
  truePeakDbtp: decibelRange.nullable(),
  slopeDbPerOctave: z.number().min(-200).max(200).nullable(),
  /** Missing until the grid is known; null where there is none. */
  grid: z.object({ bpm: bpmRange, beatsPerBar: beatsPerBarRange }).nullable().optional(),
});
export type EarlyFindings = z.infer<typeof earlyFindingsSchema>;
