/** How long the strokes of a lifted drum last, on average. */
import { median } from "../median";
import { powerToDecibels, type Decibels, type Fraction, type Milliseconds } from "../units";
import { shortestFollowed, strokeStep, type Stroke } from "./strokes";

const { floor, max, round } = Math;

/** Fewer strokes that are known to last so long say nothing of it. */
const fewest = 4;
/** Strokes are followed until they have fallen by so much, */
const fall: Decibels = 25;
/** and do not rise again for so long. */
const forGood = round(0.024 / strokeStep);
/** From this share of the time on nothing is left of a stroke but what others left in the part. */
const inTheEnd: Fraction = 0.6;
/** Where the strokes do not fall so far in the end, what is left of them is something else. */
const fallsInTheEnd: Decibels = 14;
/** An even decay is told by how long it takes to fall by so much. */
const toldBy: Decibels = 10;

/**
 * How long strokes last: twice the area under their decay on a scale of levels, which of an even decay is the
 * time until it is down. All of the decay counts, not one place of it; of the strokes the median does at each
 * moment, so that what others play after some of them does not.
 *
 * @param strokes of one drum; those that are not followed say nothing.
 * @returns of an even decay the time until it is 10 dB down; null where too few strokes are followed long
 * enough, or they do not fall.
 */
export function strokeLength(strokes: readonly Stroke[]): Milliseconds | null {
  const decays = strokes.flatMap(({ decay }) => (decay ? [decay] : []));
  const lengths = decays.map(({ length }) => length).sort((a, b) => b - a);
  const known = lengths[fewest - 1] ?? 0;
  if (known < shortestFollowed / strokeStep) return null;
  const typical = Float64Array.from({ length: known }, (_, frame) =>
    median(decays.flatMap((own) => (frame < own.length ? own[frame]! : []))),
  );
  const peak = typical.indexOf(typical.reduce((a, b) => max(a, b), 0));
  const end = floor(known * inTheEnd);
  if (peak >= end) return null;
  const rest = median([...typical.subarray(end)]);
  if (powerToDecibels(typical[peak]! / max(rest, 1e-12)) < fallsInTheEnd) return null;
  const own = max(1e-12, typical[peak]! - rest);
  let area = 0;
  for (let frame = peak, down = 0; frame < known && down < forGood; frame++) {
    const level = powerToDecibels(max(1e-12, typical[frame]! - rest) / own);
    down = level < -fall ? down + 1 : 0;
    area += max(0, 1 + level / fall) * strokeStep;
  }
  return round(10 * 1000 * 2 * area * (toldBy / fall)) / 10;
}
