/** Two one-shots laid over one another: where the second serves the first best. */
import type { DrumVoice } from "../drums/voices";
import { decibelsToAmplitude, type Decibels, type Hertz, type Seconds } from "../units";
import { gainToMatch, resampled, type OneShot } from "./candidates";
import { closenessOf } from "./closeness";
import { lacking, type Lack } from "./lacks";
import { thirdOctaveCentres } from "./hitMeasures";
import { measureHit } from "./measures";
import type { StereoSamples } from "./strokes";
import { waveformFit } from "./waveform";

const { abs, log10, max, pow, round, SQRT2 } = Math;

/** How a second sound is laid over a first. */
export interface LayerSetting {
  /** By which it comes later, ms. */
  offsetMs: number;
  inverted: boolean;
  /** Beside the gain that makes it as loud as the drum. */
  gainDb: Decibels;
}

/** Further apart, the attacks are heard as two; by ear, no source. */
const furthestApart: Seconds = 0.004;
/** Less alike than this, neither place nor polarity matters. */
const leastAlike = 0.08;
/** Levels that are tried first, and the step to either side of the best of them. */
const gains: readonly Decibels[] = [-18, -12, -6, 0];
const finerGain: Decibels = 3;

/** Where a second sound adds most to a first and takes least from it. */
export function placed(
  first: StereoSamples,
  second: StereoSamples,
  rate: Hertz,
): Omit<LayerSetting, "gainDb"> {
  const { strongest } = waveformFit(first, second, rate, furthestApart);
  return abs(strongest.correlation) < leastAlike
    ? { offsetMs: 0, inverted: false }
    : {
        offsetMs: round((100000 * -strongest.lag) / rate) / 100,
        inverted: strongest.correlation < 0,
      };
}

/** The sum of two sounds at one rate, the first as it is. */
export function layered(
  first: StereoSamples,
  second: StereoSamples,
  rate: Hertz,
  { offsetMs, inverted, gainDb }: LayerSetting,
): [Float32Array, Float32Array] {
  const offset = round((offsetMs / 1000) * rate);
  const gain = (inverted ? -1 : 1) * decibelsToAmplitude(gainDb);
  return first.map((channel, side) => {
    const other = second[side]!;
    const sum = new Float32Array(max(channel.length, other.length + max(0, offset)));
    sum.set(channel);
    for (let i = max(0, -offset); i < other.length; i++) sum[i + offset]! += gain * other[i]!;
    return sum;
  }) as [Float32Array, Float32Array];
}

/** A sound at the rate of a drum and as loud as it. */
export function levelled(
  target: Pick<OneShot, "samples" | "rate">,
  shot: OneShot,
): [Float32Array, Float32Array] {
  const samples = resampled(shot.samples, shot.rate, target.rate);
  const gain = gainToMatch(target, samples, target.rate);
  return samples.map((channel) => channel.map((x) => gain * x)) as [Float32Array, Float32Array];
}

export interface RankedLayer extends LayerSetting {
  /** Closeness of the sum, 0–100. */
  score: number;
}

/** Share of what is missed that a sound has, dB: those with most are tried first. */
function fills(lacks: readonly Lack[], shot: OneShot): number {
  const own = shot.measures.thirdOctaves;
  let power = 1e-9;
  thirdOctaveCentres.forEach((centre, band) => {
    if (lacks.some(({ fromHz, toHz }) => centre >= fromHz / SQRT2 && centre <= toHz * SQRT2))
      power += pow(10, own[band]! / 10);
  });
  return 10 * log10(power);
}

const mostTried = 10;
const mostRefined = 4;

/**
 * The best second layers for a first sound, best first: only those that bring the sum nearer to the drum
 * than the first sound is alone.
 */
export function bestLayers<T extends { shot: OneShot }>(
  target: OneShot,
  voice: DrumVoice,
  first: OneShot,
  others: readonly T[],
): (T & RankedLayer)[] {
  const lacks = lacking(target.measures, first.measures);
  if (lacks.length === 0) return [];
  const { rate } = target;
  // What sounds on after the drum is known says nothing about the sum.
  const length = target.samples[0].length;
  const cut = ([left, right]: StereoSamples): StereoSamples => [
    left.subarray(0, length),
    right.subarray(0, length),
  ];
  const base = cut(levelled(target, first));
  const alone = closenessOf(target.measures, measureHit(base, rate, voice)).score;
  const tried = others
    .map((own) => ({ own, fill: fills(lacks, own.shot) }))
    .sort((a, b) => b.fill - a.fill)
    .slice(0, mostTried);
  return tried
    .map(({ own }) => {
      const second = cut(levelled(target, own.shot));
      const place = placed(base, second, rate);
      const at = (gainDb: Decibels) => {
        const sum = layered(base, second, rate, { ...place, gainDb });
        return { gainDb, score: closenessOf(target.measures, measureHit(sum, rate, voice)).score };
      };
      const best = gains.map(at).reduce((a, b) => (b.score > a.score ? b : a));
      return { own, place, best, at };
    })
    .sort((a, b) => b.best.score - a.best.score)
    .map(({ own, place, best, at }, i) => {
      const finer = i < mostRefined ? [best.gainDb - finerGain, best.gainDb + finerGain].map(at) : [];
      return { ...own, ...place, ...finer.reduce((a, b) => (b.score > a.score ? b : a), best) };
    })
    .filter(({ score }) => score > alone + 1)
    .sort((a, b) => b.score - a.score);
}
