/** What a one-shot has too little of, beside the drum it is to stand in for. */
import type { Decibels, Hertz } from "../units";
import { thirdOctaveCentres, type HitMeasures } from "./hitMeasures";

const { abs, max, min, pow } = Math;

/** A range in which a sound has much less than the drum it is to stand in for. */
export interface Lack {
  fromHz: Hertz;
  toHz: Hertz;
  /** By how much, over the range. */
  gapDb: Decibels;
}

/** Bands this far under the loudest are not missed. */
const heardWithin: Decibels = 26;
const leastLack: Decibels = 6;

/** Levels of a candidate in third octaves, set against the target where the candidate has most. */
function setAgainst(target: readonly number[], own: readonly number[]): number[] {
  // The gain with which it gives what it has: the mean gap, in power of what both have in common.
  let sum = 0;
  let weights = 0;
  target.forEach((wanted, band) => {
    const weight = pow(10, min(wanted, own[band]!) / 10);
    sum += weight * (wanted - own[band]!);
    weights += weight;
  });
  const gain = weights > 0 ? sum / weights : 0;
  return own.map((level) => level + gain);
}

/** What a sound lacks against a drum, lowest first. */
export function lacking(target: HitMeasures, first: HitMeasures): Lack[] {
  const wanted = target.thirdOctaves;
  const own = setAgainst(wanted, first.thirdOctaves);
  const loudest = max(...wanted);
  const lacks: (Lack & { bands: number })[] = [];
  wanted.forEach((level, band) => {
    const gap = level - own[band]!;
    if (level < loudest - heardWithin || gap < leastLack) return;
    const centre = thirdOctaveCentres[band]!;
    const [fromHz, toHz] = [centre * pow(2, -1 / 6), centre * pow(2, 1 / 6)];
    const last = lacks.at(-1);
    if (last && abs(last.toHz / fromHz - 1) < 0.05) {
      last.gapDb = (last.gapDb * last.bands + gap) / (last.bands + 1);
      last.bands++;
      last.toHz = toHz;
    } else lacks.push({ fromHz, toHz, gapDb: gap, bands: 1 });
  });
  return lacks.map(({ fromHz, toHz, gapDb }) => ({ fromHz, toHz, gapDb: min(60, gapDb) }));
}
