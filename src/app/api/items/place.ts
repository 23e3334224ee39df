import { z } from "zod";

/** The drum that a candidate is to stand in for, and how it is tuned and shaped for it. */
export const placeSchema = z.object({
  track: z.string().min(1).max(64),
  hit: z.string().min(1).max(40),
  semitones: z.coerce.number().min(-24).max(24).default(0),
  decay: z.coerce.number().min(0.1).max(4).default(1),
});
