/** The moves that a producer has kept for a version, each of them on or off. */
import { z } from "zod";
import { hasGain, moveLimits, moveTypes, plainQ, type EqualiserMove } from "./filters";

const { lowestHz, highestHz, mostGainDb, leastQ, mostQ } = moveLimits;

export const moveSchema = z.object({
  type: z.enum(moveTypes),
  hz: z.number().min(lowestHz, "a frequency must be at least 20 Hz").max(highestHz, "20 kHz is the most"),
  gainDb: z.number().min(-mostGainDb, "15 dB is the most").max(mostGainDb, "15 dB is the most"),
  q: z.number().min(leastQ, "a Q must be at least 0.3").max(mostQ, "a Q can be 16 at most"),
});

export const keptMoveSchema = moveSchema.extend({ on: z.boolean() });
export type KeptMove = z.infer<typeof keptMoveSchema>;

export const mostMoves = 12;

/** Empty while the moves are those that are suggested. */
export const equaliserCorrectionSchema = z.object({
  moves: z.array(keptMoveSchema).max(mostMoves, `${mostMoves} moves are the most`).optional(),
});
export type EqualiserCorrection = z.infer<typeof equaliserCorrectionSchema>;

/** A move of another type in the same place; what the type does not have is set to what it always is. */
export const asType = (move: EqualiserMove, type: EqualiserMove["type"]): EqualiserMove => ({
  type,
  hz: move.hz,
  gainDb: hasGain(type) ? move.gainDb : 0,
  q: type === "peak" ? move.q : plainQ,
});

/** Between which frequencies a move does most of what it does. */
export function spanOfMove({ type, hz, q }: EqualiserMove): { fromHz: number; toHz: number } {
  const within = (value: number) => Math.min(highestHz, Math.max(lowestHz, value));
  if (type === "lowCut" || type === "lowShelf") return { fromHz: lowestHz, toHz: within(hz * Math.SQRT2) };
  if (type === "highCut" || type === "highShelf") return { fromHz: within(hz / Math.SQRT2), toHz: highestHz };
  // The bandwidth of a peak between the points of half its gain (Audio EQ Cookbook).
  const octaves = (2 / Math.LN2) * Math.asinh(1 / (2 * q));
  return { fromHz: within(hz * 2 ** (-octaves / 2)), toHz: within(hz * 2 ** (octaves / 2)) };
}
