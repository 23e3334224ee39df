import { z } from "zod";

export const gridEstimateSchema = z.object({
  /** Seconds, rising. */
  beats: z.array(z.number()),
  /** Those beats that begin a bar. */
  downbeats: z.array(z.number()),
  beatsPerBar: z.number().int(),
  /** Whether all beats lie on one exact tempo; else they follow the player. */
  steady: z.boolean(),
  /** Probability 0–1 that bars begin where they are said to. */
  confidence: z.number(),
});

/** Beats and bars of a track. */
export type GridEstimate = z.infer<typeof gridEstimateSchema>;

/** The bar, counted from 1, that a time falls in; 0 before the first, null without bars. */
export function barAt({ downbeats }: Pick<GridEstimate, "downbeats">, seconds: number): number | null {
  if (downbeats.length === 0) return null;
  let low = 0;
  let high = downbeats.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (downbeats[middle]! <= seconds + 1e-6) low = middle + 1;
    else high = middle;
  }
  return low;
}
