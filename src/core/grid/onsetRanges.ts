import type { Hertz } from "../units";

/** Frequency ranges whose onsets are kept apart: kick and bass, body, snare and voices, hats. */
export const onsetRanges = [
  { name: "low", from: 30, to: 150 },
  { name: "lowMid", from: 150, to: 600 },
  { name: "mid", from: 600, to: 3000 },
  { name: "high", from: 3000, to: 17000 },
] as const;

/** How strongly something new sounds in each range, over time. */
export interface OnsetRanges {
  framesPerSecond: Hertz;
  /** One curve per entry of `onsetRanges`, each with mean 1 (or all 0 in silence). */
  ranges: Float32Array[];
}
