/** What the lens has lifted out of a version and its reference: what is stored, and what counts of it. */
import type { CoverageSpan } from "../align/coverage";
import { barStart, barsOf, type BarRange, type Grid } from "../grid/grid";
import { lensMeasures, type LensMeasures, type LiftedTrack } from "../lens/lensMeasures";
import { barLevels, comparePresence, type ComparedPresence, type PartBars } from "../lens/presence";
import { lensParts, type LensPart } from "../lens/parts";
import type { LensPair } from "../match";
import type { Decibels } from "../units";
import type { SpanPair } from "./spans";

/** Raise it whenever the same parts can be measured otherwise. */
export const lensMeasuresVersion = 1;

export interface StoredLens {
  reference: LensMeasures;
  version: LensMeasures;
  /** Levels of each part in the bars of both; null where one has none. */
  bars: Record<LensPart, PartBars> | null;
}

/** Where the bars of a grid begin from bar 1 on, and where the last ends. */
function barStarts(grid: Grid): number[] {
  const { last } = barsOf(grid);
  return Array.from({ length: Math.max(0, last) + 1 }, (_, i) => barStart(grid, i + 1));
}

/** @param spans over which the parts are measured. */
export function measuredLens(
  reference: LiftedTrack,
  version: LiftedTrack,
  spans: SpanPair,
  grids: { reference: Grid; version: Grid } | null,
): StoredLens {
  const starts = grids && { reference: barStarts(grids.reference), version: barStarts(grids.version) };
  return {
    reference: lensMeasures(reference, spans.reference),
    version: lensMeasures(version, spans.version),
    bars:
      starts &&
      (Object.fromEntries(
        lensParts.map((part): [LensPart, PartBars] => [
          part,
          {
            reference: barLevels(reference.levels[part], starts.reference),
            version: barLevels(version.levels[part], starts.version),
          },
        ]),
      ) as Record<LensPart, PartBars>),
  };
}

/** How far a part stands free on the side where it does less; null where one side has none of it. */
export function lesserFree(
  { reference, version }: Pick<StoredLens, "reference" | "version">,
  part: LensPart,
): Decibels | null {
  const [ours, theirs] = [reference[part].freeDb, version[part].freeDb];
  return ours === null || theirs === null ? null : Math.min(ours, theirs);
}

/** @param chosen bars of the reference that count; null for all. */
export const countedLens = (
  { reference, version, bars }: StoredLens,
  coverage: readonly CoverageSpan[],
  chosen: BarRange | null = null,
): LensPair => ({
  reference,
  version,
  presence:
    bars && coverage.length > 0
      ? (Object.fromEntries(
          lensParts.map((part): [LensPart, ComparedPresence] => [
            part,
            comparePresence(bars[part], coverage, chosen, lesserFree({ reference, version }, part)),
          ]),
        ) as Record<LensPart, ComparedPresence>)
      : null,
});
