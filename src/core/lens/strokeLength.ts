/** How long the strokes of a lifted drum last, on average. */
import type { StereoSamples } from "../hits/strokes";
import { powerToDecibels, type Decibels, type Hertz, type Milliseconds, type Seconds } from "../units";
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

/** Powers after all strokes of a part, summed: those of several passages of a file add up. */
export interface StrokeSums {
  /** Every `step` from the stroke on, each stroke against its loudest. */
  powers: Float64Array;
  /** How many strokes are known to have been followed so long. */
  counts: Float64Array;
}

export const noStrokes = (): StrokeSums => ({
  powers: new Float64Array(round(longest / step)),
  counts: new Float64Array(round(longest / step)),
});

/**
 * Adds the strokes of a passage.
 *
 * @param times of all strokes of the part, in order, from the beginning of the samples.
 */
export function addStrokePowers(
  sums: StrokeSums,
  part: DrumPart,
  [left, right]: StereoSamples,
  rate: Hertz,
  times: readonly Seconds[],
): void {
  const half = max(1, round((window[part] * rate) / 2));
  const own = new Float64Array(sums.powers.length);
  times.forEach((time, i) => {
    const until = min(longest, (times[i + 1] ?? Infinity) - time - aheadEnds, left.length / rate - time);
    if (until < shortest || time < ahead) return;
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
    const frames = floor(until / step);
    let loudest = 0;
    for (let frame = 0; frame < frames; frame++) {
      const middle = round((ahead + frame * step) * rate);
      own[frame] = max(0, meanOver(middle - half, middle + half) - before);
      loudest = max(loudest, own[frame]!);
    }
    if (loudest <= 1e-12) return;
    for (let frame = 0; frame < frames; frame++) {
      sums.powers[frame]! += own[frame]! / loudest;
      sums.counts[frame]! += 1;
    }
  });
}

/** What others leave in a part seldom lies higher. */
const fall: Decibels = 10;
/** Where the strokes do not fall so far in the end, what is left of them is something else. */
const fallsInTheEnd: Decibels = 14;

/** @returns time from the loudest until 10 dB below it, for good; null where too few strokes are followed so long. */
export function strokeLength({ powers, counts }: StrokeSums): Milliseconds | null {
  let known = 0;
  while (known < counts.length && counts[known]! >= fewest) known++;
  const mean = (frame: number) => powers[frame]! / counts[frame]!;
  let peak = 0;
  for (let frame = 1; frame < known; frame++) if (mean(frame) > mean(peak)) peak = frame;
  const below = (frame: number): Decibels => powerToDecibels(mean(peak) / max(mean(frame), 1e-12));
  let last = peak;
  for (let frame = peak; frame < known; frame++) if (below(frame) <= fall) last = frame;
  if (known === 0 || last >= known - 1 || below(known - 1) < fallsInTheEnd) return null;
  // Between frames by a line on a scale of levels.
  const [a, b] = [below(last), below(last + 1)];
  const part = b > a ? (fall - a) / (b - a) : 0;
  return round(10 * 1000 * step * (last - peak + max(0, min(1, part)))) / 10;
}
