/** A choice between candidates by a logistic model over their features (fitted in `bench`). */

const { exp, max } = Math;

/** One weight, mean and deviation a feature. */
export interface ChoiceModel {
  weights: readonly number[];
  means: readonly number[];
  deviations: readonly number[];
}

/** Probability of each candidate being the right one; they add up to 1. */
export function probabilities(model: ChoiceModel, candidates: readonly (readonly number[])[]): number[] {
  const { weights, means, deviations } = model;
  const scores = candidates.map((features) =>
    features.reduce((sum, f, i) => sum + (weights[i]! * (f - means[i]!)) / deviations[i]!, 0),
  );
  const highest = max(...scores);
  const shares = scores.map((score) => exp(score - highest));
  const total = shares.reduce((a, b) => a + b, 0);
  return shares.map((share) => share / total);
}
