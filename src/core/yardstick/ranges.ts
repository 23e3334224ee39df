/** What is typical of several tracks: the range that most of them lie in, and patterns that recur. */
import type { Fraction } from "../units";
import {
  figureNames,
  patternGroups,
  toneBands,
  type FigureName,
  type PatternGroup,
  type TrackFigures,
} from "./figures";

/** Where most of some values lie. */
export interface TypicalRange {
  /** A tenth lies below, a tenth above. */
  low: number;
  median: number;
  high: number;
  /** The values themselves, sorted. */
  values: number[];
}

/** Fewer tracks say nothing of a style. */
export const fewestTracks = 3;

/** A value between two of a sorted list, as far along it as said: linear between neighbours (Hyndman & Fan 1996, type 7). */
export function percentile(sorted: readonly number[], share: Fraction): number {
  const at = share * (sorted.length - 1);
  const below = Math.floor(at);
  const low = sorted[below]!;
  return low + (at - below) * ((sorted[below + 1] ?? low) - low);
}

export function typicalRange(values: readonly (number | null)[]): TypicalRange | null {
  const sorted = values
    .filter((value) => value !== null && Number.isFinite(value))
    .sort((a, b) => a! - b!) as number[];
  return sorted.length < fewestTracks
    ? null
    : {
        low: percentile(sorted, 0.1),
        median: percentile(sorted, 0.5),
        high: percentile(sorted, 0.9),
        values: sorted,
      };
}

/** A drum pattern that several tracks have. */
export interface RecurringPattern {
  group: PatternGroup;
  steps: string;
  /** How many of the tracks have it, of so many that have the group at all. */
  count: number;
  of: number;
}

export interface Yardstick {
  tracks: number;
  ranges: Record<FigureName, TypicalRange | null>;
  /** Per third-octave band; null with too few tracks. */
  tone: { low: Float32Array; median: Float32Array; high: Float32Array } | null;
  patterns: RecurringPattern[];
}

/** Patterns of a group that are listed: those that most tracks have. */
const mostPatterns = 8;

function recurring(tracks: readonly TrackFigures[], group: PatternGroup): RecurringPattern[] {
  const own = tracks.flatMap(({ patterns }) => patterns[group] ?? []);
  const counts = new Map<string, number>();
  for (const steps of own) counts.set(steps, (counts.get(steps) ?? 0) + 1);
  return [...counts]
    .filter(([, count]) => count > 1)
    .sort((a, b) => b[1] - a[1] || (a[0] < b[0] ? -1 : 1))
    .slice(0, mostPatterns)
    .map(([steps, count]) => ({ group, steps, count, of: own.length }));
}

export function yardstickOf(tracks: readonly TrackFigures[]): Yardstick {
  const bandsOf = (share: "low" | "median" | "high") =>
    Float32Array.from(toneBands, (_, band) => typicalRange(tracks.map(({ tone }) => tone[band]!))![share]);
  return {
    tracks: tracks.length,
    ranges: Object.fromEntries(
      figureNames.map((name) => [name, typicalRange(tracks.map(({ values }) => values[name]))]),
    ) as Yardstick["ranges"],
    tone:
      tracks.length < fewestTracks
        ? null
        : { low: bandsOf("low"), median: bandsOf("median"), high: bandsOf("high") },
    patterns: (Object.keys(patternGroups) as PatternGroup[]).flatMap((group) => recurring(tracks, group)),
  };
}

/** How far a value lies outside of what is typical: below 0 under it, above 0 over it, 0 within. */
export const outside = (value: number, { low, high }: Pick<TypicalRange, "low" | "high">): number =>
  value < low ? value - low : value > high ? value - high : 0;
