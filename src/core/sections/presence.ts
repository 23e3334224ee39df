/** Which broad groups of elements play in a section, as far as the mix tells. */
import type { ChoiceModel } from "../grid/choice";
import type { Fraction } from "../units";
import { melodyFeatures, wideBands, type BarProfile } from "./barProfile";
import { bassModel } from "./bassModel";
import { chordsModel } from "./chordsModel";
import { drumsModel } from "./drumsModel";
import { leadModel } from "./leadModel";

const { exp, max, min } = Math;

/** Groups that are told from the sound of whole bars; effects are told from moments. */
export const elementGroups = ["drums", "bass", "chords", "lead"] as const;
export type HeardGroup = (typeof elementGroups)[number];

const models: Record<HeardGroup, ChoiceModel> = {
  drums: drumsModel,
  bass: bassModel,
  chords: chordsModel,
  lead: leadModel,
};

/** What some bars sound like against the whole track. */
export function presenceFeatures(profile: BarProfile, from: number, to: number): number[] {
  const { count, spectra, onsets, onsetRanges, pitched, melody, density, loudness } = profile;
  const bars = max(1, to - from);
  const mean = (rows: Float32Array, size: number, column: number) => {
    let sum = 0;
    for (let bar = from; bar < to; bar++) sum += rows[bar * size + column]!;
    return sum / bars;
  };
  const most = (rows: Float32Array, size: number, column: number) => {
    let value = 1e-9;
    for (let bar = 0; bar < count; bar++) value = max(value, rows[bar * size + column]!);
    return value;
  };
  const features = [1];
  for (let r = 0; r < onsetRanges; r++) {
    const value = mean(onsets, onsetRanges, r);
    features.push(min(3, value), value / most(onsets, onsetRanges, r));
  }
  for (let height = 0; height < 3; height++) features.push(mean(pitched, 3, height));
  const middle = features.at(-2)!;
  features.push(features.at(-1)! / max(0.05, middle), features.at(-3)! / max(0.05, middle));
  // Levels of wide bands in tens of dB: low, low-mid, mid, high.
  for (let band = 0; band < wideBands; band += 2) {
    features.push((mean(spectra, wideBands, band) + mean(spectra, wideBands, band + 1)) / 20);
  }
  for (let i = 0; i < melodyFeatures; i++) {
    features.push(
      mean(melody, melodyFeatures, i),
      mean(melody, melodyFeatures, i) / most(melody, melodyFeatures, i),
    );
  }
  features.push(mean(density, 1, 0) / most(density, 1, 0));
  features.push(
    (mean(loudness, 1, 0) -
      most(
        loudness.map((v) => v + 100),
        1,
        0,
      ) +
      100) /
      10,
  );
  return features;
}

/** Probability that each group plays in some bars, places of the profile. */
export function presenceOf(profile: BarProfile, from: number, to: number): Record<HeardGroup, Fraction> {
  const features = presenceFeatures(profile, from, to);
  const chance = ({ weights, deviations }: ChoiceModel) =>
    1 / (1 + exp(-features.reduce((sum, f, i) => sum + (weights[i]! * f) / deviations[i]!, 0)));
  return Object.fromEntries(elementGroups.map((group) => [group, chance(models[group])])) as Record<
    HeardGroup,
    Fraction
  >;
}
