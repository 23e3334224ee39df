/** Which part of the whole a timeline shows; null stands for all of it. */
import type { Seconds } from "@/core/units";
import type { Axis } from "./axis";

/** Closest view: this many seconds over the width. */
const closest: Seconds = 2;

const inside = (start: Seconds, length: Seconds, whole: Seconds): Axis => {
  const from = Math.min(whole - length, Math.max(0, start));
  return { from, to: from + length };
};

/**
 * A closer or wider view in which one moment stays where it is.
 *
 * @param factor of the length that is shown; under 1 is closer.
 */
export function zoomed(view: Axis | null, whole: Seconds, factor: number, pivot: Seconds): Axis | null {
  const old = view ?? { from: 0, to: whole };
  const length = Math.min(whole, Math.max(closest, (old.to - old.from) * factor));
  if (length >= whole) return null;
  const share = Math.min(1, Math.max(0, (pivot - old.from) / (old.to - old.from)));
  return inside(pivot - share * length, length, whole);
}

/** The view moved by a share of its own length. */
export function moved(view: Axis | null, whole: Seconds, share: number): Axis | null {
  if (!view) return null;
  const length = view.to - view.from;
  return inside(view.from + share * length, length, whole);
}
