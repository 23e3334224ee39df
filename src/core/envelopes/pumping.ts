/**
 * Pumping: how the level of all else moves at each kick. All kicks are laid over one another, band
 * by band; what a compressor keyed by the kick takes away, it takes from every band alike.
 */
import { z } from "zod";
import { median, quantile } from "../median";
import { countRange, decibelRange } from "../ranges";
import type { Decibels, Fraction, Hertz, Seconds } from "../units";
import { envelopeBandCount } from "./levels";

const { abs, max, min, round } = Math;

/** Frames shown before and after a kick, 10 ms each. */
export const framesBefore = 8;
export const framesAfter = 60;
const length = framesBefore + framesAfter + 1;
/** Frames that say how loud it was before the kick. */
const quiet = { from: -6, to: -3 } as const;
/** A kick counts up to so many frames before the next one. */
const beforeNext = 3;
const fewestKicks = 6;
/** A kick this long after the one before finds everything as it is without. */
const restedAfter: Seconds = 0.4;

/** Bands told apart: where the kick itself sounds, and all above 150 Hz. */
export const pumpingBands = ["low", "high"] as const;
export type PumpingBand = (typeof pumpingBands)[number];
const bandsOf = { low: [0, 1], high: [1, envelopeBandCount] } as const;

/** A dip at the kicks. */
export interface Ducking {
  depthDb: Decibels;
  /** From the kick until nine tenths of the dip are made up. */
  recoveryMs: number;
  /** The same as a share of the beat. */
  beats: Fraction;
}

const duckingSchema = z
  .object({
    depthDb: decibelRange,
    recoveryMs: z.number().min(0).max(2000),
    beats: z.number().min(0).max(20),
  })
  .nullable();

/** What is known of one side. */
export const pumpingSchema = z.object({
  kicks: countRange,
  framesPerSecond: z.number().min(50).max(200),
  /**
   * Mean level of each band against that before the kick, `length` frames from 80 ms before it on,
   * dB; null where too few kicks reach so far.
   */
  typical: z.array(z.array(decibelRange.nullable()).length(length)).length(envelopeBandCount),
  /** What dips of sounds that go on through the kick; null where nothing does, or no dip is plain. */
  ducking: z.object({ low: duckingSchema, high: duckingSchema }),
});
export type Pumping = z.infer<typeof pumpingSchema>;

const tenths = (value: number): number => round(10 * value) / 10;

/**
 * @param levels of left and right together, dB, `frames × envelopeBandCount`.
 * @param kicks in order.
 * @param beat length of a beat.
 * @returns null where there are fewer than six kicks.
 */
export function measurePumping(
  levels: Float32Array,
  framesPerSecond: Hertz,
  kicks: readonly Seconds[],
  beat: Seconds,
): Pumping | null {
  const frames = levels.length / envelopeBandCount;
  const reaching = kicks.flatMap((time, i): { frame: number; reach: number; since: Seconds }[] => {
    const frame = round(time * framesPerSecond);
    const next =
      i + 1 < kicks.length ? round((kicks[i + 1]! - time) * framesPerSecond) - beforeNext : Infinity;
    const reach = min(framesAfter, next, frames - 1 - frame);
    return frame < framesBefore || reach < 8
      ? []
      : [{ frame, reach, since: i > 0 ? time - kicks[i - 1]! : Infinity }];
  });
  // Soon after another kick the level before is not what it would be; those are left out where others are enough.
  const rested = reaching.filter(({ since }) => since >= restedAfter);
  const at = rested.length >= max(fewestKicks, reaching.length / 5) ? rested : reaching;
  if (at.length < fewestKicks) return null;
  const typical: (Decibels | null)[][] = [];
  const sums = new Float64Array(length);
  const counts = new Int32Array(length);
  for (let b = 0; b < envelopeBandCount; b++) {
    sums.fill(0);
    counts.fill(0);
    for (const { frame, reach } of at) {
      for (let t = -framesBefore; t <= reach; t++) {
        sums[t + framesBefore]! += levels[(frame + t) * envelopeBandCount + b]!;
        counts[t + framesBefore]!++;
      }
    }
    let before = 0;
    for (let t = quiet.from; t <= quiet.to; t++) before += sums[t + framesBefore]! / at.length / 4;
    const fewest = max(fewestKicks, at.length / 5);
    typical.push(
      Array.from(sums, (sum, i) => (counts[i]! >= fewest ? tenths(sum / counts[i]! - before) : null)),
    );
  }
  const ducking = (band: PumpingBand) =>
    sustainedDip(
      levels,
      at,
      bandsOf[band],
      min(framesAfter, round(beat * framesPerSecond)),
      framesPerSecond,
      beat,
    );
  return {
    kicks: at.length,
    framesPerSecond,
    typical,
    ducking: { low: ducking("low"), high: ducking("high") },
  };
}

/** A sound goes on through a kick where its level comes back to what it was before within this. */
const sameAgain: Decibels = 1.5;
/** Rising by so much in two frames, a sound has been struck anew. */
const struckAnew: Decibels = 4.5;
const audible: Decibels = 25;
const fewestSounds = 24;
/** Shallower dips are none. */
const leastDip: Decibels = 2;

/** The dip of all sounds that go on unchanged through kicks: their lower quarter, which kicks do not cover. */
function sustainedDip(
  levels: Float32Array,
  kicks: readonly { frame: number; reach: number }[],
  [first, end]: readonly [number, number],
  beatFrames: number,
  framesPerSecond: Hertz,
  beat: Seconds,
): Ducking | null {
  const cells: number[][] = Array.from({ length: beatFrames + 1 }, () => []);
  let sounds = 0;
  for (let b = first; b < end; b++) {
    const sample: number[] = [];
    for (let i = b; i < levels.length; i += 16 * envelopeBandCount) sample.push(levels[i]!);
    const loud = quantile(sample, 0.9);
    for (const { frame, reach } of kicks) {
      const level = (t: number) => levels[(frame + t) * envelopeBandCount + b]!;
      const meanOf = (from: number, to: number) => {
        let sum = 0;
        for (let t = from; t <= to; t++) sum += level(t);
        return sum / (to - from + 1);
      };
      const before = meanOf(quiet.from, quiet.to);
      if (before < loud - audible) continue;
      let last = min(beatFrames, reach);
      for (let t = 5; t < last; t++) {
        if (level(t + 1) - level(t - 1) > struckAnew) last = t - 2;
      }
      if (last < 12 || abs(meanOf(last - 3, last) - before) > sameAgain) continue;
      sounds++;
      for (let t = 0; t <= last; t++) cells[t]!.push(level(t) - before);
    }
  }
  if (sounds < fewestSounds) return null;
  const curve = (share: Fraction) => {
    const own = cells.map((cell) => (cell.length >= fewestSounds / 2 ? quantile(cell, share) : null));
    const known = own.flatMap((level) => level ?? []);
    // Levels flicker, most of all those of noise: where the dip is over, the curve is at nought.
    const over = known.length < 8 ? 0 : min(0, median(known.slice(-known.length >> 2)));
    return own.map((level) => level && level - over);
  };
  // The kick covers many of them, so those that dip most say how deep; a quarter must agree that it dips.
  const dip = isRelease(curve(0.25)) ? dipOf(curve(0.25), framesPerSecond, beat, leastDip) : null;
  return dip && (dipOf(curve(0.12), framesPerSecond, beat, leastDip) ?? dip);
}

/** By when a dip is deepest, frames after the kick; later ones are what is played. */
const deepestBy = 13;
/** A release only rises, but for so much. */
const fallsBack: Decibels = 1;

/** Whether a curve dips at once and then comes back without falling again, as gain does that is let go. */
function isRelease(curve: readonly (Decibels | null)[]): boolean {
  const known = curve.slice(0, curve.findIndex((level, t) => t > 0 && level === null) >>> 0) as Decibels[];
  const deepest = min(...known.slice(1));
  let highest = deepest;
  for (let t = known.indexOf(deepest, 1); t < known.length; t++) {
    if (t > deepestBy && known[t] === deepest) return false;
    highest = max(highest, known[t]!);
    if (highest - known[t]! > fallsBack + 0.15 * abs(deepest)) return false;
    if (highest > 0.1 * deepest) break;
  }
  return true;
}

/** No gain makes so much of it: what is that far down is silence between sounds. */
const silent: Decibels = 100;
/** A dip is at most so many times as deep as what of it is seen. */
const mostCarried = 2;
/** How much of what an even return would add is believed. */
const shareOfEven: Fraction = 0.6;

/**
 * Depth and return of a dip. A kick covers its first moments, so the way it rises is carried back to
 * the kick: from where it is deepest, and along all of its return.
 *
 * @param curve dB from the kick on.
 */
export function dipOf(
  curve: readonly (Decibels | null)[],
  framesPerSecond: Hertz,
  beat: Seconds,
  least: Decibels,
): Ducking | null {
  let low = 1;
  const end = curve.findIndex((level, t) => t > 0 && level === null);
  const last = (end < 0 ? curve.length : end) - 1;
  for (let t = 1; t <= last; t++) if (curve[t]! < curve[low]!) low = t;
  const deepest = -(curve[low] ?? 0);
  if (last < 8 || deepest < least || deepest > silent) return null;
  let back = low;
  while (back <= last && curve[back]! < -0.1 * deepest) back++;
  // Never back before the next kick: it returns when the next one comes.
  const recovery = back > last ? last : back;
  const rise = max(0, (curve[min(last, low + 3)]! - curve[low]!) / 3);
  const near = deepest + rise * low;
  // It may come back evenly or along a curve: between what both would make of it.
  const evenly = carriedBack(curve, low + 1, back - 1);
  return {
    depthDb: tenths(min(mostCarried * deepest, near + shareOfEven * max(0, evenly - near))),
    recoveryMs: round((1000 * recovery) / framesPerSecond),
    beats: round((100 * recovery) / framesPerSecond / beat) / 100,
  };
}

/**
 * How deep a dip is at the kick if it comes back evenly: its lowest moments are rounded off by what still
 * sounds of the kick, so the straight line through the whole of its return says more than where it is lowest.
 *
 * @returns 0 where there is no line that rises.
 */
function carriedBack(curve: readonly (Decibels | null)[], from: number, to: number): Decibels {
  const count = to - from + 1;
  if (count < 3) return 0;
  const middle = (from + to) / 2;
  let [mean, slope, spread] = [0, 0, 0];
  for (let t = from; t <= to; t++) {
    mean += curve[t]! / count;
    slope += (t - middle) * curve[t]!;
    spread += (t - middle) * (t - middle);
  }
  return slope > 0 ? (slope / spread) * middle - mean : 0;
}

/** How much more a version pumps than its reference. */
export interface PumpingGap {
  /** Depth of the dip that the version has more (+) or less (−), dB; 0 where there is none. */
  gapDb: Decibels;
  /** Until it is made up; null where there is none. */
  recoveryMs: number | null;
}

/** Half of the bands must share a dip of so much, and of so much of it, for it to be one of all. */
const leastShared: Decibels = 0.5;
const shared: Fraction = 0.5;
/** The kick still covers most bands a little; this share that dips most says how deep. */
const ofDeepest: Fraction = 0.15;
/** What is made up sooner, in milliseconds, or for such a share in two frames, is played a little later. */
const shortest = 45;
const atOnce: Fraction = 0.6;
/** Shallow dips flicker as much. */
const leastStruck: Decibels = 2.5;

/** How far a curve falls soon after the kick; 0 where it does not. */
const deepestOf = (curve: readonly (Decibels | null)[]): Decibels =>
  min(...curve.slice(1, deepestBy + 1).map((level) => level ?? 0));

/** Whether a dip is made up by something that is struck, not by gain that is let go. */
function isStruck(curve: readonly (Decibels | null)[]): boolean {
  const most = max(leastStruck, -atOnce * deepestOf(curve));
  return curve.some((level, t) => {
    const before = t > 2 ? curve[t - 2] : null;
    return typeof before === "number" && level !== null && min(0, level) - before > most;
  });
}
/** Bands that the kick itself raises by no more than this show what is under it, or else those that it raises least. */
const open: Decibels = 1.5;
const fewestOpen = 5;

/**
 * What dips at the kicks of one side and not of the other. Bands in which the kick itself sounds say
 * nothing of the rest, so only those count that it leaves open. What one part plays otherwise moves some
 * bands, and comes and goes as it is played; gain takes from all of them at once and lets go evenly.
 */
function dipBeside(without: Pumping, having: Pumping, beat: Seconds): Ducking | null {
  const moved = Array.from({ length: framesAfter + 1 }, (_, t): Decibels[] => {
    const bands: { level: Decibels; by: Decibels }[] = [];
    for (let b = 1; b < envelopeBandCount; b++) {
      const [a, c] = [without.typical[b]![t + framesBefore]!, having.typical[b]![t + framesBefore]!];
      if (a !== null && c !== null) bands.push({ level: a, by: c - a });
    }
    bands.sort((x, y) => x.level - y.level);
    return bands.filter(({ level }, i) => level <= open || i < fewestOpen).map(({ by }) => by);
  });
  const curve = (share: Fraction) =>
    moved.map((own) => (own.length >= fewestOpen ? quantile(own, share) : null));
  const [half, quarter] = [curve(0.5), curve(0.25)];
  if (deepestOf(half) > min(-leastShared, shared * deepestOf(quarter)) || !isRelease(quarter)) return null;
  const dip = dipOf(curve(ofDeepest), having.framesPerSecond, beat, 1);
  return dip && dip.recoveryMs >= shortest && !isStruck(quarter) ? dip : null;
}

/** What dips at the kicks of one side and not of the other. */
export function pumpingGap(reference: Pumping, version: Pumping, beat: Seconds): PumpingGap {
  const more = dipBeside(reference, version, beat);
  const less = dipBeside(version, reference, beat);
  if (!more && !less) return { gapDb: 0, recoveryMs: null };
  return (more?.depthDb ?? 0) >= (less?.depthDb ?? 0)
    ? { gapDb: more!.depthDb, recoveryMs: more!.recoveryMs }
    : { gapDb: -less!.depthDb, recoveryMs: less!.recoveryMs };
}

/** The lower part of all bands above 150 Hz, or the one below, as it is drawn; dB, null where unknown. */
export function typicalCurve({ typical }: Pumping, band: PumpingBand): (Decibels | null)[] {
  const rows = typical.slice(...bandsOf[band]);
  return Array.from({ length }, (_, t) => {
    const own = rows.flatMap((row) => row[t] ?? []);
    return own.length > rows.length / 2 ? tenths(quantile(own, 0.25)) : null;
  });
}
