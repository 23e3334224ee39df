/**
 * Whether two tracks have anything to do with each other. Some path through the bars of two tracks
 * always agrees: most music is in fours, with the back-beat on two and four. What tells is how much
 * more it agrees than a path through the same bars in another order does, in another key, or than
 * the reference's bars agree with one another. Weighed by a logistic model, fitted in `bench` on
 * versions and on unrelated pairs of several sources.
 */
import { probabilities } from "../grid/choice";
import type { Fraction } from "../units";
import { relatedModel } from "./relatedModel";
import { bestPath, meanAgreement, type Run } from "./runs";
import type { CommonHarmony } from "./sameHarmony";

const { abs, log2, max, sqrt } = Math;

/** What is known of a pair once its bars are aligned. */
export interface AlignedPair {
  /** `referenceBars × versionBars`. */
  agreement: Float32Array;
  /** `referenceBars × referenceBars`. */
  selfSimilarity: Float32Array;
  rhythm: Float32Array;
  drums: { similarity: Float32Array; says: Float32Array };
  /** Harmony for each of twelve transpositions; null where one side is not pitched. */
  harmonyAt: ((semitones: number) => Float32Array) | null;
  /** By how many semitones the version sounds higher. */
  semitones: number | null;
  /** Null where one side has no harmony to speak of. */
  common: CommonHarmony | null;
  referenceBars: number;
  versionBars: number;
  runs: readonly Run[];
  /** How exactly the onsets of the bars that answer each other agree, −1 … 1. */
  exactOnsets: number;
  /** Loudness of each bar under the loudest, dB. */
  quieter: { reference: Float32Array; version: Float32Array };
  /** Tempo of the version as it is read against that of the reference. */
  tempoRatio: number;
  /** Whether the version's beats are read as they were measured. */
  isPlain: boolean;
}

/**
 * Less likely related than this, two tracks are strangers. To tell a sketch that it is none costs more
 * than to line up strangers once: of 108 unrelated pairs of the bench none lies between 0.4 and 0.5.
 */
export const leastRelated: Fraction = 0.4;

/** What a jump costs on the paths that are held against each other. */
const jumpCost = 0.5;

/** Correlation of two lists; 0 where one has no shape. */
function correlation(a: readonly number[], b: readonly number[]): number {
  const mean = (list: readonly number[]) => list.reduce((x, y) => x + y, 0) / list.length;
  const [meanA, meanB] = [mean(a), mean(b)];
  let product = 0;
  let squaresA = 0;
  let squaresB = 0;
  a.forEach((x, i) => {
    product += (x - meanA) * (b[i]! - meanB);
    squaresA += (x - meanA) ** 2;
    squaresB += (b[i]! - meanB) ** 2;
  });
  return squaresA > 1e-6 && squaresB > 1e-6 ? product / sqrt(squaresA * squaresB) : 0;
}

/** Orders of the reference's bars that no version has: backwards, and dealt out. */
const otherOrders: readonly ((row: number, bars: number) => number)[] = [
  (row, bars) => bars - 1 - row,
  (row, bars) => (row * coprime(bars)) % bars,
];

/** A step that leads through all of so many bars, far from one to the next. */
function coprime(bars: number): number {
  const divisor = (a: number, b: number): number => (b === 0 ? a : divisor(b, a % b));
  for (let step = Math.max(2, Math.round(0.38 * bars)); step < bars; step++)
    if (divisor(step, bars) === 1) return step;
  return 1;
}

/** Agreement a bar on the best path, bars without an answer counted as 0. */
function scoreOf(agreement: Float32Array, referenceBars: number, versionBars: number): number {
  return bestPath(agreement, referenceBars, versionBars, jumpCost).score / versionBars;
}

/** What tells whether two tracks are related; the first is constant. */
export function relationFeatures(pair: AlignedPair): number[] {
  const { agreement, selfSimilarity, referenceBars, versionBars, runs, harmonyAt, semitones, common } = pair;
  const rows = new Int32Array(versionBars).fill(-1);
  for (const { reference, version, bars } of runs)
    for (let i = 0; i < bars; i++) rows[version + i] = reference + i;
  const covered = rows.reduce((sum, row) => sum + Number(row >= 0), 0);
  const along = (matrix: Float32Array) => meanAgreement({ score: 0, rows }, matrix, versionBars);
  const meanOf = (matrix: Float32Array) => matrix.reduce((a, b) => a + b, 0) / max(1, matrix.length);

  const agrees = along(agreement);
  const usual = meanOf(agreement);
  // Bars of the reference beside one another, each with itself left out.
  const own =
    referenceBars > 1
      ? (selfSimilarity.reduce((a, b) => a + b, 0) - referenceBars) / (referenceBars * (referenceBars - 1))
      : 0;
  const score = scoreOf(agreement, referenceBars, versionBars);
  const other = otherOrders.map((order) => {
    const turned = new Float32Array(agreement.length);
    for (let row = 0; row < referenceBars; row++) {
      const from = order(row, referenceBars);
      turned.set(agreement.subarray(from * versionBars, (from + 1) * versionBars), row * versionBars);
    }
    return scoreOf(turned, referenceBars, versionBars);
  });
  const harmonies =
    harmonyAt && semitones !== null
      ? Array.from({ length: 12 }, (_, by) => along(harmonyAt((semitones + by + 12) % 12)))
      : null;
  const harmony = harmonies?.[0] ?? 0;
  const otherKeys = harmonies ? harmonies.slice(1).reduce((a, b) => a + b, 0) / 11 : 0;
  const nextKey = harmonies ? max(...harmonies.slice(1)) : 0;
  const levels = [...rows].flatMap((row, v) =>
    row >= 0 ? [[pair.quieter.reference[row]!, pair.quieter.version[v]!] as const] : [],
  );
  const drumSays = along(pair.drums.says);
  const drums = along(pair.drums.similarity);
  const beyondOtherOrders = score - max(...other);
  return [
    1,
    agrees,
    agrees - usual,
    (agrees - usual) / max(0.05, 1 - usual),
    own,
    agrees - own,
    score,
    beyondOtherOrders,
    beyondOtherOrders / max(0.05, score),
    along(pair.rhythm),
    harmony,
    harmony - otherKeys,
    harmony - nextKey,
    Number(harmonies !== null),
    drums,
    drumSays,
    pair.exactOnsets,
    levels.length >= 4
      ? correlation(
          levels.map(([a]) => a),
          levels.map(([, b]) => b),
        )
      : 0,
    covered / max(1, versionBars),
    log2(max(1, covered) / max(1, runs.length)),
    log2(max(1, versionBars)),
    log2(max(1, referenceBars)),
    Number(pair.isPlain),
    abs(log2(pair.tempoRatio)),
    // Where both have chords, these say most, and drums that many songs share say less.
    Number(common !== null),
    common ? common.agrees : 0,
    common ? common.beyondOtherKeys : 0,
    common ? agrees - usual : 0,
    common ? beyondOtherOrders : 0,
    common ? drums : 0,
    common ? pair.exactOnsets : 0,
  ];
}

/** Probability 0–1 that a version has to do with its reference at all; 1 while a model for other features is fitted. */
export const relation = (features: readonly number[]): Fraction =>
  relatedModel.weights.length === features.length
    ? probabilities(relatedModel, [features, features.map(() => 0)])[0]!
    : 1;
