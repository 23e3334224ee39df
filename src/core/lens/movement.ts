/** How a part moves from bar to bar: filters that open, fades, rides of a fader. */
import type { CoverageSpan } from "../align/coverage";
import type { BarRange } from "../grid/grid";
import type { Decibels, Fraction } from "../units";
import { playedBars, type PartInBars } from "./answeredBars";
import { isPresenceTold } from "./presence";
import { throughout } from "./throughout";
import type { ToneInBars } from "./toneInBars";

const { abs, ceil, max, min, sqrt } = Math;

export interface ComparedMovement {
  /**
   * Root-mean-square of how far the tone of the bars is apart, and their levels, what is apart throughout
   * and single bars left out; null where too little plays on both sides.
   */
  tone: Decibels | null;
  level: Decibels | null;
  /** Bars of the reference in which the version moves plainly otherwise. */
  bars: number[];
}

/** Fewer bars that play on both sides say nothing of movement. */
const fewestBars = 4;
/** Single bars count up to there: further apart something else is heard. */
const most: Decibels = 15;
/** This share of the bars, those furthest apart, are taken for mishearings. */
export const strays: Fraction = 0.15;
/** Bars further apart than that are named. */
const plainly: Decibels = 4;

/**
 * @param tone of the same bars; null where it cannot be told.
 * @param chosen bars of the reference that count; null for all.
 * @param freeDb how far the part stands free on the side where it does less; null where it is not there.
 */
export function compareMovement(
  part: PartInBars,
  tone: ToneInBars | null,
  spans: readonly CoverageSpan[],
  chosen: BarRange | null,
  freeDb: Decibels | null,
): ComparedMovement {
  const pairs = isPresenceTold(freeDb) ? playedBars(part, spans, chosen, freeDb!) : [];
  if (pairs.length < fewestBars) return { tone: null, level: null, bars: [] };
  const { levels } = part;
  const gaps = pairs.map(
    ({ reference, version }) => levels.version[version - 1]! - levels.reference[reference - 1]!,
  );
  const common = throughout(gaps);
  const apart = gaps.map((gap) => max(-most, min(most, gap - common)));
  const bars = new Set(tone?.bars);
  apart.forEach((gap, i) => abs(gap) >= plainly && bars.add(pairs[i]!.reference));
  const squares = apart.map((gap) => gap * gap).sort((a, b) => a - b);
  const counted = squares.slice(0, ceil((1 - strays) * squares.length));
  return {
    tone: tone && tone.movement,
    level: sqrt(counted.reduce((sum, square) => sum + square, 0) / counted.length),
    bars: [...bars].sort((a, b) => a - b),
  };
}
