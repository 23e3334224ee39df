/** Bass notes that make way for the kick. */
import { powerToDecibels, type Decibels, type Seconds } from "../units";
import { lowFramesPerSecond } from "./lowBand";
import type { BassNote } from "./notes";

const { max, min, round } = Math;

/** Stretches beside a kick, from it on: what was there before, what is left under it, what comes back. */
const before = { from: -0.06, to: -0.01 } as const;
const under = { from: 0.01, to: 0.06 } as const;
const back = { from: 0.12, to: 0.22 } as const;
/** A note that begins this near to a kick begins on it. */
const onKick: Seconds = 0.05;
/** A dip of less is within what a note does by itself. By ear, no source. */
const leastDip: Decibels = 2;
/** Of a dip so much has to come back: else the note ends. */
const mostOfIt = 0.5;
const silent = 1e-10;

/**
 * How far a note dips under a kick that is struck while it sounds, or on which it begins.
 *
 * @param kicks in order.
 * @param restPower of all but the kicks below the cut-off, `lowFramesPerSecond` a second.
 * @returns the deepest dip; null where no kick falls into it, or it does not dip.
 */
export function duckedBy(
  { start, end }: Pick<BassNote, "start" | "end">,
  kicks: readonly Seconds[],
  restPower: Float32Array,
): Decibels | null {
  const levelOver = (from: Seconds, to: Seconds): Decibels | null => {
    const first = max(0, round(from * lowFramesPerSecond));
    const last = min(restPower.length, max(first + 1, round(to * lowFramesPerSecond)));
    let sum = 0;
    for (let k = first; k < last; k++) sum += restPower[k]!;
    return last > first && sum / (last - first) > silent ? powerToDecibels(sum / (last - first)) : null;
  };
  let deepest: Decibels | null = null;
  for (const kick of kicks) {
    if (kick < start - onKick || kick + back.from > end) continue;
    const begins = kick < start - before.from;
    const dipped = levelOver(max(start, kick + under.from), kick + under.to);
    const returned = levelOver(kick + back.from, min(end, kick + back.to));
    // A note that begins with the kick has no level before it: what comes back tells.
    const held = begins ? returned : levelOver(kick + before.from, kick + before.to);
    if (dipped === null || returned === null || held === null) continue;
    const dip = held - dipped;
    if (dip >= leastDip && returned - dipped >= mostOfIt * dip) deepest = max(deepest ?? 0, dip);
  }
  return deepest;
}
