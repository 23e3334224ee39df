import { defaultAspectWeights, weightedMean, type MixAspect } from "@/core/match";

const aspectsOfLowEnd = ["bass", "lowEnd"] as const satisfies readonly MixAspect[];

/** One number for the low end, from the aspects that apply. */
export const lowEndScore = (
  aspects: Partial<Record<MixAspect, number | null>>,
  weights: Record<MixAspect, number> = defaultAspectWeights,
): number | null =>
  weightedMean(aspectsOfLowEnd.map((name) => ({ score: aspects[name] ?? null, weight: weights[name] })));
