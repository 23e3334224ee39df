/**
 * Which of several passages that are nearly alike a version recreates. How much better one agrees
 * than another says little by itself: verse and chorus may differ by one quiet part. It is held
 * against how far the passages are apart in the reference, as a matched filter does: 1 where the
 * version has all that tells them apart, −1 where it has the other passage, 0 where it has neither.
 */
import { runsOf } from "./runs";

const { max } = Math;

/** How alike bars are: of the version to the reference, and of the reference to itself. */
export interface BarSimilarity {
  /** `referenceBars × versionBars`. */
  agreement: Float32Array;
  /** `referenceBars × referenceBars`. */
  selfSimilarity: Float32Array;
  referenceBars: number;
  versionBars: number;
  /** Row of the first bar of the reference that begins a group of four. */
  firstFour: number;
}

/** Passages less than this apart a bar cannot be told apart by their features. */
const leastApart = 0.008;
/** What counts as told apart, for passages of eight bars and of four. */
const windows = [
  { bars: 8, least: 0.35 },
  { bars: 4, least: 0.4 },
] as const;
/** What a bar may lose in agreement when it is put where nothing answers yet. */
const mayLose = 0.06;
/** A difference of agreement a bar that says nothing. */
const sameAgreement = 0.004;

const sumAt = (
  { agreement, versionBars }: BarSimilarity,
  reference: number,
  version: number,
  bars: number,
) => {
  let sum = 0;
  for (let i = 0; i < bars; i++) sum += agreement[(reference + i) * versionBars + version + i]!;
  return sum;
};

/**
 * −1 … 1: whether some bars of the version recreate one passage of the reference (1) or another (−1);
 * 0 where the passages cannot be told apart.
 */
export function toldApart(
  similarity: BarSimilarity,
  version: number,
  bars: number,
  passage: number,
  other: number,
): number {
  let apart = 0;
  for (let i = 0; i < bars; i++) {
    apart += 1 - similarity.selfSimilarity[(passage + i) * similarity.referenceBars + other + i]!;
  }
  if (apart < leastApart * bars) return 0;
  const gain = sumAt(similarity, passage, version, bars) - sumAt(similarity, other, version, bars);
  return max(-1, gain / apart);
}

/** Moves whole fours and eights to passages that they clearly recreate instead. */
export function relocated(rows: Int32Array, similarity: BarSimilarity): Int32Array {
  const result = rows.slice();
  for (const { bars, least } of windows) {
    for (const run of runsOf(result)) {
      for (let i = 0; i + bars <= run.bars; i++) {
        const here = run.reference + i;
        if (i > 0 && (here - similarity.firstFour) % 4 !== 0) continue;
        const version = run.version + i;
        const own = sumAt(similarity, here, version, bars);
        let best = here;
        let bestGain = leastApart * bars;
        for (let place = 0; place + bars <= similarity.referenceBars; place++) {
          if (place === here) continue;
          const gain = sumAt(similarity, place, version, bars) - own;
          if (gain > bestGain && toldApart(similarity, version, bars, place, here) > least) {
            best = place;
            bestGain = gain;
          }
        }
        if (best === here) continue;
        for (let k = 0; k < bars; k++) result[version + k] = best + k;
        i += bars - 1;
      }
    }
  }
  return result;
}

/**
 * Where two passages of the version are given the same bars of the reference, one of them is put
 * where nothing answers yet, if it agrees there about as well.
 */
export function spread(rows: Int32Array, similarity: BarSimilarity): Int32Array {
  const result = rows.slice();
  const answeredBy = (row: number, notIn: [number, number]) => {
    for (let v = 0; v < result.length; v++) {
      if ((v < notIn[0] || v >= notIn[1]) && result[v] === row) return v;
    }
    return -1;
  };
  for (let v = 0; v < result.length; v++) {
    if (result[v]! < 0) continue;
    const again = answeredBy(result[v]!, [0, v + 1]);
    if (again < 0) continue;
    let bars = 1;
    while (
      again + bars < result.length &&
      v + bars < again &&
      result[v + bars] === result[v]! + bars &&
      result[again + bars] === result[v]! + bars
    )
      bars++;
    const shared = result[v]!;
    const free = (place: number) => {
      for (let i = 0; i < bars; i++) {
        if (place + i >= similarity.referenceBars || answeredBy(place + i, [-1, -1]) >= 0) return false;
      }
      return true;
    };
    let best: { mover: number; place: number; value: number } | null = null;
    for (const mover of [v, again]) {
      const own = sumAt(similarity, shared, mover, bars);
      for (let place = 0; place + bars <= similarity.referenceBars; place++) {
        if (!free(place)) continue;
        const there = sumAt(similarity, place, mover, bars);
        if (there < own - mayLose * bars) continue;
        // In order of time where nothing else decides: the earlier passage is the earlier one.
        const inOrder = place < shared === mover < (mover === v ? again : v) ? sameAgreement * bars : 0;
        const value = there - own + inOrder;
        if (!best || value > best.value + 1e-9) best = { mover, place, value };
      }
    }
    if (best) for (let i = 0; i < bars; i++) result[best.mover + i] = best.place + i;
    v += bars - 1;
  }
  return result;
}
