/** Bars of both sides that answer each other and in which a part plays on both. */
import type { CoverageSpan } from "../align/coverage";
import type { BarRange } from "../grid/grid";
import type { Decibels } from "../units";
import { playingBars, type PartBars } from "./presence";

/** Bars count from 1. */
export interface BarPair {
  reference: number;
  version: number;
}

/**
 * @param levels of the part, by bar.
 * @param chosen bars of the reference that count; null for all.
 */
export function playedBars(
  levels: PartBars,
  spans: readonly CoverageSpan[],
  chosen: BarRange | null,
  freeDb: Decibels,
): BarPair[] {
  const [ours, theirs] = [playingBars(levels.reference, freeDb), playingBars(levels.version, freeDb)];
  return spans.flatMap(({ referenceFirst, versionFirst, bars }) =>
    Array.from({ length: bars }, (_, i) => ({
      reference: referenceFirst + i,
      version: versionFirst + i,
    })).filter(
      ({ reference, version }) =>
        ours[reference - 1] &&
        theirs[version - 1] &&
        (!chosen || (reference >= chosen.first && reference <= chosen.last)),
    ),
  );
}
