/** Where a ruler has its marks. */
import { barStart, barsOf, secondsAt, positionAt, type Grid } from "@/core/grid/grid";
import { clock } from "@/models/format";
import type { Axis } from "./axis";

/** One mark: where on the axis, and what it says. */
export interface RulerMark {
  at: number;
  text: string;
  isBar?: boolean;
}

/** Height of a ruler above what it measures, pixels. */
export const rulerHeight = 18;

/** Room that a mark needs for its text, pixels. */
const markWidth = 44;

/** The first of every 1, 2, 4, 8 … bars on an axis of seconds, counted so that bar 1 is among them. */
export function barMarks(grid: Grid, { from, to }: Axis, width: number): RulerMark[] {
  const all = barsOf(grid);
  const barSeconds = (barStart(grid, all.last + 1) - barStart(grid, all.first)) / (all.last + 1 - all.first);
  let step = 1;
  while ((step * barSeconds * width) / (to - from) < markWidth && step < 1024) step *= 2;
  const marks: RulerMark[] = [];
  const first = 1 + step * Math.ceil((all.first - 1) / step);
  for (let bar = first; bar <= all.last; bar += step) {
    const at = barStart(grid, bar);
    if (at >= from && at <= to - ((to - from) * 30) / width) marks.push({ at, text: String(bar) });
  }
  return marks;
}

/** Round steps, seconds. */
const steps = [0.1, 0.2, 0.5, 1, 2, 5, 10, 15, 30, 60, 120, 300];

/** Round times, at least 70 px apart, the last with room for its text. */
export function timeMarks({ from, to }: Axis, width: number): RulerMark[] {
  const step = steps.find((s) => (s / (to - from)) * width >= 70) ?? 600;
  const first = Math.ceil(from / step - 1e-9);
  const lastTime = to - ((to - from) * markWidth) / Math.max(markWidth, width);
  const count = Math.floor(lastTime / step + 1e-9) - first + 1;
  return Array.from({ length: Math.max(0, count) }, (_, i) => {
    const at = (first + i) * step;
    return { at, text: clock(at, to - from < 20) };
  });
}

/** Bars and, every so many beats, what lies between, on an axis of beats. */
export function beatMarks(grid: Grid, { from, to }: Axis, step: number): RulerMark[] {
  const marks: RulerMark[] = [];
  for (let beat = Math.ceil(from / step - 1e-9) * step; beat < to - 0.02 * (to - from); beat += step) {
    const { bar, beat: inBar } = positionAt(grid, secondsAt(grid, beat));
    const rounded = Math.round(inBar * 100) / 100;
    const isBar = rounded === 1;
    marks.push({ at: beat, text: isBar ? `bar ${bar}` : `${rounded}`, isBar });
  }
  return marks;
}
