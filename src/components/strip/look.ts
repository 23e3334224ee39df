/** Which part of the whole the strip shows; null stands for all of it. */
import { barsOf, type BarRange, type Grid } from "@/core/grid/grid";
import type { AlignedBars, Span } from "@/core/study";
import type { Seconds } from "@/core/units";

/** Closest look: this many seconds over the width. */
const closest: Seconds = 2;

const inside = (start: Seconds, length: Seconds, whole: Seconds): Span => {
  const from = Math.min(whole - length, Math.max(0, start));
  return { from, to: from + length };
};

/**
 * A closer or wider look in which one moment stays where it is.
 *
 * @param factor of the length that is shown; under 1 is closer.
 */
export function zoomed(look: Span | null, whole: Seconds, factor: number, pivot: Seconds): Span | null {
  const old = look ?? { from: 0, to: whole };
  const length = Math.min(whole, Math.max(closest, (old.to - old.from) * factor));
  if (length >= whole) return null;
  const share = Math.min(1, Math.max(0, (pivot - old.from) / (old.to - old.from)));
  return inside(pivot - share * length, length, whole);
}

/** The look moved by a share of its own length. */
export function moved(look: Span | null, whole: Seconds, share: number): Span | null {
  if (!look) return null;
  const length = look.to - look.from;
  return inside(look.from + share * length, length, whole);
}

/** Bars of the reference that nothing answers, in order. */
export function emptyBars({ spans }: AlignedBars, grid: Grid): BarRange[] {
  const all = barsOf(grid);
  const gaps: BarRange[] = [];
  let next = all.first;
  for (const span of [...spans].sort((a, b) => a.referenceFirst - b.referenceFirst)) {
    if (span.referenceFirst > next) gaps.push({ first: next, last: span.referenceFirst - 1 });
    next = Math.max(next, span.referenceFirst + span.bars);
  }
  if (next <= all.last) gaps.push({ first: next, last: all.last });
  return gaps;
}
