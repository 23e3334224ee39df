/** Which sections are the same material, and so get the same letter. */
import type { ChoiceModel } from "../grid/choice";
import { spectralDistance, type BarProfile } from "./barProfile";
import type { Fraction } from "../units";
import { letterAt } from "./letters";

const { abs, exp, log, max, min, sqrt } = Math;

/** Places of the profile: first bar, and the bar after the last. */
export type BarSpan = readonly [number, number];

/** What speaks for two sections to be the same material. */
export function similarityFeatures(profile: BarProfile, a: BarSpan, b: BarSpan): number[] {
  const { onsets, onsetRanges, pitched, loudness, density, features } = profile;
  const { rhythm, rhythmSize, harmony, harmonySize } = features;
  const lengths = [a[1] - a[0], b[1] - b[0]] as const;
  const mean = (rows: Float32Array, size: number, column: number, [from, to]: BarSpan) => {
    let sum = 0;
    for (let bar = from; bar < to; bar++) sum += rows[bar * size + column]!;
    return sum / max(1, to - from);
  };
  // Bar against bar from the beginning on, the longer section as often as the shorter one.
  const disagreement = (rows: Float32Array, size: number) => {
    const bars = min(...lengths);
    let sum = 0;
    for (let i = 0; i < bars; i++) {
      for (let k = 0; k < size; k++) sum += rows[(a[0] + i) * size + k]! * rows[(b[0] + i) * size + k]!;
    }
    return 1 - sum / max(1, bars);
  };
  let beats = 0;
  for (let r = 0; r < onsetRanges; r++) {
    beats += abs(sqrt(mean(onsets, onsetRanges, r, a)) - sqrt(mean(onsets, onsetRanges, r, b)));
  }
  let tones = 0;
  for (let height = 0; height < 3; height++) {
    tones += abs(mean(pitched, 3, height, a) - mean(pitched, 3, height, b));
  }
  return [
    1,
    spectralDistance(profile, [...a], [...b]),
    beats,
    tones,
    disagreement(rhythm, rhythmSize),
    disagreement(harmony, harmonySize),
    abs(mean(loudness, 1, 0, a) - mean(loudness, 1, 0, b)),
    abs(log((1 + mean(density, 1, 0, a)) / (1 + mean(density, 1, 0, b)))),
  ];
}

/** How likely two sections are to be the same material. */
function chanceOfSame(
  { weights, deviations }: ChoiceModel,
  profile: BarProfile,
  a: BarSpan,
  b: BarSpan,
): Fraction {
  const odds = similarityFeatures(profile, a, b).reduce(
    (sum, f, i) => sum + (weights[i]! * f) / deviations[i]!,
    0,
  );
  return 1 / (1 + exp(-odds));
}

/** Halves of one section need not be so much alike as sections that come again. */
const likeHalves: Fraction = 0.32;

/** Neighbours of one length that are about the same material are halves of one section of at most `longest` bars. */
export function withHalvesJoined(
  model: ChoiceModel,
  profile: BarProfile,
  longest: number,
  found: readonly BarSpan[],
): BarSpan[] {
  const places: BarSpan[] = [];
  for (const own of found) {
    const last = places.at(-1);
    const areHalves =
      last &&
      own[1] - own[0] === last[1] - last[0] &&
      own[1] - last[0] <= longest &&
      chanceOfSame(model, profile, last, own) > likeHalves;
    if (areHalves) places[places.length - 1] = [last[0], own[1]];
    else places.push(own);
  }
  return places;
}

/**
 * Letters of sections: the same where they are more likely than not the same material as the first
 * that has the letter, and most like it.
 */
export function lettersOf(model: ChoiceModel, profile: BarProfile, sections: readonly BarSpan[]): string[] {
  const firsts: { letter: string; section: BarSpan }[] = [];
  return sections.map((section) => {
    let best: { letter: string; chance: number } | null = null;
    for (const { letter, section: first } of firsts) {
      const chance = chanceOfSame(model, profile, first, section);
      if (chance > 0.5 && (!best || chance > best.chance)) best = { letter, chance };
    }
    if (best) return best.letter;
    const letter = letterAt(firsts.length);
    firsts.push({ letter, section });
    return letter;
  });
}
