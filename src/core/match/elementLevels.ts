/** Levels of elements beside one another. */
import type { LevelInBars } from "../lens/levelInBars";
import { lensParts } from "../lens/parts";
import type { Decibels, Fraction } from "../units";
import type { TrackMeasures } from "./compare";
import type { LensPair } from "./compareElements";
import { measured, type ComparedMeasure } from "./compared";
import { trustIn } from "./elementErrors";

const { min } = Math;

/** By how much the version is louder in all; null where one is silent. */
export const louderBy = (reference: TrackMeasures, version: TrackMeasures): Decibels | null =>
  reference.loudness.integratedLufs === null || version.loudness.integratedLufs === null
    ? null
    : version.loudness.integratedLufs - reference.loudness.integratedLufs;

/** How much the loudness of the whole says beside single parts: it follows the loudest of them. */
const ofTheWhole: Fraction = 0.2;
/** Of fewer parts nobody knows which was turned up: then the loudness of the whole tells. */
const fewestInCommon = 3;

/**
 * By how much the parts of the version are louder in common: the median of what single parts are louder
 * by and the loudness of the whole. One part that is turned up makes the whole louder, but not the others softer.
 */
export function commonGap({ reference, version, bars }: LensPair, louder: Decibels): Decibels {
  const votes = [{ gap: louder, weight: ofTheWhole }];
  for (const part of lensParts) {
    const own = bars?.[part].level;
    const [ours, theirs] = [reference[part].freeDb, version[part].freeDb];
    if (own && ours !== null && theirs !== null)
      votes.push({ gap: own.gap, weight: trustIn(min(ours, theirs)) });
  }
  if (votes.length <= fewestInCommon) return louder;
  votes.sort((a, b) => a.gap - b.gap);
  const half = votes.reduce((sum, { weight }) => sum + weight, 0) / 2;
  let below = 0;
  for (const [i, { gap, weight }] of votes.entries()) {
    // Between two of them where as much lies on either side.
    if (below + weight === half) return (gap + votes[i + 1]!.gap) / 2;
    below += weight;
    if (below > half) return gap;
  }
  return louder;
}

/**
 * Level of an element on both sides against the loudness of the reference, what is louder in common taken off.
 *
 * @param levels of both sides, over all that is compared.
 * @param inBars the same bar against bar; null where that is not known.
 * @param louder by how much the version is louder in common; null where one side is silent.
 */
export function levelOf(
  [ours, theirs]: readonly [Decibels, Decibels],
  inBars: LevelInBars | null,
  lufs: number | null,
  louder: Decibels | null,
): ComparedMeasure {
  const [own, gap] = inBars ? [inBars.reference, inBars.gap] : [ours, theirs - ours];
  const known = lufs !== null && louder !== null && Number.isFinite(own) && Number.isFinite(gap);
  return known
    ? measured("elementLevel", own - lufs, own - lufs + gap - louder)
    : measured("elementLevel", null, null);
}
