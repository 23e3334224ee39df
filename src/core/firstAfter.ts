import type { Seconds } from "./units";

/** The first of rising times at or after a time. */
export function firstAfter(times: readonly Seconds[], time: Seconds): Seconds | null {
  let low = 0;
  let high = times.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (times[middle]! < time) low = middle + 1;
    else high = middle;
  }
  return times[low] ?? null;
}
