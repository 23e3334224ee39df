/** The strokes of a lifted drum: how loud each is, and how it decays. */
import type { StereoSamples } from "../hits/strokes";
import { powerToDecibels, type Decibels, type Fraction, type Hertz, type Seconds } from "../units";
import type { DrumPart } from "./parts";
import { silence } from "./presence";

const { ceil, floor, max, min, round } = Math;

/** How far apart the powers after a stroke are. */
export const strokeStep: Seconds = 0.002;
/** Strokes nearer than that to the next of the same part do not tell how long they last. */
export const shortestFollowed: Seconds = 0.09;
const longest: Seconds = 0.8;
/** What lies just ahead of a stroke belongs to others. */
const ahead: Seconds = 0.05;
const aheadEnds: Seconds = 0.01;
/** What is heard of how hard a stroke is: before that it is not there yet, later it is decay; its top alone is whatever else is struck. */
const strikes = { from: -0.005, to: 0.03 } as const;
/** Power is averaged over so much: twice a kick's pitch must not show. */
const window: Record<DrumPart, Seconds> = { kick: 0.012, snare: 0.008, hats: 0.006, percussion: 0.01 };

/** Strokes of a drum, in order. */
export interface StrokeLevels {
  /** Seconds. */
  times: Float32Array;
  /** Mean square of left and right as it is struck. */
  powers: Float32Array;
}

export interface Stroke {
  time: Seconds;
  /** Mean square of left and right as it is struck. */
  power: number;
  /** Powers against its loudest, every `strokeStep` from the stroke on; null where the next is too near. */
  decay: Float32Array | null;
}

/** @param times of all strokes of the part, in order, from the beginning of the samples. */
export function strokesIn(
  part: DrumPart,
  [left, right]: StereoSamples,
  rate: Hertz,
  times: readonly Seconds[],
): Stroke[] {
  const half = max(1, round((window[part] * rate) / 2));
  return times.flatMap((time, i): Stroke[] => {
    const until = min(longest, (times[i + 1] ?? Infinity) - time - aheadEnds, left.length / rate - time);
    const frames = floor(max(until, strokeStep) / strokeStep);
    const begin = round((time - ahead) * rate);
    const from = max(0, begin);
    const size = min(left.length, begin + ceil((ahead + frames * strokeStep) * rate) + half) - from;
    if (size <= 0) return [];
    const cumulated = new Float64Array(size + 1);
    for (let k = 0; k < size; k++)
      cumulated[k + 1] =
        cumulated[k]! + left[from + k]! * left[from + k]! + right[from + k]! * right[from + k]!;
    const meanOver = (a: number, b: number) => {
      const [first, last] = [max(0, min(size, a - from)), max(0, min(size, b - from))];
      return last > first ? (cumulated[last]! - cumulated[first]!) / (last - first) : 0;
    };
    const before = meanOver(begin, begin + round((ahead - aheadEnds) * rate));
    const decay = Float32Array.from({ length: frames }, (_, frame) => {
      const middle = begin + round((ahead + frame * strokeStep) * rate);
      return max(0, meanOver(middle - half, middle + half) - before);
    });
    const loudest = decay.reduce((a, b) => max(a, b), 0);
    const inFrames = (seconds: Seconds) => begin + round((ahead + seconds) * rate);
    const struck = meanOver(inFrames(strikes.from), inFrames(min(strikes.to, frames * strokeStep)));
    const isFollowed = until >= shortestFollowed && time >= ahead && loudest > 1e-12;
    return [
      {
        time,
        power: max(0, struck - before) / 2,
        decay: isFollowed ? decay.map((power) => power / loudest) : null,
      },
    ];
  });
}

export const strokeLevels = (strokes: readonly Stroke[]): StrokeLevels => ({
  times: Float32Array.from(strokes, ({ time }) => time),
  powers: Float32Array.from(strokes, ({ power }) => power),
});

/** Drums that are left in a stroke of another one where they are struck together. */
const leftIn: Record<DrumPart, readonly DrumPart[]> = {
  kick: ["snare", "percussion"],
  snare: ["kick", "percussion"],
  hats: ["kick", "snare", "percussion"],
  percussion: ["kick", "snare", "hats"],
};
const together: Seconds = 0.03;
/** Fewer strokes by themselves do not stand for all. */
const fewestAlone = 8;
const leastAlone: Fraction = 0.2;

/** Strokes of a drum with which no other is struck that would be left in it. */
function strokesAlone(strokes: Record<DrumPart, StrokeLevels>, part: DrumPart): StrokeLevels {
  const { times, powers } = strokes[part];
  const others = Float32Array.from(leftIn[part].flatMap((own) => [...strokes[own].times])).sort();
  let next = 0;
  const alone = [...times.keys()].filter((i) => {
    while (next < others.length && others[next]! < times[i]! - together) next++;
    return !(next < others.length && others[next]! <= times[i]! + together);
  });
  return {
    times: Float32Array.from(alone, (i) => times[i]!),
    powers: Float32Array.from(alone, (i) => powers[i]!),
  };
}

/** The strokes of a drum on both sides that can be held against each other: those alone where there are enough. */
export function strokesToCompare(
  sides: readonly Record<DrumPart, StrokeLevels>[],
  part: DrumPart,
): StrokeLevels[] {
  const alone = sides.map((strokes) => strokesAlone(strokes, part));
  const areEnough = alone.every(
    ({ times }, i) =>
      times.length >= fewestAlone && times.length >= leastAlone * sides[i]![part].times.length,
  );
  return areEnough ? alone : sides.map((strokes) => strokes[part]);
}

/** A stroke a little ahead of a bar is its own. */
const early: Seconds = 0.05;

/**
 * How loud the strokes in each bar are, to a tenth of a decibel. The louder a stroke, the more it counts: ghost
 * notes, and what was taken for a stroke, hardly do.
 *
 * @param starts of all bars in order, and where the last ends.
 * @returns silence in bars without strokes.
 */
export function barStrokes({ times, powers }: StrokeLevels, starts: readonly Seconds[]): Decibels[] {
  let next = times.findIndex((time) => time >= starts[0]! - early);
  if (next < 0) next = times.length;
  return starts.slice(1).map((end) => {
    let [sum, squares] = [0, 0];
    for (; next < times.length && times[next]! < end - early; next++) {
      sum += powers[next]!;
      squares += powers[next]! * powers[next]!;
    }
    return sum > 0 ? max(silence, round(10 * powerToDecibels(squares / sum)) / 10) : silence;
  });
}
