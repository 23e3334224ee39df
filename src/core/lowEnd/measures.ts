/** What kick and bass do to each other, in numbers. */
import { z } from "zod";
import { dipOf } from "../envelopes/pumping";
import { median } from "../median";
import { countRange, decibelRange } from "../ranges";
import type { Decibels, Hertz, Seconds, Span } from "../units";
import type { BassNote } from "./notes";
import { aloneUntil, cleanest, fadesFrom } from "./typicalKick";
import { belowCutOff, lowEnvelope, lowFramesPerSecond, type LowEnd } from "./lowBand";

const { abs, cos, floor, log10, max, min, PI, round, sin, sqrt } = Math;

/** Below this the low end is looked at unless another cut-off is chosen. */
export const defaultCutOff: Hertz = 100;
/** What lies below is felt at most, and eats headroom. Common practice, no source. */
export const belowHearing: Hertz = 30;

const decibels = decibelRange.nullable();
export const lowEndSchema = z.object({
  kicks: countRange,
  notes: countRange,
  /** From the hit until the typical kick has fallen by 20 dB, beats. */
  kickLengthBeats: z.number().min(0).max(64).nullable(),
  /** Whether that was heard to its end, on kicks that begin without a bass note: else it may be far off. */
  kickLengthIsSure: z.boolean(),
  /** Where the typical kick is strongest behind its attack, Hz. */
  kickHz: z.number().min(20).max(300).nullable(),
  /** From there until the next kick, in the middle, beats. */
  roomBeats: z.number().min(0).max(1000).nullable(),
  /** Peak of the kicks over the level of the bass where it sounds. */
  kickToBassDb: decibels,
  /** Standard deviation of the levels of bass notes. */
  bassEvennessDb: decibels,
  /** What lies below 30 Hz against all below the cut-off. */
  below30Db: decibels,
  /** Correlation of left and right below the cut-off. */
  monoCorrelation: z.number().min(-1).max(1).nullable(),
  /** What is lost there when left and right are summed, 0 or less. */
  monoLossDb: decibels,
  /** How bass that goes on through kicks dips at them; null where none does, or none goes on. */
  ducking: z
    .object({
      depthDb: decibelRange,
      recoveryMs: z.number().min(0).max(5000),
      beats: z.number().min(0).max(64),
    })
    .nullable(),
  /** How kick and bass add up while both sound: 1 together, 0 by chance, −1 against each other. */
  kickBassCorrelation: z.number().min(-1).max(1).nullable(),
  /** By how much louder the two would be together with the polarity of one inverted. */
  invertedGainDb: decibels,
  /** What moving the bass by some ms, with or without inverting it, would give at most; null where nothing is gained. */
  moved: z
    .object({ ms: z.number().min(-20).max(20), inverted: z.boolean(), gainDb: decibelRange })
    .nullable(),
  /** Typical envelope of the kicks from the hit on, every 5 ms, dB against its peak. */
  kickCurve: z.array(decibelRange).max(400),
});
export type LowEndMeasures = z.infer<typeof lowEndSchema>;

/** Moved further, a bass is out of time. */
const furthestMoved: Seconds = 0.01;
/** Gains below this are not worth moving anything. */
const leastMoved: Decibels = 1;
const fewestKicks = 4;
const fewestNotes = 4;
const lengthFall: Decibels = 20;
/** Frames of 5 ms after a hit in which a kick has its peak. */
const peakFrames = 20;
/** Longest that a kick is followed. */
const longest: Seconds = 1;
/** The bass sounds where it is no softer than this under its loud moments. */
const sounding: Decibels = 20;
const leastDip: Decibels = 1.5;
/** Bass goes on through a kick where it comes back to what it was within this. */
const sameAgain: Decibels = 2;
const fewestHeld = 6;

const tenths = (value: number): number => round(10 * value) / 10;
const hundredths = (value: number): number => round(100 * value) / 100;
const toDecibels = (power: number): Decibels => 10 * log10(max(power, 1e-14));

/** The low end below a cut-off, with its powers: what measuring any spans of it begins with. */
export interface LowEndBand extends LowEnd {
  /** The kicks as high as they were kept: the cut-off takes away those that are pitched above it. */
  wholeKick: Float32Array;
  /** Power of kicks and of the rest every 5 ms; see `lowEnvelope`. */
  kickPower: Float32Array;
  restPower: Float32Array;
  /** The mid below what most speakers play. */
  deep: Float32Array;
}

/** @param deepest below which few speakers play anything. */
export function lowEndBand(
  { rate, kick, rest, side }: LowEnd,
  cutOff: Hertz = defaultCutOff,
  deepest: Hertz = belowHearing,
): LowEndBand {
  const low = (samples: Float32Array) => belowCutOff(samples, rate, cutOff);
  const [kickLow, restLow] = [low(kick), low(rest)];
  const mid = kick.map((x, i) => x + rest[i]!);
  return {
    rate,
    kick: kickLow,
    wholeKick: kick,
    rest: restLow,
    side: low(side),
    kickPower: lowEnvelope(kickLow, rate),
    restPower: lowEnvelope(restLow, rate),
    deep: belowCutOff(mid, rate, deepest),
  };
}

/**
 * Measures the low end of a track or of some spans of it.
 *
 * @param kicks all of the track, in order.
 * @param notes all of the track, in order.
 * @param beat its length; null where there is no tempo: lengths are then of half a second.
 * @param spans null for the whole.
 */
export function measureLowEnd(
  { rate, kick, wholeKick, rest, side, kickPower, restPower, deep }: LowEndBand,
  kicks: readonly Seconds[],
  notes: readonly BassNote[],
  beat: Seconds | null,
  spans: readonly Span[] | null = null,
): LowEndMeasures {
  const isIn = (time: Seconds) => !spans || spans.some(({ from, to }) => time >= from && time < to);
  const beatSeconds = beat ?? 0.5;
  const frames = kickPower.length;
  const frameOf = (time: Seconds) => round(time * lowFramesPerSecond);

  // The kicks, each until another sound begins.
  const alone = aloneUntil(
    kicks,
    notes.map(({ start }) => start),
  );
  const rooms = kicks.flatMap((time, i): { frame: number; room: number; withBass: boolean }[] => {
    const frame = frameOf(time);
    const until = floor(fadesFrom * (alone[i]!.until - time) * lowFramesPerSecond) - 4;
    const room = min(round(longest * lowFramesPerSecond), until, frames - 1 - frame);
    return isIn(time) && frame >= 0 && room > peakFrames
      ? [{ frame, room, withBass: alone[i]!.withBass }]
      : [];
  });
  const sums: number[] = [];
  const counts: number[] = [];
  let peaks = 0;
  const asked = cleanest(rooms);
  for (const { frame, room } of asked) {
    let peak = 0;
    for (let t = 0; t < room; t++) {
      sums[t] = (sums[t] ?? 0) + kickPower[frame + t]!;
      counts[t] = (counts[t] ?? 0) + 1;
      if (t < peakFrames) peak = max(peak, kickPower[frame + t]!);
    }
    peaks += peak / asked.length;
  }
  const hasKicks = rooms.length >= fewestKicks && peaks > 1e-9;
  const means = hasKicks
    ? sums.map((sum, t) => (counts[t]! >= max(2, asked.length / 6) ? sum / counts[t]! : NaN))
    : [];
  const known = means.slice(0, means.findIndex(Number.isNaN) >>> 0);
  const top = max(1e-14, ...known.slice(0, peakFrames));
  const kickCurve = known.map((power) => tenths(max(-80, toDecibels(power / top))));
  const peakAt = kickCurve.indexOf(0);
  const fallen = kickCurve.findIndex((level, t) => t > peakAt && level <= -lengthFall);
  // Where another sound begins first, the fall is followed on as it went.
  const kickSeconds = (fallen < 0 ? followedOn(kickCurve, peakAt) : fallen) / lowFramesPerSecond;
  const gaps = kicks.slice(1).map((time, i) => min(time - kicks[i]!, 16 * beatSeconds));
  const gap = hasKicks && gaps.length > 0 ? median(gaps) : 0;

  // The bass where it sounds.
  const isWanted = new Uint8Array(frames);
  if (!spans) isWanted.fill(1);
  for (const { from, to } of spans ?? []) isWanted.fill(1, max(0, frameOf(from)), max(0, frameOf(to)));
  const loud = loudestOf(restPower, isWanted);
  let bassPower = 0;
  let bassFrames = 0;
  for (let frame = 0; frame < frames; frame++) {
    if (isWanted[frame] === 0 || restPower[frame]! < loud / 10 ** (sounding / 10)) continue;
    bassPower += restPower[frame]!;
    bassFrames++;
  }
  const hasBass = loud > 1e-9 && bassFrames > 20;
  const own = notes.filter(({ start }) => isIn(start));
  // Of all that is kept of them, so that the cut-off does not make high notes soft.
  const levels = own.map(({ levelDb }) => levelDb);

  const whole = addUp(kick, rest, side, rate, isWanted);
  const deepPower = powerOf(deep, rate, isWanted);
  const withKick = together(kick, rest, rate, rooms, kickSeconds);
  return {
    kicks: rooms.length,
    notes: own.length,
    kickLengthBeats: hasKicks ? hundredths(kickSeconds / beatSeconds) : null,
    kickLengthIsSure: hasKicks && fallen >= 0 && asked.every(({ withBass }) => !withBass),
    kickHz: hasKicks ? bodyOf(wholeKick, rate, asked) : null,
    roomBeats: hasKicks ? hundredths(max(0, gap - kickSeconds) / beatSeconds) : null,
    kickToBassDb: hasKicks && hasBass ? tenths(toDecibels(peaks) - toDecibels(bassPower / bassFrames)) : null,
    bassEvennessDb: own.length >= fewestNotes ? tenths(deviation(levels)) : null,
    below30Db: whole.mid > 1e-9 ? tenths(max(-80, toDecibels(deepPower / whole.mid))) : null,
    monoCorrelation: whole.correlation,
    monoLossDb:
      whole.mid + whole.side > 1e-9
        ? tenths(max(-60, toDecibels(whole.mid / (whole.mid + whole.side))))
        : null,
    ducking:
      hasKicks && hasBass ? bassDip(restPower, kicks.filter(isIn).map(frameOf), loud, beatSeconds) : null,
    kickBassCorrelation: withKick && hundredths(withKick.correlation),
    invertedGainDb: withKick && tenths(withKick.inverted),
    moved: withKick && withKick.moved,
    kickCurve,
  };
}

/** Where the body of a kick can lie, and how finely it is looked for. */
const bodies: readonly [lowest: Hertz, highest: Hertz] = [25, 200];
const bodyStep: Hertz = 0.5;
/** The attack and most of what glides down behind it. */
const beforeBody: Seconds = 0.03;
const fadeIn: Seconds = 0.01;

/**
 * Where kicks are strongest behind their attack: of what they have in common while each sounds alone.
 * A sound that has several pitches counts by the one that is most of it.
 */
function bodyOf(
  kick: Float32Array,
  rate: Hertz,
  rooms: readonly { frame: number; room: number }[],
): Hertz | null {
  const longestRoom = rooms.reduce((most, { room }) => max(most, room), 0);
  const length = floor((longestRoom / lowFramesPerSecond - beforeBody) * rate);
  const sums = new Float32Array(max(0, length));
  const counts = new Float32Array(sums.length);
  for (const { frame, room } of rooms) {
    const first = round((frame / lowFramesPerSecond + beforeBody) * rate);
    const end = min(sums.length, round((room / lowFramesPerSecond - beforeBody) * rate), kick.length - first);
    for (let i = 0; i < end; i++) {
      sums[i]! += kick[first + i]!;
      counts[i]!++;
    }
  }
  const least = max(1, rooms.length / 6);
  let known = 0;
  while (known < sums.length && counts[known]! >= least) known++;
  for (let i = 0; i < known; i++)
    sums[i]! *= min(1, i / (fadeIn * rate)) * (0.5 + 0.5 * cos((PI * i) / known)) * (1 / counts[i]!);
  let best: Hertz | null = null;
  let most = 1e-12;
  for (let hertz = bodies[0]; hertz <= bodies[1]; hertz += bodyStep) {
    const turn = (2 * PI * hertz) / rate;
    let [re, im] = [0, 0];
    for (let i = 0; i < known; i++) {
      re += sums[i]! * cos(turn * i);
      im += sums[i]! * sin(turn * i);
    }
    const power = re * re + im * im;
    if (power > most) [best, most] = [hertz, power];
  }
  return best;
}

/** When a curve that ends too early would have fallen far enough, frames: as its second half goes. */
function followedOn(curve: readonly Decibels[], peakAt: number): number {
  const middle = peakAt + ((curve.length - peakAt) >> 1);
  const slope = (curve[middle]! - curve.at(-1)!) / max(1, curve.length - 1 - middle);
  const left = lengthFall + curve.at(-1)!;
  return slope > 0.02 ? min(longest * lowFramesPerSecond, curve.length + left / slope) : curve.length;
}

/** The power that a tenth of the wanted frames exceed. */
function loudestOf(power: Float32Array, isWanted: Uint8Array): number {
  const kept = power.filter((_, frame) => isWanted[frame] === 1).sort();
  return kept[floor(0.9 * kept.length)] ?? 0;
}

const deviation = (values: readonly number[]): number => {
  const mean = values.reduce((sum, x) => sum + x, 0) / values.length;
  return sqrt(values.reduce((sum, x) => sum + (x - mean) ** 2, 0) / values.length);
};

const wantedAt =
  (isWanted: Uint8Array, rate: Hertz) =>
  (i: number): boolean =>
    isWanted[min(isWanted.length - 1, floor((i * lowFramesPerSecond) / rate))] === 1;

function powerOf(samples: Float32Array, rate: Hertz, isWanted: Uint8Array): number {
  const wanted = wantedAt(isWanted, rate);
  let sum = 0;
  let count = 0;
  for (let i = 0; i < samples.length; i++) {
    if (!wanted(i)) continue;
    sum += samples[i]! * samples[i]!;
    count++;
  }
  return sum / max(1, count);
}

/** Mean powers of mid and side, and the correlation of left and right. */
function addUp(
  kick: Float32Array,
  rest: Float32Array,
  side: Float32Array,
  rate: Hertz,
  isWanted: Uint8Array,
) {
  const wanted = wantedAt(isWanted, rate);
  let m = 0;
  let s = 0;
  let x = 0;
  let count = 0;
  for (let i = 0; i < rest.length; i++) {
    if (!wanted(i)) continue;
    const mid = kick[i]! + rest[i]!;
    m += mid * mid;
    s += side[i]! * side[i]!;
    x += mid * side[i]!;
    count++;
  }
  const both = (m + s) ** 2 - 4 * x * x;
  return {
    mid: m / max(1, count),
    side: s / max(1, count),
    correlation: both > 1e-12 ? hundredths(max(-1, min(1, (m - s) / sqrt(both)))) : null,
  };
}

/** How kick and bass add up from each hit until the kick is over. */
function together(
  kick: Float32Array,
  rest: Float32Array,
  rate: Hertz,
  rooms: readonly { frame: number }[],
  seconds: Seconds,
): { correlation: number; inverted: Decibels; moved: LowEndMeasures["moved"] } | null {
  let k = 0;
  let r = 0;
  const reach = round(furthestMoved * rate);
  /** Products of the kick with the bass as it would be if it came later by so many samples. */
  const products = new Float64Array(2 * reach + 1);
  for (const { frame } of rooms) {
    const first = round((frame * rate) / lowFramesPerSecond);
    const end = min(kick.length, first + round(min(seconds, 0.3) * rate));
    for (let i = first; i < end; i++) {
      k += kick[i]! * kick[i]!;
      r += rest[i]! * rest[i]!;
      for (let by = -reach; by <= reach; by++) products[by + reach]! += kick[i]! * (rest[i - by] ?? 0);
    }
  }
  if (k <= 1e-9 || r < 0.02 * k) return null;
  const x = products[reach]!;
  const sum = (product: number) => toDecibels(max(1e-9, k + r + 2 * product));
  let best = reach;
  for (let place = 0; place < products.length; place++)
    if (abs(products[place]!) > abs(products[best]!)) best = place;
  const gain = sum(abs(products[best]!)) - sum(x);
  return {
    correlation: x / sqrt(k * r),
    inverted: sum(-x) - sum(x),
    moved:
      best !== reach && gain >= leastMoved
        ? { ms: tenths((1000 * (best - reach)) / rate), inverted: products[best]! < 0, gainDb: tenths(gain) }
        : null,
  };
}

/** The dip of bass that sounds before a kick and is there again half a beat later. */
function bassDip(power: Float32Array, kicks: readonly number[], loud: number, beat: Seconds) {
  const length = round(min(0.6, beat) * lowFramesPerSecond);
  const cells: number[][] = Array.from({ length }, () => []);
  let held = 0;
  kicks.forEach((frame, i) => {
    const before = meanOf(power, frame - 10, frame - 4);
    const last = min(length, (kicks[i + 1] ?? Infinity) - frame - 4, power.length - 1 - frame);
    const after = meanOf(power, frame + last - 5, frame + last);
    if (frame < 10 || last < 30 || before < loud / 100 || abs(toDecibels(after / before)) > sameAgain) return;
    held++;
    for (let t = 0; t < last; t++) cells[t]!.push(toDecibels(power[frame + t]! / before));
  });
  if (held < fewestHeld) return null;
  const curve = cells.map((cell) => (cell.length >= held / 2 ? median(cell) : null));
  return dipOf(curve, lowFramesPerSecond, beat, leastDip);
}

function meanOf(power: Float32Array, from: number, to: number): number {
  let sum = 0;
  for (let frame = max(0, from); frame <= to; frame++) sum += power[frame] ?? 0;
  return sum / (to - from + 1);
}
