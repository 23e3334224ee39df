/** Finds for each hit of one side its counterpart on the other. */
import type { BarRange } from "../grid/grid";
import type { Fraction } from "../units";
import type { CountedHit } from "./correction";
import { stepInBar, type BarShape } from "./patterns";
import type { PlacedHit } from "./steps";
import { backVoices, type DrumVoice } from "./voices";

const { abs } = Math;

export type Placed = PlacedHit<CountedHit>;

/** From so many on a mean says more than its single values. */
export const leastForMean = 3;
/** Where a side is no surer of a voice than this on average, what it lacks of it proves nothing. */
export const trustedAt: Fraction = 0.85;

/** Voices that stand in for one another, and that ears and programs confuse. */
const families: readonly (readonly DrumVoice[])[] = [
  backVoices,
  ["hat", "openHat", "cymbal", "perc"],
  ["kick", "tom"],
];
export const interchangeable = (a: DrumVoice, b: DrumVoice): boolean =>
  a === b || families.some((family) => family.includes(a) && family.includes(b));

/** Hits of a side that lie in whole bars, moved by bars. */
export function hitsInBars(
  placed: readonly Placed[],
  { first, last }: BarRange,
  by: number,
  beatsPerBar: number,
): Placed[] {
  const moved = by * beatsPerBar;
  return placed
    .filter(({ bar }) => bar >= first && bar <= last)
    .map((own) =>
      by === 0
        ? own
        : { ...own, bar: own.bar + by, beat: own.beat + moved, quantised: own.quantised + moved },
    );
}

/** Voices that are heard well in nearly any mix; the others can be covered. */
export const clearVoices: readonly DrumVoice[] = ["kick", "snare", "clap"];

/** Says of a faint hit whether its voice is heard clearly on the same step of other bars. */
export function clearSteps(hits: readonly Placed[], shape: BarShape): (faint: Placed) => boolean {
  const steps = new Map<string, { count: number; sum: number }>();
  const keyOf = (own: Placed) => `${own.hit.voice} ${stepInBar(own, shape)}`;
  for (const own of hits) {
    const known = steps.get(keyOf(own)) ?? { count: 0, sum: 0 };
    known.count++;
    known.sum += own.hit.confidence;
    steps.set(keyOf(own), known);
  }
  return (faint) => {
    const known = steps.get(keyOf(faint));
    return (
      clearVoices.includes(faint.hit.voice) &&
      known !== undefined &&
      known.count >= leastForMean &&
      known.sum / known.count >= trustedAt
    );
  };
}

interface Pairing {
  pairs: [Placed, Placed][];
  missing: Placed[];
  extra: Placed[];
}

/** Pairs hits that are near each other and pass a test, the nearest first. */
export function pairUp(
  reference: readonly Placed[],
  version: readonly Placed[],
  fits: (a: Placed, b: Placed) => boolean,
  { beatSeconds, reach }: { beatSeconds: number; reach: number },
): Pairing {
  // Where hits stand apart from swing, so that a straight side and a swung one meet.
  const placeOf = ({ quantised, offset }: Placed) => quantised + offset / beatSeconds;
  const candidates: { a: number; b: number; distance: number }[] = [];
  let low = 0;
  reference.forEach((own, a) => {
    while (low < version.length && placeOf(version[low]!) < placeOf(own) - reach) low++;
    for (let b = low; b < version.length && placeOf(version[b]!) <= placeOf(own) + reach; b++) {
      if (fits(own, version[b]!))
        candidates.push({ a, b, distance: abs(placeOf(version[b]!) - placeOf(own)) });
    }
  });
  candidates.sort((x, y) => x.distance - y.distance);
  const usedA = new Set<number>();
  const usedB = new Set<number>();
  const pairs: [Placed, Placed][] = [];
  for (const { a, b } of candidates) {
    if (usedA.has(a) || usedB.has(b)) continue;
    usedA.add(a);
    usedB.add(b);
    pairs.push([reference[a]!, version[b]!]);
  }
  return {
    pairs,
    missing: reference.filter((_, a) => !usedA.has(a)),
    extra: version.filter((_, b) => !usedB.has(b)),
  };
}
