/** Where a passage opens or closes: its brightness rises or falls over bars on one side and not on the other. */
import type { Hertz } from "../units";

const { abs, log2, max, min } = Math;

export interface FilterMovement {
  /** Bars of the reference. */
  firstBar: number;
  lastBar: number;
  /** The side that moves. */
  side: "reference" | "version";
  /** By how many octaves its brightness rises (+) or falls (−), and by how many the other side's. */
  octaves: number;
  otherOctaves: number;
}

/** A bar of the reference and what answers it; brightness is the middle of the spectrum in octaves. */
export interface BrightBar {
  bar: number;
  reference: Hertz;
  version: Hertz;
}

/** Bars that a movement takes at least and at most. */
const shortest = 4;
const longest = 16;
/** By how much brightness must change, and how much further than on the other side. */
const leastOctaves = 0.5;
const leastApart = 0.4;
/** How much of the change must lie on a straight line. */
const leastStraight = 0.8;
/** Share of the change that may come with one bar: more is a cut or an entry, not a movement. */
const mostAtOnce = 0.6;

/** Change over some values along their straight line, and how well they follow it (r²). */
function trend(values: readonly number[]): { change: number; straight: number } {
  const n = values.length;
  const mean = values.reduce((a, b) => a + b, 0) / n;
  let products = 0;
  let squares = 0;
  let whole = 0;
  values.forEach((value, i) => {
    const x = i - (n - 1) / 2;
    products += x * (value - mean);
    squares += x * x;
    whole += (value - mean) ** 2;
  });
  const slope = products / squares;
  const change = slope * (n - 1);
  let jump = 0;
  for (let i = 1; i < n; i++) jump = max(jump, abs(values[i]! - values[i - 1]!));
  const isGradual = jump <= mostAtOnce * abs(change);
  return { change, straight: whole > 1e-9 && isGradual ? (slope * products) / whole : 0 };
}

/** Movements that one side makes alone, in order; each bar belongs to one of them at most. */
export function filterMovements(bars: readonly BrightBar[]): FilterMovement[] {
  const octavesOf = (side: "reference" | "version") => bars.map((own) => log2(max(20, own[side])));
  const values = { reference: octavesOf("reference"), version: octavesOf("version") };
  const candidates: (FilterMovement & { weight: number; from: number; to: number })[] = [];
  for (let from = 0; from + shortest <= bars.length; from++) {
    for (let to = from + shortest; to <= min(bars.length, from + longest); to++) {
      // A gap in what is recreated ends the passage.
      if (bars[to - 1]!.bar - bars[from]!.bar !== to - 1 - from) break;
      const own = {
        reference: trend(values.reference.slice(from, to)),
        version: trend(values.version.slice(from, to)),
      };
      for (const side of ["reference", "version"] as const) {
        const other = own[side === "reference" ? "version" : "reference"];
        const { change, straight } = own[side];
        if (abs(change) < leastOctaves || straight < leastStraight || abs(change - other.change) < leastApart)
          continue;
        candidates.push({
          firstBar: bars[from]!.bar,
          lastBar: bars[to - 1]!.bar,
          side,
          octaves: change,
          otherOctaves: other.change,
          weight: abs(change - other.change) * straight ** 3,
          from,
          to,
        });
      }
    }
  }
  candidates.sort((a, b) => b.weight - a.weight);
  const taken = new Uint8Array(bars.length);
  return candidates
    .filter(({ from, to }) => {
      for (let i = from; i < to; i++) if (taken[i]) return false;
      taken.fill(1, from, to);
      return true;
    })
    .map(({ weight: _weight, from: _from, to: _to, ...movement }) => movement)
    .sort((a, b) => a.firstBar - b.firstBar);
}
