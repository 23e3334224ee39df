/**
 * What the rest of a track says of a hit: music repeats itself, so that a top of the model's curve
 * is more probable where other bars have one at the same place, and less where another voice of the
 * same kind explains it better. A logistic model weighs this; without a grid only what stands in the
 * curves themselves counts.
 */
import { beatAt, secondsAt, type Grid } from "../grid/grid";
import type { Fraction, Hertz } from "../units";
import type { DrumActivations } from "./network";
import type { Top } from "./picking";

const { exp, log, max, min, round } = Math;

/** Bars before and after that are looked at. */
const neighbours = [-8, -4, -3, -2, -1, 1, 2, 3, 4, 8] as const;
/** Frames on either side of the same place in another bar. */
const reach = 2;
/** Seconds within which another voice is struck at the same time. */
const together = 0.02;

export const habitFeatureCount = 10;

const logit = (p: number): number => log(max(1e-4, p) / max(1e-4, 1 - p));

/** Voices that explain one another: the place of each curve's kind. */
export const kindOfCurve = [0, 1, 1, 1, 2, 2, 3, 3, 3, 4] as const;

/** The features of every top, in the order of the tops: `habitFeatureCount` numbers each. */
export function habitFeatures(
  tops: readonly Top[],
  { chances, curves }: DrumActivations,
  framesPerSecond: Hertz,
  grid: Grid | null,
): number[][] {
  const frames = chances.length / curves;
  const near = (frame: number, curve: number): number => {
    let best = 0;
    for (let k = max(0, frame - reach); k <= min(frames - 1, frame + reach); k++) {
      best = max(best, chances[k * curves + curve]!);
    }
    return best;
  };
  // How much a track has of each voice: the mean of its strongest tops, and how many are clear.
  const strongest = Array.from({ length: curves }, (_, curve) =>
    tops
      .filter((top) => top.curve === curve)
      .map(({ chance }) => chance)
      .sort((a, b) => b - a),
  );
  const seconds = max(1, frames / framesPerSecond);
  const bars = grid ? seconds / ((60 / grid.bpm) * grid.beatsPerBar) : seconds / 2;
  const usual = strongest.map((own) => {
    const some = own.slice(0, max(4, round(bars / 4)));
    return some.reduce((a, b) => a + b, 0) / max(4, some.length);
  });
  const clear = strongest.map((own) => own.filter((chance) => chance >= 0.5).length / bars);
  return tops.map(({ time, curve, chance }, i) => {
    const others: number[] = [];
    if (grid) {
      const beat = beatAt(grid, time);
      for (const by of neighbours) {
        const frame = round(secondsAt(grid, beat + by * grid.beatsPerBar) * framesPerSecond);
        if (frame >= 0 && frame < frames) others.push(near(frame, curve));
      }
    }
    others.sort((a, b) => b - a);
    const mean = others.length > 0 ? others.reduce((a, b) => a + b, 0) / others.length : chance;
    const third = others.length > 2 ? others[2]! : mean;
    // The strongest other voice of the same kind at the same time, and of any kind.
    let rival = 0;
    let company = 0;
    for (let k = i - 1; k >= 0 && time - tops[k]!.time <= together; k--) consider(tops[k]!);
    for (let k = i + 1; k < tops.length && tops[k]!.time - time <= together; k++) consider(tops[k]!);
    function consider(other: Top): void {
      if (other.curve === curve) return;
      if (kindOfCurve[other.curve] === kindOfCurve[curve]) rival = max(rival, other.chance);
      else if (other.curve < 9) company = max(company, other.chance);
    }
    const known = others.length > 0 ? 1 : 0;
    return [
      logit(chance),
      chance,
      known * logit(mean),
      known * logit(third),
      known,
      usual[curve]!,
      min(3, clear[curve]!),
      rival,
      company,
      min(chance, third) * known,
    ];
  });
}

export interface HabitModel {
  /** For each curve: weights of the features, then the bias. */
  curves: readonly (readonly number[])[];
}

/** Probability of a top with these features. */
export function habitChance(model: HabitModel, curve: number, features: readonly number[]): Fraction {
  const weights = model.curves[curve]!;
  let sum = weights[habitFeatureCount]!;
  for (let i = 0; i < habitFeatureCount; i++) sum += weights[i]! * features[i]!;
  return 1 / (1 + exp(-max(-30, min(30, sum))));
}
