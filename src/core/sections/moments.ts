/**
 * Moments of an arrangement worth noting: the music stops, something rises into a new section, a
 * cymbal crashes, the drums drop out, a filter opens. Rules over levels of half bars; their limits
 * were set on development songs.
 */
import type { Grid } from "../grid/grid";
import { kWeightedStepsPerSecond } from "../loudness";
import { bands, twelfthCount } from "../tone/bands";
import { averageSpectrum } from "../tone/spectrum";
import { powerToDecibels, type Decibels, type Seconds } from "../units";
import type { BarProfile, ProfileCurves } from "./barProfile";
import { presenceOf } from "./presence";

const { ceil, floor, max, min, round } = Math;

export const momentKinds = ["stop", "riser", "crash", "drumsOut", "filterOpening"] as const;
export type MomentKind = (typeof momentKinds)[number];

/** A moment with its place in beats from bar 1 beat 1. */
export interface Moment {
  kind: MomentKind;
  startBeat: number;
  endBeat: number;
}

const centres = bands(12).map(({ centre }) => centre);
const firstAbove = (hertz: number) => centres.findIndex((centre) => centre >= hertz);
const middleFrom = firstAbove(1000);
const highFrom = firstAbove(4000);

/** Levels of half bars, dB; half bar 0 begins with the first bar of the profile. */
interface HalfBars {
  count: number;
  high: Float32Array;
  middle: Float32Array;
}

function halfBars({ starts, count }: BarProfile, { bands: map }: ProfileCurves): HalfBars {
  const high = new Float32Array(2 * count);
  const middle = new Float32Array(2 * count);
  for (let half = 0; half < 2 * count; half++) {
    const bar = half >> 1;
    const length = (starts[bar + 1]! - starts[bar]!) / 2;
    const from = starts[bar]! + (half % 2) * length;
    // A frame reaches one hop to either side: the last ones already hear what comes next.
    const to = max(from + 0.3 * length, from + length - 0.9 * map.hopSeconds);
    const { mid, side } = averageSpectrum(map, [{ from: from + 0.1 * length, to }]);
    let highPower = 1e-9;
    let middlePower = 1e-9;
    for (let b = middleFrom; b < twelfthCount; b++) {
      if (b >= highFrom) highPower += mid[b]! + side[b]!;
      else middlePower += mid[b]! + side[b]!;
    }
    high[half] = powerToDecibels(highPower);
    middle[half] = powerToDecibels(middlePower);
  }
  return { count: 2 * count, high, middle };
}

const median = (values: number[]): number =>
  values.sort((a, b) => a - b)[floor((values.length - 1) / 2)] ?? 0;

const opening = { high: 14, middle: 5, leastHalves: 3, mostHalves: 16, dips: 2, mostInOneStep: 0.8 } as const;

/** Spans of half bars in which the top comes back little by little, and stays. */
function filterOpenings({ count, high, middle }: HalfBars): [number, number][] {
  const found: [number, number][] = [];
  for (let start = 0; start + opening.leastHalves <= count; start++) {
    // It begins where the top is cut off, or where the track begins.
    const before = max(high[start - 1] ?? -Infinity, high[start - 2] ?? -Infinity);
    const isCut = start < 2 || before - high[start]! > opening.high;
    if (!isCut) continue;
    let lowest = start;
    for (let i = start; i < min(count, start + 3); i++) if (high[i]! <= high[lowest]!) lowest = i;
    let end = lowest;
    let largest = 0;
    while (
      end + 1 < count &&
      end - start < opening.mostHalves &&
      high[end + 1]! > high[end]! - opening.dips
    ) {
      // The next section is reached where the top no longer rises much.
      if (high[end + 1]! - high[end]! < 1.5 && high[end]! - high[lowest]! > opening.high) break;
      largest = max(largest, high[end + 1]! - high[end]!);
      end++;
    }
    const rise = high[end]! - high[lowest]!;
    const after = median([1, 2, 3, 4].map((i) => high[min(count - 1, end + i)]!));
    const middleRise = middle[end]! - min(middle[start]!, middle[min(count - 1, start + 1)]!);
    if (
      end - start >= opening.leastHalves - 1 &&
      rise > opening.high &&
      largest < opening.mostInOneStep * rise &&
      middleRise > opening.middle &&
      after > high[end]! - 10
    ) {
      found.push([start, end + 1]);
      start = end;
    }
  }
  return found;
}

const rising = { over: 5, fall: 3, leastHalves: 3, mostHalves: 16, dips: 0.8 } as const;

/** Spans of half bars, ended by a bar line, over which the top rises above what is usual and then falls. */
function risers({ count, high }: HalfBars): [number, number][] {
  const found: [number, number][] = [];
  for (let end = 4; end < count; end += 2) {
    const last = end - 1;
    let start = last;
    while (start > 0 && last - start < rising.mostHalves && high[start - 1]! < high[start]! + rising.dips)
      start--;
    const usual = median(Array.from({ length: 8 }, (_, i) => high[max(0, start - i)]!));
    const from = Array.from({ length: last - start + 1 }, (_, i) => start + i).find(
      (i) => high[i]! > usual + 1,
    );
    const after = median([1, 2, 3, 4].map((i) => high[min(count - 1, end + i)]!));
    if (
      from !== undefined &&
      last - from >= rising.leastHalves - 1 &&
      high[last]! - usual > rising.over &&
      high[last - 1]! - usual > 0.4 * rising.over &&
      high[last]! - after > rising.fall
    ) {
      found.push([from, end]);
    }
  }
  return found;
}

const crashing = { over: 4.5, decays: 1.5 } as const;

/** Half bars that begin a bar with a burst of the top that dies away. */
function crashes({ count, high }: HalfBars): number[] {
  const found: number[] = [];
  for (let half = 0; half + 4 < count; half += 2) {
    const later = median([2, 4, 6, 8].map((i) => high[min(count - 1, half + i)]!));
    const beside = median([1, 3, 5, 7].map((i) => high[min(count - 1, half + i)]!));
    const before = min(...[1, 2, 3, 4, 6, 8].map((i) => (half - i < 0 ? -Infinity : high[half - i]!)));
    if (
      high[half]! - later > crashing.over &&
      high[half]! - beside > crashing.over &&
      high[half]! - before > crashing.over - 1 &&
      high[half]! - high[half + 1]! > crashing.decays
    ) {
      found.push(half);
    }
  }
  return found;
}

const stopping = { under: 14 as Decibels, leastBeats: 0.6, mostBeats: 8 } as const;

/** Spans of time in which nothing or almost nothing sounds, though the music goes on before and after. */
function stops(
  kWeightedMeanSquares: Float32Array,
  from: Seconds,
  to: Seconds,
  beatSeconds: Seconds,
): [Seconds, Seconds][] {
  const steps = kWeightedStepsPerSecond;
  const first = max(0, floor(from * steps));
  const last = min(kWeightedMeanSquares.length, ceil(to * steps));
  const around = round(8 * beatSeconds * steps);
  const cumulated = new Float64Array(kWeightedMeanSquares.length + 1);
  for (let i = 0; i < kWeightedMeanSquares.length; i++)
    cumulated[i + 1] = cumulated[i]! + kWeightedMeanSquares[i]!;
  const mean = (a: number, b: number) => {
    const low = max(first, a);
    const high = min(last, b);
    return high > low ? (cumulated[high]! - cumulated[low]!) / (high - low) : 0;
  };
  const quiet = 10 ** (-stopping.under / 10);
  const found: [Seconds, Seconds][] = [];
  for (let i = first; i < last;) {
    const before = mean(i - around, i);
    if (before <= 0 || kWeightedMeanSquares[i]! > quiet * before) {
      i++;
      continue;
    }
    let end = i + 1;
    while (end < last && kWeightedMeanSquares[end]! <= quiet * before) end++;
    const length = (end - i) / steps;
    if (
      length >= stopping.leastBeats * beatSeconds &&
      length <= stopping.mostBeats * beatSeconds &&
      end + around / 2 < last &&
      mean(end, end + around) > 0.1 * before
    ) {
      found.push([i / steps, end / steps]);
    }
    i = end;
  }
  return found;
}

/** Gaps that come again this often within some bars are the groove and no moments. */
const usualGaps = 3;
/** Probability of drums in a bar, and the share of the usual strength of high onsets, where they are gone. */
const drumsGone = { surely: 0.35, likely: 0.8, share: 0.6, back: 0.75 } as const;

/** Runs of bars without drums that follow bars with drums: first bar, and the bar after the last. */
function barsWithoutDrums(profile: BarProfile): [number, number][] {
  const { count, onsets, onsetRanges } = profile;
  const chance = Array.from({ length: count }, (_, bar) => presenceOf(profile, bar, bar + 1).drums);
  const high = (bar: number) => onsets[(bar + 1) * onsetRanges - 1]!;
  const found: [number, number][] = [];
  for (let bar = 1; bar < count; bar++) {
    const usual = median([1, 2, 3, 4].map((back) => high(max(0, bar - back))));
    const isGone = (place: number) =>
      chance[place]! < drumsGone.surely ||
      (chance[place]! < drumsGone.likely && high(place) < drumsGone.share * usual);
    if (!isGone(bar) || isGone(bar - 1)) continue;
    let end = bar + 1;
    while (end < count && (isGone(end) || (chance[end]! < 0.9 && high(end) < drumsGone.back * usual))) end++;
    found.push([bar, end]);
    bar = end;
  }
  return found;
}

/** All moments of a track in order. */
export function findMoments(grid: Grid, profile: BarProfile, curves: ProfileCurves): Moment[] {
  const { firstBar, count, starts } = profile;
  if (count === 0) return [];
  const { beatsPerBar } = grid;
  const beatOfHalf = (half: number) => (firstBar - 1 + half / 2) * beatsPerBar;
  const halves = halfBars(profile, curves);
  const opened = filterOpenings(halves);
  const isOpening = (half: number) => opened.some(([from, to]) => half > from && half <= to);
  const moments: Moment[] = opened.map(([from, to]) => ({
    kind: "filterOpening",
    startBeat: beatOfHalf(from),
    endBeat: beatOfHalf(to),
  }));
  for (const [from, to] of risers(halves)) {
    if (isOpening(to)) continue;
    moments.push({ kind: "riser", startBeat: beatOfHalf(from), endBeat: beatOfHalf(to) });
  }
  for (const half of crashes(halves)) {
    moments.push({ kind: "crash", startBeat: beatOfHalf(half), endBeat: beatOfHalf(half) + 1 });
  }

  const beatSeconds = (starts[count]! - starts[0]!) / (count * beatsPerBar);
  const gaps = stops(curves.kWeightedMeanSquares, starts[0]!, starts[count]!, beatSeconds);
  for (const [from, to] of gaps) {
    const near = gaps.filter(([other]) => Math.abs(other - from) < 4.5 * beatsPerBar * beatSeconds);
    if (near.length >= usualGaps) continue;
    const beatOf = (time: Seconds) => {
      let low = 0;
      while (low < count - 1 && starts[low + 1]! <= time) low++;
      const share = (time - starts[low]!) / (starts[low + 1]! - starts[low]!);
      return (firstBar - 1 + low + share) * beatsPerBar;
    };
    moments.push({ kind: "stop", startBeat: beatOf(from), endBeat: beatOf(to) });
  }

  for (const [from, to] of barsWithoutDrums(profile)) {
    // Drums behind a closed filter are still there.
    if (opened.some(([start, end]) => 2 * from >= start - 1 && 2 * to <= end + 1)) continue;
    moments.push({ kind: "drumsOut", startBeat: beatOfHalf(2 * from), endBeat: beatOfHalf(2 * to) });
  }
  return moments.sort((a, b) => a.startBeat - b.startBeat);
}
