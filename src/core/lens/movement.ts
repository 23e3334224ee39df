/** How a part moves from bar to bar: filters that open, fades, rides of a fader. */
import type { CoverageSpan } from "../align/coverage";
import type { BarRange } from "../grid/grid";
import type { Decibels, Fraction } from "../units";
import { playedBars } from "./answeredBars";
import { isPresenceTold, type PartBars } from "./presence";
import { throughout } from "./throughout";

const { abs, ceil, max, min, sqrt } = Math;

export interface ComparedMovement {
  /**
   * Root-mean-square of how far the brightness of the bars is apart, and their levels, what is apart
   * throughout and single bars left out; null where too little plays on both sides.
   */
  brightness: Decibels | null;
  level: Decibels | null;
  /** Bars of the reference in which the version moves plainly otherwise. */
  bars: number[];
}

/** Fewer bars that play on both sides say nothing of movement. */
const fewestBars = 4;
/** Single bars count up to there: further apart something else is heard. */
const most = { brightness: 15, level: 15 };
/** This share of the bars, those furthest apart, are taken for mishearings. */
const strays: Fraction = 0.15;
/** Bars further apart than that are named. */
const plainly = { brightness: 5, level: 4 };

/**
 * @param levels of the part in the bars of both sides, and their brightness.
 * @param chosen bars of the reference that count; null for all.
 * @param freeDb how far the part stands free on the side where it does less; null where it is not there.
 */
export function compareMovement(
  levels: PartBars,
  brightness: PartBars,
  spans: readonly CoverageSpan[],
  chosen: BarRange | null,
  freeDb: Decibels | null,
): ComparedMovement {
  const pairs = isPresenceTold(freeDb) ? playedBars(levels, spans, chosen, freeDb!) : [];
  if (pairs.length < fewestBars) return { brightness: null, level: null, bars: [] };
  const bars = new Set<number>();
  const spread = (kind: "brightness" | "level", own: PartBars) => {
    const gaps = pairs.map(
      ({ reference, version }) => own.version[version - 1]! - own.reference[reference - 1]!,
    );
    const common = throughout(gaps);
    const apart = gaps.map((gap) => max(-most[kind], min(most[kind], gap - common)));
    apart.forEach((gap, i) => abs(gap) >= plainly[kind] && bars.add(pairs[i]!.reference));
    const squares = apart.map((gap) => gap * gap).sort((a, b) => a - b);
    const counted = squares.slice(0, ceil((1 - strays) * squares.length));
    return sqrt(counted.reduce((sum, square) => sum + square, 0) / counted.length);
  };
  return {
    brightness: spread("brightness", brightness),
    level: spread("level", levels),
    bars: [...bars].sort((a, b) => a - b),
  };
}
