/** How long the strokes of a lifted drum last, on average. */
import type { StereoSamples } from "../hits/strokes";
import { median } from "../median";
import {
  powerToDecibels,
  type Decibels,
  type Fraction,
  type Hertz,
  type Milliseconds,
  type Seconds,
} from "../units";
import type { DrumPart } from "./parts";

const { ceil, floor, max, min, round } = Math;

const step: Seconds = 0.002;
const longest: Seconds = 0.8;
/** What lies just ahead of a stroke belongs to others. */
const ahead: Seconds = 0.05;
const aheadEnds: Seconds = 0.01;
/** Strokes nearer than that to the next of the same part say nothing. */
const shortest: Seconds = 0.09;
/** Fewer strokes that are known to last so long say nothing of it. */
const fewest = 4;
/** Power is averaged over so much: twice a kick's pitch must not show. */
const window: Record<DrumPart, Seconds> = { kick: 0.012, snare: 0.008, hats: 0.006, percussion: 0.01 };

/**
 * Powers after each stroke of a part that is far enough from the next, against its loudest: every `step`
 * from the stroke on, for as long as it is known to be followed.
 *
 * @param times of all strokes of the part, in order, from the beginning of the samples.
 */
export function strokePowers(
  part: DrumPart,
  [left, right]: StereoSamples,
  rate: Hertz,
  times: readonly Seconds[],
): Float32Array[] {
  const half = max(1, round((window[part] * rate) / 2));
  return times.flatMap((time, i) => {
    const until = min(longest, (times[i + 1] ?? Infinity) - time - aheadEnds, left.length / rate - time);
    if (until < shortest || time < ahead) return [];
    const from = round((time - ahead) * rate);
    const size = min(left.length, ceil((time + until) * rate) + half) - from;
    const cumulated = new Float64Array(size + 1);
    for (let k = 0; k < size; k++)
      cumulated[k + 1] =
        cumulated[k]! + left[from + k]! * left[from + k]! + right[from + k]! * right[from + k]!;
    const meanOver = (a: number, b: number) => {
      const [first, last] = [max(0, min(size, a)), max(0, min(size, b))];
      return last > first ? (cumulated[last]! - cumulated[first]!) / (last - first) : 0;
    };
    const before = meanOver(0, round((ahead - aheadEnds) * rate));
    const own = new Float32Array(floor(until / step));
    let loudest = 0;
    for (let frame = 0; frame < own.length; frame++) {
      const middle = round((ahead + frame * step) * rate);
      own[frame] = max(0, meanOver(middle - half, middle + half) - before);
      loudest = max(loudest, own[frame]!);
    }
    return loudest <= 1e-12 ? [] : [own.map((power) => power / loudest)];
  });
}

/** Strokes are followed until they have fallen by so much, */
const fall: Decibels = 25;
/** and do not rise again for so long. */
const forGood = round(0.024 / step);
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
 * @param strokes as `strokePowers` gives them.
 * @returns of an even decay the time until it is 10 dB down; null where too few strokes are followed long
 * enough, or they do not fall.
 */
export function strokeLength(strokes: readonly Float32Array[]): Milliseconds | null {
  const lengths = strokes.map(({ length }) => length).sort((a, b) => b - a);
  const known = lengths[fewest - 1] ?? 0;
  if (known < shortest / step) return null;
  const typical = Float64Array.from({ length: known }, (_, frame) =>
    median(strokes.flatMap((own) => (frame < own.length ? own[frame]! : []))),
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
    area += max(0, 1 + level / fall) * step;
  }
  return round(10 * 1000 * 2 * area * (toldBy / fall)) / 10;
}
