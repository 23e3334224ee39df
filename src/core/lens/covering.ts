/**
 * What covers what: ranges in which one part stands above another more than it does in the reference.
 * Maskers reach beyond their own band, further up than down (Moore 2012, "An introduction to the
 * psychology of hearing"; slopes per third octave rounded, from memory).
 */
import type { CoverageSpan } from "../align/coverage";
import { bands, twelfthCount, widenBands } from "../tone";
import { powerToDecibels, type Decibels, type Hertz } from "../units";
import { playedBars, type PartInBars } from "./answeredBars";
import { lensParts, type LensPart } from "./parts";
import { isPresenceTold } from "./presence";

const { max, min, round } = Math;

/** One part over another, in a range of frequencies. */
export interface Covering {
  /** The part that is covered, and the one that covers it. */
  part: LensPart;
  by: LensPart;
  fromHz: Hertz;
  toHz: Hertz;
  /** How far the other stands above it there, on average over the bars in which both play. */
  reference: Decibels;
  version: Decibels;
  /** Bars of the reference whose answers are covered more. */
  bars: number[];
}

/** One side: spectra of its parts by bar, `bars × twelfthCount` powers each. */
export type PartSpectra = Record<LensPart, Float32Array>;

const thirds = bands(3);
const upwards: Decibels = 8;
const downwards: Decibels = 20;
/** A part is heard in bands that lie within this of its loudest. */
const heardWithin: Decibels = 15;
/** It is covered where another stands so far above it, */
const covered: Decibels = 3;
/** and that by so much more than in the reference. */
const moreCovered: Decibels = 3;
/** Beyond this it makes no difference. */
const most: Decibels = 24;
const fewestBands = 2;
const fewestBars = 4;
const mostOfPart = 3;

/** Levels of the third-octave bands of one bar. */
const levelsOf = (spectra: Float32Array, bar: number): Float64Array =>
  widenBands(spectra.subarray((bar - 1) * twelfthCount, bar * twelfthCount), 3).map((power) =>
    powerToDecibels(power + 1e-12),
  );

/** How far up a part reaches in every band as a masker. */
function reachOf(levels: Float64Array): Float64Array {
  const reach = levels.slice();
  for (let b = 1; b < reach.length; b++) reach[b] = max(reach[b]!, reach[b - 1]! - upwards);
  for (let b = reach.length - 2; b >= 0; b--) reach[b] = max(reach[b]!, reach[b + 1]! - downwards);
  return reach;
}

/**
 * @param parts what tells in which bars each plays.
 * @param freeDb how far each stands free on the side where it does less; null where it is not there.
 * @returns those that are covered more than in the reference, the plainest first.
 */
export function coverings(
  reference: PartSpectra,
  version: PartSpectra,
  parts: Record<LensPart, PartInBars>,
  freeDb: Record<LensPart, Decibels | null>,
  spans: readonly CoverageSpan[],
): Covering[] {
  const told = lensParts.filter((part) => isPresenceTold(freeDb[part]));
  const played = new Map(told.map((part) => [part, playedBars(parts[part], spans, null, freeDb[part]!)]));
  const found = told.flatMap((part) =>
    told
      .filter((by) => by !== part)
      .flatMap((by) => {
        const both = new Set(played.get(by)!.map((pair) => pair.reference));
        const pairs = played.get(part)!.filter((pair) => both.has(pair.reference));
        return pairs.length < fewestBars ? [] : rangesOf(reference, version, part, by, pairs);
      })
      .sort((a, b) => plainness(b) - plainness(a))
      .slice(0, mostOfPart),
  );
  return found.sort((a, b) => plainness(b) - plainness(a));
}

const plainness = ({ reference, version, fromHz, toHz }: Covering): number =>
  (version - max(0, reference)) * Math.log2(toHz / fromHz);

function rangesOf(
  reference: PartSpectra,
  version: PartSpectra,
  part: LensPart,
  by: LensPart,
  pairs: readonly { reference: number; version: number }[],
): Covering[] {
  const above = (own: Float64Array, reach: Float64Array) =>
    own.map((level, b) => max(-most, min(most, reach[b]! - level)));
  const perBar = pairs.map((pair) => {
    const ours = levelsOf(reference[part], pair.reference);
    const theirs = levelsOf(version[part], pair.version);
    return {
      bar: pair.reference,
      ours,
      theirs,
      reference: above(ours, reachOf(levelsOf(reference[by], pair.reference))),
      version: above(theirs, reachOf(levelsOf(version[by], pair.version))),
    };
  });
  const mean = (of: (bar: (typeof perBar)[number]) => Float64Array, b: number) =>
    perBar.reduce((sum, bar) => sum + of(bar)[b]!, 0) / perBar.length;
  const all = thirds.map((_, b) => ({
    own: max(
      mean((bar) => bar.ours, b),
      mean((bar) => bar.theirs, b),
    ),
    reference: mean((bar) => bar.reference, b),
    version: mean((bar) => bar.version, b),
  }));
  const loudest = all.reduce((best, { own }) => max(best, own), -Infinity);
  const isCovered = all.map(
    (band) =>
      band.own >= loudest - heardWithin &&
      band.version >= covered &&
      band.version - band.reference >= moreCovered,
  );
  const ranges: Covering[] = [];
  for (let first = 0; first < thirds.length; first++) {
    if (!isCovered[first]) continue;
    let last = first;
    while (isCovered[last + 1]) last++;
    const count = last - first + 1;
    const over = (values: (b: number) => number) =>
      Array.from({ length: count }, (_, i) => values(first + i)).reduce((a, b) => a + b, 0) / count;
    if (count >= fewestBands)
      ranges.push({
        part,
        by,
        fromHz: round(thirds[first]!.low),
        toHz: round(thirds[last]!.high),
        reference: round(10 * over((b) => all[b]!.reference)) / 10,
        version: round(10 * over((b) => all[b]!.version)) / 10,
        bars: perBar
          .filter((bar) => {
            const theirs = over((b) => bar.version[b]!);
            return theirs >= covered && theirs - over((b) => bar.reference[b]!) >= moreCovered;
          })
          .map(({ bar }) => bar),
      });
    first = last;
  }
  return ranges;
}
