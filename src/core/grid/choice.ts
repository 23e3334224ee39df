/** A choice between candidates by a logistic model over their features (fitted in `bench`). */

const { exp, max } = Math;

/** One weight, mean and deviation a feature. */
export interface ChoiceModel {
  weights: readonly number[];
  means: readonly number[];
  deviations: readonly number[];
}

/**
 * Probability of each candidate being the right one; they add up to 1.
 *
 * @throws where the model was fitted on other features.
 */
export function probabilities(model: ChoiceModel, candidates: readonly (readonly number[])[]): number[] {
  const { weights, means, deviations } = model;
  if (candidates.some((features) => features.length !== weights.length)) {
    throw new Error(
      `the model has ${weights.length} weights, the candidates ${candidates[0]!.length} features`,
    );
  }
  const scores = candidates.map((features) =>
    features.reduce((sum, f, i) => sum + (weights[i]! * (f - means[i]!)) / deviations[i]!, 0),
  );
  const highest = max(...scores);
  const shares = scores.map((score) => exp(score - highest));
  const total = shares.reduce((a, b) => a + b, 0);
  return shares.map((share) => share / total);
}
