/** Finds for each hit of one side its counterpart on the other. */
import type { BarRange } from "../grid/grid";
import type { Fraction } from "../units";
import type { CountedHit } from "./correction";
import { stepInBar, type BarShape } from "./patterns";
import type { PlacedHit } from "./steps";
import { backVoices, drumVoices, voiceIndex, type DrumVoice } from "./voices";

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
/** The voices that each may be taken for, itself left out. */
export const kindred = Object.fromEntries(
  drumVoices.map((voice) => [
    voice,
    drumVoices.filter(
      (other) =>
        other !== voice && families.some((family) => family.includes(voice) && family.includes(other)),
    ),
  ]),
) as unknown as Record<DrumVoice, readonly DrumVoice[]>;
export const interchangeable = (a: DrumVoice, b: DrumVoice): boolean => a === b || kindred[a].includes(b);

/** Hits of a side that lie in whole bars, moved by bars. */
export function hitsInBars(
  placed: readonly Placed[],
  { first, last }: BarRange,
  by: number,
  beatsPerBar: number,
): Placed[] {
  const moved = by * beatsPerBar;
  const inside = placed.filter(({ bar }) => bar >= first && bar <= last);
  return by === 0
    ? inside
    : inside.map(({ hit, beat, quantised, bar, division, offset }) => ({
        hit,
        beat: beat + moved,
        quantised: quantised + moved,
        bar: bar + by,
        division,
        offset,
      }));
}

/** Voices that are heard well in nearly any mix; the others can be covered. */
export const clearVoices: readonly DrumVoice[] = ["kick", "snare", "clap"];

/** Says of a faint hit whether its voice is heard clearly on the same step of other bars. */
export function clearSteps(hits: readonly Placed[], shape: BarShape): (faint: Placed) => boolean {
  const length = shape.beatsPerBar * shape.stepsPerBeat;
  const counts = new Uint32Array(drumVoices.length * length);
  const sums = new Float64Array(counts.length);
  const indexOf = (own: Placed) => voiceIndex[own.hit.voice] * length + stepInBar(own, shape);
  for (const own of hits) {
    const index = indexOf(own);
    counts[index]!++;
    sums[index]! += own.hit.confidence;
  }
  return (faint) => {
    const index = indexOf(faint);
    return (
      clearVoices.includes(faint.hit.voice) &&
      counts[index]! >= leastForMean &&
      sums[index]! / counts[index]! >= trustedAt
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
  const placesOf = (side: readonly Placed[]) =>
    Float64Array.from(side, ({ quantised, offset }) => quantised + offset / beatSeconds);
  const ours = placesOf(reference);
  const theirs = placesOf(version);
  const candidates: { a: number; b: number; distance: number }[] = [];
  let low = 0;
  for (let a = 0; a < ours.length; a++) {
    const place = ours[a]!;
    while (low < theirs.length && theirs[low]! < place - reach) low++;
    for (let b = low; b < theirs.length && theirs[b]! <= place + reach; b++) {
      if (fits(reference[a]!, version[b]!)) candidates.push({ a, b, distance: abs(theirs[b]! - place) });
    }
  }
  candidates.sort((x, y) => x.distance - y.distance);
  const usedA = new Uint8Array(ours.length);
  const usedB = new Uint8Array(theirs.length);
  const pairs: [Placed, Placed][] = [];
  for (const { a, b } of candidates) {
    if (usedA[a] || usedB[b]) continue;
    usedA[a] = 1;
    usedB[b] = 1;
    pairs.push([reference[a]!, version[b]!]);
  }
  return {
    pairs,
    missing: reference.filter((_, a) => !usedA[a]),
    extra: version.filter((_, b) => !usedB[b]),
  };
}
