/** Whether the stems of a track add up to it, and what of it is missing from them. */
import { z } from "zod";
import { barSpectra } from "../lens/barSpectra";
import type { LiftedTrack, PartSpectrogram } from "../lens/lensMeasures";
import { lensParts, type LensPart } from "../lens/parts";
import { isPresenceTold } from "../lens/presence";
import { kWeightOfBands } from "../loudness/kWeightOfBands";
import { barRange, decibelRange, fractionRange, hertzRange, mostBeats } from "../ranges";
import { bands, twelfthCount } from "../tone";
import {
  decibelsToPower,
  powerToDecibels,
  type Decibels,
  type Fraction,
  type Hertz,
  type Seconds,
} from "../units";

const { max, min, round } = Math;

/** Raise it whenever the same stems can be held against the same track otherwise. */
export const stemSumVersion = 1;

/** What of a track is missing from its stems. */
export const missingPartSchema = z.object({
  /** Null where it is not known what it is. */
  part: z.enum(lensParts).nullable(),
  /** Share of it that is missing, in the bars in which it is. */
  share: fractionRange,
  /** Of the track. */
  bars: z.array(barRange).max(mostBeats),
  /** Whether these are nearly all bars in which it plays. */
  throughout: z.boolean(),
  fromHz: hertzRange,
  toHz: hertzRange,
});
export type MissingPart = z.infer<typeof missingPartSchema>;

export const stemSumSchema = z.object({
  /** How loud what is left is when the stems are taken from the track, beside the track, K-weighted. */
  restDb: decibelRange,
  /** Loudest first. */
  missing: z.array(missingPartSchema).max(lensParts.length),
});
export type StemSum = z.infer<typeof stemSumSchema>;

/** Softer than this beside the loudest band of the bar nothing is called missing. */
const heardWithin: Decibels = 40;
/** What is left of a part that has its stem: a limiter and echoes of the whole come to less. */
const leastShare: Fraction = 0.3;
/** With so much of it left, nothing of it is in the stems. */
const allOfIt: Fraction = 0.5;
/** A part is not missing while no more than this is left of the bands that are mostly its own. */
const leastLeft: Fraction = 0.25;
/** Missing from so many of its bars a part is missing throughout. */
const nearlyAll: Fraction = 0.9;
/** Of what nobody knows so much has to be left in a bar. */
const leastUnknown: Fraction = 0.16;
/** In fewer bars, or a smaller share of those in which it plays, it is chance. */
const fewestBars = 2;
const leastOfBars: Fraction = 0.2;
/** A part plays in bars within this of its loudest. */
const playsWithin: Decibels = 24;
/** Bands of what is missing that are within this of its strongest. */
const strongWithin: Decibels = 12;
const rounds = 60;

const weighted = (powers: Float32Array, from = 0, to = powers.length): number => {
  let sum = 0;
  for (let i = from; i < to; i++) sum += powers[i]! * kWeightOfBands[i % twelfthCount]!;
  return sum;
};

/**
 * @param rest what is left of the track when its stems are taken from it.
 * @param track powers of the track.
 * @param lifted the parts of the track; null where it was not taken apart.
 * @param starts of all bars, and where the last ends.
 * @param held parts that have stems of their own: what is left of them is not called missing.
 */
export function stemSum(
  rest: PartSpectrogram,
  track: PartSpectrogram,
  lifted: LiftedTrack | null,
  starts: readonly Seconds[],
  held: readonly LensPart[] = [],
): StemSum {
  const left = barSpectra(rest, starts);
  const whole = barSpectra(track, starts);
  const restDb = max(-90, powerToDecibels(weighted(left) / max(1e-12, weighted(whole))));
  const told = lifted ? lensParts.filter((part) => isPresenceTold(lifted.free[part])) : [];
  const parts = told.map((part) => ({ part, spectra: barSpectra(lifted!.spectrograms[part], starts) }));
  const bars = starts.length - 1;
  const shares = Array.from({ length: bars }, (_, bar) =>
    sharesMissing(
      left,
      whole,
      parts.map(({ spectra }) => spectra),
      bar,
    ),
  );
  const found = parts.flatMap(({ part, spectra }, k) =>
    held.includes(part) ? [] : missingOf(part, spectra, shares, k),
  );
  const missing = found.length > 0 ? found : unknown(left, whole, bars);
  missing.sort((a, b) => b.power - a.power);
  return { restDb: round(10 * restDb) / 10, missing: missing.map(({ power: _, ...own }) => own) };
}

const powerOf = (spectra: Float32Array, bar: number): number =>
  weighted(spectra, bar * twelfthCount, (bar + 1) * twelfthCount);

/**
 * How much of each part what is left in a bar is made of: non-negative least squares over the bands, each
 * beside the track's own power in it, by coordinate descent.
 */
function sharesMissing(
  left: Float32Array,
  whole: Float32Array,
  parts: readonly Float32Array[],
  bar: number,
): Fraction[] {
  const at = bar * twelfthCount;
  let loudest = 0;
  for (let b = 0; b < twelfthCount; b++) loudest = max(loudest, whole[at + b]!);
  const least = loudest * decibelsToPower(-heardWithin);
  const residual = new Float64Array(twelfthCount);
  const relative = parts.map(() => new Float64Array(twelfthCount));
  for (let b = 0; b < twelfthCount; b++) {
    if (whole[at + b]! < least || whole[at + b]! === 0) continue;
    residual[b] = left[at + b]! / whole[at + b]!;
    parts.forEach((spectra, k) => (relative[k]![b] = spectra[at + b]! / whole[at + b]!));
  }
  const result = parts.map(() => 0);
  const squares = relative.map((ownPart) => ownPart.reduce((sum, x) => sum + x * x, 0));
  for (let i = 0; i < rounds; i++)
    for (const [k, ownPart] of relative.entries()) {
      if (squares[k] === 0) continue;
      let product = 0;
      for (let b = 0; b < twelfthCount; b++) product += residual[b]! * ownPart[b]!;
      const next = max(0, min(1, result[k]! + product / squares[k]!));
      const step = next - result[k]!;
      result[k] = next;
      for (let b = 0; b < twelfthCount; b++) residual[b]! -= step * ownPart[b]!;
    }
  return result.map((share, k) => (leftOf(left, whole, parts[k]!, at, least) < leastLeft ? 0 : share));
}

/** Share of the bands of a bar that is left, those first in which a part is most of the track. */
function leftOf(
  left: Float32Array,
  whole: Float32Array,
  part: Float32Array,
  at: number,
  least: number,
): Fraction {
  let [sum, all] = [0, 0];
  for (let b = at; b < at + twelfthCount; b++) {
    if (whole[b]! < least || whole[b] === 0) continue;
    const weight = min(1, part[b]! / whole[b]!) ** 2;
    sum += weight * min(1, left[b]! / whole[b]!);
    all += weight;
  }
  return all > 0 ? sum / all : 0;
}

type Found = MissingPart & { power: number };

function missingOf(part: LensPart, spectra: Float32Array, shares: readonly Fraction[][], k: number): Found[] {
  const powers = shares.map((_, bar) => powerOf(spectra, bar));
  const loudest = powers.reduce((a, b) => max(a, b), 0);
  const playing = powers.flatMap((power, bar) =>
    power > loudest * decibelsToPower(-playsWithin) ? [bar] : [],
  );
  const bars = playing.filter((bar) => shares[bar]![k]! >= leastShare);
  if (bars.length < max(min(fewestBars, playing.length), leastOfBars * playing.length, 1)) return [];
  const sum = new Float64Array(twelfthCount);
  let [power, lost] = [0, 0];
  for (const bar of bars) {
    power += powers[bar]!;
    lost += shares[bar]![k]! * powers[bar]!;
    for (let b = 0; b < twelfthCount; b++) sum[b]! += shares[bar]![k]! * spectra[bar * twelfthCount + b]!;
  }
  return [
    {
      part,
      share: lost / power,
      bars: bars.map((bar) => bar + 1),
      throughout: bars.length >= nearlyAll * playing.length,
      ...rangeOf(sum),
      power: lost,
    },
  ];
}

/** What is left although nobody knows what it is. */
function unknown(left: Float32Array, whole: Float32Array, count: number): Found[] {
  const bars = Array.from({ length: count }, (_, bar) => bar).filter(
    (bar) => powerOf(left, bar) > leastUnknown * powerOf(whole, bar),
  );
  if (bars.length < fewestBars) return [];
  const sum = new Float64Array(twelfthCount);
  let [power, lost] = [0, 0];
  for (const bar of bars) {
    power += powerOf(whole, bar);
    lost += powerOf(left, bar);
    for (let b = 0; b < twelfthCount; b++) sum[b]! += left[bar * twelfthCount + b]!;
  }
  return [
    {
      part: null,
      share: min(1, lost / power),
      bars: bars.map((bar) => bar + 1),
      throughout: bars.length >= nearlyAll * count,
      ...rangeOf(sum),
      power: lost,
    },
  ];
}

/** Where most of some powers lie: around the strongest band by loudness. */
function rangeOf(powers: Float64Array): { fromHz: Hertz; toHz: Hertz } {
  const loud = powers.map((power, b) => power * kWeightOfBands[b]!);
  let strongest = 0;
  for (let b = 0; b < twelfthCount; b++) if (loud[b]! > loud[strongest]!) strongest = b;
  const least = loud[strongest]! * decibelsToPower(-strongWithin);
  let [first, last] = [strongest, strongest];
  for (let b = 0; b < twelfthCount; b++)
    if (loud[b]! >= least) {
      first = min(first, b);
      last = max(last, b);
    }
  return { fromHz: round(bands(12)[first]!.low), toHz: round(bands(12)[last]!.high) };
}

/** Whether nothing of a part is in the stems. */
export const isWhollyMissing = ({ share, throughout }: MissingPart): boolean =>
  share >= allOfIt && throughout;
