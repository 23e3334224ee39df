/** The space that a part stands in: how far it falls between its sounds, which reverberance fills. */
import type { CoverageSpan } from "../align/coverage";
import type { BarRange } from "../grid/grid";
import { median, quantile } from "../median";
import type { Decibels, Seconds } from "../units";
import { playedBars, type PartInBars } from "./answeredBars";
import { isPresenceTold, levelsPerSecond, silence } from "./presence";
import { throughout } from "./throughout";

const { floor, log10, max, min, round } = Math;

/** A part sounds in beats that are within this of its loud ones, and not below the second. */
const soundsWithin: Decibels = 12;
const quietest: Decibels = -60;
/** Further down others are all that is left. */
const deepest: Decibels = -40;
/** Beats shorter than that many levels do not tell how far a part falls. */
const fewestLevels = 3;
const fewestBars = 4;

/** How far a part falls within the beats of each bar of both sides; null where it does not sound. */
export interface PartDepths {
  reference: (Decibels | null)[];
  version: (Decibels | null)[];
}

/**
 * Lowest level of each beat against its highest, in the middle over the beats of each bar, to a tenth of a decibel.
 *
 * @param levels mean squares, ten a second.
 * @param beats when all of them begin, from bar 1 on, and where the last ends.
 */
export function gapDepths(
  levels: Float32Array,
  beats: readonly Seconds[],
  beatsPerBar: number,
): (Decibels | null)[] {
  const ofBeats = beats.slice(1).map((to, beat) => {
    const first = max(0, round(beats[beat]! * levelsPerSecond));
    const end = min(levels.length, round(to * levelsPerSecond));
    if (end - first < fewestLevels) return null;
    let [lowest, highest] = [Infinity, 0];
    for (let k = first; k < end; k++) {
      lowest = min(lowest, levels[k]!);
      highest = max(highest, levels[k]!);
    }
    return { lowest: max(silence, 10 * log10(lowest)), highest: max(silence, 10 * log10(highest)) };
  });
  const heard = ofBeats.flatMap((own) => (own && own.highest > quietest ? [own.highest] : []));
  const least = heard.length === 0 ? Infinity : max(quietest, quantile(heard, 0.8) - soundsWithin);
  return Array.from({ length: floor(ofBeats.length / beatsPerBar) }, (_, bar) => {
    const depths = ofBeats
      .slice(bar * beatsPerBar, (bar + 1) * beatsPerBar)
      .flatMap((own) => (own && own.highest >= least ? [max(deepest, own.lowest - own.highest)] : []));
    return depths.length === 0 ? null : round(10 * median(depths)) / 10;
  });
}

/**
 * By how much fuller the gaps of a part are in the version: what most of the bars share in which both play it.
 *
 * @param chosen bars of the reference that count; null for all.
 * @param freeDb how far the part stands free on the side where it does less; null where it is not there.
 * @returns null where too few such bars are there, or it cannot be told.
 */
export function compareSpace(
  depths: PartDepths,
  part: PartInBars,
  spans: readonly CoverageSpan[],
  chosen: BarRange | null,
  freeDb: Decibels | null,
): Decibels | null {
  const pairs = isPresenceTold(freeDb) ? playedBars(part, spans, chosen, freeDb!) : [];
  const gaps = pairs.flatMap(({ reference, version }) => {
    const [ours, theirs] = [depths.reference[reference - 1], depths.version[version - 1]];
    return typeof ours === "number" && typeof theirs === "number" ? [theirs - ours] : [];
  });
  return gaps.length < fewestBars ? null : throughout(gaps);
}
