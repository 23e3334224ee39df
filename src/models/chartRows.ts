/** Bars of a track broken into rows, as a chord chart is: a new row where a section begins. */
import { barsOf, type Grid } from "@/core/grid/grid";
import type { CountedSection } from "@/core/plan";

export interface ChartRow {
  firstBar: number;
  bars: number;
  /** The section that begins with it. */
  section: CountedSection | null;
}

/** Bars on a full row. */
export const barsARow = 8;

/** Rows of all bars that have beats, or of some of them. */
export function chartRows(
  grid: Grid,
  sections: readonly CountedSection[],
  only: { first: number; last: number } | null = null,
): ChartRow[] {
  const all = barsOf(grid);
  const first = Math.max(all.first, only?.first ?? all.first);
  // After the last section the sound only dies away.
  const last = Math.min(all.last, only?.last ?? sections.at(-1)?.lastBar ?? all.last);
  const rows: ChartRow[] = [];
  for (let bar = first; bar <= last;) {
    const section = sections.find(({ firstBar }) => firstBar === bar) ?? null;
    const next = sections.find(({ firstBar }) => firstBar > bar)?.firstBar ?? Infinity;
    const bars = Math.min(barsARow, next - bar, last - bar + 1);
    rows.push({ firstBar: bar, bars, section });
    bar += bars;
  }
  return rows;
}
