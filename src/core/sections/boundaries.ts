/**
 * Where sections begin: how new each bar is against those before it in sound, rhythm, harmony and
 * level (novelty: Foote 2000, "Automatic audio segmentation using a measure of audio novelty"), and
 * then the best division of the whole into sections of usual lengths.
 */
import type { BarFeatures } from "../align/barFeatures";
import type { ChoiceModel } from "../grid/choice";
import { spectralDistance, type BarProfile } from "./barProfile";

const { abs, log, max, min, sqrt } = Math;

/** Likeness of two bars in rhythm and in harmony, −1 … 1. */
function likeness(rows: Float32Array, size: number, a: number, b: number): number {
  let product = 0;
  for (let i = 0; i < size; i++) product += rows[a * size + i]! * rows[b * size + i]!;
  return product;
}

/** Mean disagreement of some bars with those at the same place before, 0–2. */
function disagreement(rows: Float32Array, size: number, bar: number, back: number, bars: number): number {
  let sum = 0;
  for (let i = 0; i < bars; i++) sum += 1 - likeness(rows, size, bar + i - back, bar + i);
  return sum / bars;
}

const contexts = [1, 2, 4, 8] as const;

/**
 * Changes smaller than this are none, however much larger they are than all others of the track: a
 * loop that is copied differs from itself by rounding only. In the order of a row of `novelties`.
 */
const leastNovelty: readonly number[] = [
  // Spectra in dB, onsets, pitched sound, of each context.
  ...contexts.flatMap(() => [0.3, 0.03, 0.02]),
  // Rhythm and harmony over four bars and over one, loudness in dB, density.
  ...[0.02, 0.02, 0.02, 0.02],
  ...[0.2, 0.03],
];

/** Novelty of each bar in several ways, `count` rows; row 0 is all 0. */
function novelties(profile: BarProfile): number[][] {
  const { count, onsets, onsetRanges, loudness, pitched, density } = profile;
  const { rhythm, rhythmSize, harmony, harmonySize }: BarFeatures = profile.features;
  const mean = (rows: Float32Array, size: number, column: number, from: number, to: number) => {
    let sum = 0;
    for (let bar = from; bar < to; bar++) sum += rows[bar * size + column]!;
    return sum / (to - from);
  };
  return Array.from({ length: count }, (_, bar) => {
    if (bar === 0) return [];
    const row: number[] = [];
    for (const context of contexts) {
      const before: [number, number] = [max(0, bar - context), bar];
      const after: [number, number] = [bar, min(count, bar + context)];
      row.push(spectralDistance(profile, before, after));
      let beats = 0;
      for (let r = 0; r < onsetRanges; r++) {
        beats += abs(
          sqrt(mean(onsets, onsetRanges, r, ...before)) - sqrt(mean(onsets, onsetRanges, r, ...after)),
        );
      }
      row.push(beats);
      let tones = 0;
      for (let height = 0; height < 3; height++) {
        tones += abs(mean(pitched, 3, height, ...before) - mean(pitched, 3, height, ...after));
      }
      row.push(tones);
    }
    const four = min(4, bar, count - bar);
    const before: [number, number] = [bar - four, bar];
    const after: [number, number] = [bar, bar + four];
    row.push(
      disagreement(rhythm, rhythmSize, bar, four, four),
      disagreement(harmony, harmonySize, bar, four, four),
      disagreement(rhythm, rhythmSize, bar, 1, 1),
      disagreement(harmony, harmonySize, bar, 1, 1),
      abs(mean(loudness, 1, 0, ...before) - mean(loudness, 1, 0, ...after)),
      abs(log((1 + mean(density, 1, 0, ...before)) / (1 + mean(density, 1, 0, ...after)))),
    );
    return row;
  });
}

/**
 * What speaks for a section to begin at each bar but the first: novelties as they are and against
 * the strongest of the track, whether they are higher than those next to it, and its place among
 * the bars, counted from bar 1.
 */
export function boundaryFeatures(profile: BarProfile): number[][] {
  const rows = novelties(profile).slice(1);
  if (rows.length === 0) return [];
  const size = rows[0]!.length;
  const highest = Array.from({ length: size }, (_, i) =>
    max(leastNovelty[i]!, ...rows.map((row) => row[i]!)),
  );
  return rows.map((row, at) => {
    const peaks = [0, 1, 3, 4, 6, 7, 12].map((i) => {
      const beside = max(rows[at - 1]?.[i] ?? 0, rows[at + 1]?.[i] ?? 0);
      return row[i]! > max(beside, leastNovelty[i]!) ? 1 : 0;
    });
    return [
      1,
      ...row,
      ...row.map((value, i) => value / highest[i]!),
      ...peaks,
      ...placeFeatures(profile.firstBar + 1 + at, 0),
    ];
  });
}

/** Whether a bar begins a group of four and of two, counted from some bars after bar 1. */
function placeFeatures(bar: number, phase: number): [number, number] {
  const place = (((bar - 1 - phase) % 4) + 4) % 4;
  return [place === 0 ? 1 : 0, place % 2 === 0 ? 1 : 0];
}

/**
 * Logarithm of the odds that a section begins at each bar but the first, groups of four counted
 * from bar 1 and from each of the three bars after it.
 */
function boundaryOdds({ weights, deviations }: ChoiceModel, profile: BarProfile): number[][] {
  // Against a candidate that is all 0, as it was fitted: the means cancel out.
  const weightOf = (i: number) => weights[i]! / deviations[i]!;
  const placed = weights.length - placeFeatures(0, 0).length;
  const plain = boundaryFeatures(profile).map((features) => {
    if (features.length !== weights.length) {
      throw new Error(`the model has ${weights.length} weights, a bar ${features.length} features`);
    }
    return features.slice(0, placed).reduce((sum, f, i) => sum + weightOf(i) * f, 0);
  });
  return [0, 1, 2, 3].map((phase) =>
    plain.map((odds, at) => {
      const [four, two] = placeFeatures(profile.firstBar + 1 + at, phase);
      return odds + weightOf(placed) * four + weightOf(placed + 1) * two;
    }),
  );
}

/**
 * How usual a length in bars is, as a logarithm: eights, then fours (common practice, no source). How
 * much so, and what long and short ones cost, was set on songs 1 to 5 of each style.
 */
function usualness(bars: number): number {
  if (bars % 8 === 0) return 0;
  if (bars % 4 === 0) return -1;
  if (bars % 2 === 0) return -1.5;
  return -2.5;
}

/** Up to here a section is not too long: bars. */
const notTooLong = 16;
/** What speaks for a section of so many bars, however it was cut. */
function worth(bars: number): number {
  if (bars < 4) return -1.2;
  return bars === 4 ? 0.8 : 0.3 - 0.19 * max(0, bars - notTooLong);
}
const longest = 64;

/** The first and the last section may have been cut, and then any length is usual enough. */
const cutUsualness = -0.4;

/** Sections as they begin, and how well they divide the whole: a logarithm of odds. */
export interface Division {
  /** Places 0 … count − 1; always begins with 0. */
  starts: number[];
  score: number;
}

/**
 * Divides bars into sections: the sum of the odds of all boundaries and of how usual the lengths
 * are is as large as it can be (dynamic programming).
 *
 * @param odds one a bar but the first.
 */
export function bestDivision(odds: readonly number[], count: number): Division {
  const best = new Float64Array(count + 1).fill(-Infinity);
  const cameFrom = new Int32Array(count + 1);
  best[0] = 0;
  for (let end = 1; end <= count; end++) {
    for (let start = max(0, end - longest); start < end; start++) {
      const bars = end - start;
      const isCut = (start === 0 || end === count) && bars < count;
      const usual = isCut ? max(usualness(bars), cutUsualness) : usualness(bars);
      const score = best[start]! + (start > 0 ? odds[start - 1]! : 0) + usual + worth(bars);
      if (score > best[end]!) {
        best[end] = score;
        cameFrom[end] = start;
      }
    }
  }
  const starts: number[] = [];
  for (let end = count; end > 0; end = cameFrom[end]!) starts.unshift(cameFrom[end]!);
  return { starts, score: best[count]! };
}

/** How much more likely groups of four bars are to begin at bar 1 than at each bar after it: a logarithm. */
const fromBarOne = 4;

/** The best division of a stretch of bars, whichever bar groups of four are counted from: a track may have been cut. */
export function bestPhasedDivision(
  model: ChoiceModel,
  profile: BarProfile,
  from: number,
  to: number,
): number[] {
  const divisions = boundaryOdds(model, profile).map((odds, phase) => {
    const { starts, score } = bestDivision(odds.slice(from, max(from, to - 1)), to - from);
    return { starts, score: score + (phase === 0 ? fromBarOne : 0) };
  });
  return divisions.reduce((a, b) => (b.score > a.score ? b : a)).starts;
}
