/**
 * Whether strokes of one voice are of one drum or of several. How strokes of one sample differ, by what sounds
 * with them and by how hard they are struck, is learned (the axes are those of linear discriminants, Fisher
 * 1936, "The use of multiple measurements in taxonomic problems"): in a plain comparison most kicks are three.
 */
import { median } from "../median";
import { strokeTimbres, timbreSize } from "./strokeTimbre";
import type { DrumBands } from "./bands";

const { abs, floor, log, max, min, sqrt } = Math;

/** What drums of a voice are told apart by. */
export interface DrumsModel {
  /** Each `timbreSize` long: what strokes of one drum differ in least, against what drums differ in. */
  axes: readonly (readonly number[])[];
  /** Of the logit that two groups are of two drums: a constant, then one for each of `pairFeatures`. */
  weights: readonly number[];
  /** Less probable than this is one drum. */
  leastProbability: number;
}

/** Of fewer strokes than this nothing is told apart. */
const leastStrokes = 16;
const mostGroups = 6;
const strokesToGroup = 8;
const rounds = 15;
/** Groups with fewer strokes than this say nothing. */
const leastOfGroup = 3;
/** The next group begins at this share of the strokes, by distance: the furthest are strays. */
const nextGroup = 0.9;

/** Strokes where the axes put them, and how far the bands that count rise all in all. */
export interface PlacedStrokes {
  count: number;
  /** `count × axes`. */
  places: Float64Array;
  levels: Float64Array;
  axes: number;
}

export function placedStrokes(timbres: Float32Array, axes: DrumsModel["axes"]): PlacedStrokes {
  const count = timbres.length / timbreSize;
  const places = new Float64Array(count * axes.length);
  const levels = new Float64Array(count);
  // What no axis looks at belongs to others.
  const used = [...Array(timbreSize).keys()].filter((d) => axes.some((axis) => axis[d] !== 0));
  for (let i = 0; i < count; i++) {
    const row = i * timbreSize;
    for (const d of used) levels[i]! += timbres[row + d]! / used.length;
    axes.forEach((axis, a) => {
      let sum = 0;
      for (let d = 0; d < timbreSize; d++) sum += axis[d]! * timbres[row + d]!;
      places[i * axes.length + a] = sum;
    });
  }
  return { count, places, levels, axes: axes.length };
}

/** The middle of some strokes on each axis. */
const middleOf = ({ places, axes }: PlacedStrokes, group: readonly number[]): Float64Array =>
  Float64Array.from({ length: axes }, (_, a) => median(group.map((i) => places[i * axes + a]!)));

const squaredDistance = ({ places, axes }: PlacedStrokes, i: number, to: Float64Array): number => {
  let sum = 0;
  for (let a = 0; a < axes; a++) sum += (places[i * axes + a]! - to[a]!) ** 2;
  return sum;
};

/** Which of some middles each stroke is nearest to. */
function nearest(strokes: PlacedStrokes, middles: readonly Float64Array[]): number[][] {
  const groups = middles.map(() => [] as number[]);
  for (let i = 0; i < strokes.count; i++) {
    let best = 0;
    let least = Infinity;
    middles.forEach((middle, k) => {
      const distance = squaredDistance(strokes, i, middle);
      if (distance < least) [best, least] = [k, distance];
    });
    groups[best]!.push(i);
  }
  return groups;
}

/** Strokes in small groups that sound much alike, by k-means from far apart. */
export function smallGroups(strokes: PlacedStrokes): number[][] {
  const { count, places, axes } = strokes;
  const all = Array.from({ length: count }, (_, i) => i);
  let middles = [middleOf(strokes, all)];
  const wanted = min(mostGroups, max(1, floor(count / strokesToGroup)));
  const away = new Float64Array(count).fill(Infinity);
  while (middles.length < wanted) {
    const last = middles.at(-1)!;
    for (const i of all) away[i] = min(away[i]!, squaredDistance(strokes, i, last));
    const order = all.toSorted((a, b) => away[a]! - away[b]!);
    const next = order[floor(nextGroup * count)]! * axes;
    middles.push(places.slice(next, next + axes));
  }
  for (let round = 0; round < rounds; round++) {
    middles = nearest(strokes, middles).map((group, k) => {
      if (group.length === 0) return middles[k]!;
      const mean = new Float64Array(axes);
      for (const i of group) for (let a = 0; a < axes; a++) mean[a]! += places[i * axes + a]! / group.length;
      return mean;
    });
  }
  return nearest(strokes, middles).filter(({ length }) => length >= leastOfGroup);
}

/** How far apart two groups lie, how large the smaller is (log of its share), and how far their levels differ. */
export function pairFeatures(strokes: PlacedStrokes, a: readonly number[], b: readonly number[]): number[] {
  const [own, other] = [middleOf(strokes, a), middleOf(strokes, b)];
  const levelOf = (group: readonly number[]) => median(group.map((i) => strokes.levels[i]!));
  return [
    sqrt(own.reduce((sum, at, i) => sum + (at - other[i]!) ** 2, 0)),
    log(min(a.length, b.length) / strokes.count),
    abs(levelOf(a) - levelOf(b)),
  ];
}

/** Probability that two groups are of two drums. */
function probabilityOfTwo(features: readonly number[], [constant, ...weights]: readonly number[]): number {
  const logit = features.reduce((sum, feature, i) => sum + feature * weights[i]!, constant!);
  return 1 / (1 + Math.exp(-logit));
}

/**
 * @param timbres of strokes of one voice.
 * @returns of each the drum that it is of: 0 the one with most strokes.
 */
export function drumsOfTimbres(timbres: Float32Array, model: DrumsModel): Int32Array {
  const drums = new Int32Array(timbres.length / timbreSize);
  if (drums.length < leastStrokes) return drums;
  const strokes = placedStrokes(timbres, model.axes);
  const groups = smallGroups(strokes);
  for (;;) {
    let least = model.leastProbability;
    let join: [number, number] | null = null;
    for (let i = 0; i < groups.length; i++)
      for (let k = 0; k < i; k++) {
        const probability = probabilityOfTwo(pairFeatures(strokes, groups[i]!, groups[k]!), model.weights);
        if (probability < least) [least, join] = [probability, [i, k]];
      }
    if (!join) break;
    const [from, to] = join;
    groups[to] = [...groups[to]!, ...groups[from]!];
    groups.splice(from, 1);
  }
  if (groups.length < 2) return drums;
  const told = nearest(
    strokes,
    groups.map((group) => middleOf(strokes, group)),
  ).sort((a, b) => b.length - a.length);
  told.forEach((group, drum) => {
    for (const i of group) drums[i] = drum;
  });
  return drums;
}

/** The same of strokes at some times. */
export const tellDrumsApart = (times: readonly number[], bands: DrumBands, model: DrumsModel): Int32Array =>
  drumsOfTimbres(strokeTimbres(times, bands), model);
