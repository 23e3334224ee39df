/**
 * One tempo for a whole track. The period comes from the autocorrelation of the onset strength;
 * which multiple of it people count as the beat is decided by a small logistic model over features
 * of each candidate; the exact value by the phase of the beat over the whole length.
 */
import { realFft } from "../dsp/fft";
import type { Bpm, Hertz } from "../units";
import { autocorrelation } from "./autocorrelation";
import { peakNear, valueAt, withoutRunningMean } from "./curve";
import { probabilities } from "./choice";
import type { OnsetRanges } from "./onset";
import { clearStrokes, strokeKinds, type StrokeCurves } from "./strokeCurves";
import type { TempoEstimate } from "./tempoEstimate";
import { tempoModel } from "./tempoModel";

const { abs, ceil, exp, log2, max, min, round, sqrt } = Math;

export const slowestBpm: Bpm = 45;
export const fastestBpm: Bpm = 230;
const longestLagSeconds = 12;

/** How many strong periods are followed up. */
const seedTempi = 3;

/** Relations between a strong period and the beat that people may count. */
const relations = [1 / 4, 1 / 3, 1 / 2, 2 / 3, 3 / 4, 1, 4 / 3, 3 / 2, 2, 3, 4];

/** A tempo that might be counted, with what speaks for it. */
export interface TempoCandidate {
  bpm: Bpm;
  features: number[];
}

interface Periodicity {
  framesPerSecond: Hertz;
  whole: Float32Array;
  low: Float32Array;
  mid: Float32Array;
  high: Float32Array;
  /** Of the strokes of hats. */
  hats: Float32Array;
  /** Strokes of each kind a second. */
  densities: number[];
}

/** Frames over which a stroke is spread, so that players need not be exact. */
const spread = 2;

/** A curve of narrow strokes made wider. */
function widened(curve: Float32Array): Float32Array {
  const wide = new Float32Array(curve.length);
  for (let i = 0; i < curve.length; i++) {
    for (let by = -spread; by <= spread; by++) {
      const value = (curve[i + by] ?? 0) * (1 - abs(by) / (spread + 1));
      if (value > wide[i]!) wide[i] = value;
    }
  }
  return wide;
}

/** Strokes a second: tops of a curve, each by its probability. */
function density(curve: Float32Array, framesPerSecond: Hertz): number {
  let sum = 0;
  for (let i = 1; i + 1 < curve.length; i++) {
    if (curve[i]! > 0 && curve[i]! >= curve[i - 1]! && curve[i]! > curve[i + 1]!) sum += curve[i]!;
  }
  return (sum * framesPerSecond) / curve.length;
}

function periodicityOf(onsets: OnsetRanges, strokeCurves: StrokeCurves | null): Periodicity {
  const { framesPerSecond, ranges } = onsets;
  const longest = min(ceil(longestLagSeconds * framesPerSecond), ranges[0]!.length - 1);
  const [low, lowMid, mid, high] = ranges.map((curve) =>
    autocorrelation(curve, longest, framesPerSecond),
  ) as [Float32Array, Float32Array, Float32Array, Float32Array];
  const whole = low.map((value, lag) => (value + lowMid[lag]! + mid[lag]! + high[lag]!) / 4);
  const clear = clearStrokes(strokeCurves, ranges[0]!.length);
  const hats = autocorrelation(widened(clear[strokeKinds.indexOf("hats")]!), longest, framesPerSecond);
  const densities = clear.map((curve) => density(curve, framesPerSecond));
  return { framesPerSecond, whole, low, mid, high, hats, densities };
}

/** Lags may be off by a frame and a bit where the tempo is not a whole number of frames. */
const lagReach = 1.5;

/** The tempi whose period and its multiples return most strongly, weighted towards those people like to count. */
function strongestBpms({ whole, framesPerSecond }: Periodicity): Bpm[] {
  const step = 1.003;
  const combs: { bpm: Bpm; value: number }[] = [];
  for (let bpm = slowestBpm; bpm <= fastestBpm; bpm *= step) {
    const lag = (60 / bpm) * framesPerSecond;
    let comb = 0;
    for (let multiple = 1; multiple <= 4; multiple++) comb += peakNear(whole, multiple * lag, lagReach);
    combs.push({ bpm, value: comb * exp(-0.5 * (log2(bpm / 125) / 0.55) ** 2) });
  }
  combs.sort((a, b) => b.value - a.value);
  const strongest: Bpm[] = [];
  for (const { bpm } of combs) {
    if (strongest.length === seedTempi) break;
    if (strongest.every((other) => abs(log2(bpm / other)) > 0.06)) strongest.push(bpm);
  }
  return strongest;
}

/** Strokes a second of a kind that count at all. */
const leastDensity = 0.1;

/** What the model looks at: the tempo itself, and how parts of the beat and of the bar return. */
function featuresOf(periodicity: Periodicity, bpm: Bpm): number[] {
  const { whole, low, mid, high, hats, densities, framesPerSecond } = periodicity;
  const beat = (60 / bpm) * framesPerSecond;
  const at = (curve: Float32Array, beats: number) => peakNear(curve, beats * beat, lagReach);
  const octaves = log2(bpm / 120);
  // How many strokes of each kind fall on a beat, in octaves; of what is hardly played that says nothing.
  const perBeat = densities.flatMap((own) => {
    if (own < leastDensity) return [0, 0];
    const many = max(-2.5, min(2.5, log2((own * 60) / bpm)));
    return [many, many * many];
  });
  return [
    octaves,
    octaves * octaves,
    max(0, octaves) ** 3,
    ...[1 / 4, 1 / 3, 1 / 2, 2 / 3, 1, 3 / 2, 2, 3, 4].map((beats) => at(whole, beats)),
    ...[1, 2, 4].map((beats) => at(low, beats)),
    ...[1, 2, 4].map((beats) => at(mid, beats)),
    ...[1 / 4, 1 / 2, 1, 2].map((beats) => at(high, beats)),
    // Tried for the other kinds as well: more weights than so few songs can settle.
    ...[1 / 4, 1 / 2, 1].map((beats) => at(hats, beats)),
    ...perBeat,
  ];
}

/** All readings of the beat worth weighing, with their features. */
export function tempoCandidates(onsets: OnsetRanges, strokes: StrokeCurves | null): TempoCandidate[] {
  const periodicity = periodicityOf(onsets, strokes);
  const spectrum = beatSpectrum(onsets);
  const candidates: Bpm[] = [];
  for (const strong of strongestBpms(periodicity).map((bpm) => refineBpm(spectrum, bpm))) {
    for (const relation of relations) {
      const bpm = strong * relation;
      if (bpm < slowestBpm || bpm > fastestBpm) continue;
      const refined = refineBpm(spectrum, bpm);
      if (candidates.every((other) => abs(other / refined - 1) > 0.02)) candidates.push(refined);
    }
  }
  return candidates.map((bpm) => ({ bpm, features: featuresOf(periodicity, bpm) }));
}

/**
 * The tempo of a track. Null where nothing repeats: silence, or under two seconds of onsets.
 *
 * Calibrated: of the answers given with a confidence near 0.8, about 80 % are right on the
 * development songs (see docs/benchmarks.md).
 *
 * @param strokes what is struck where; null where nobody has listened for it.
 */
export function estimateTempo(
  onsets: OnsetRanges,
  strokes: StrokeCurves | null = null,
): TempoEstimate | null {
  const length = onsets.ranges[0]!.length / onsets.framesPerSecond;
  if (length < 2 || onsets.ranges.every((curve) => curve.every((value) => value === 0))) return null;
  const candidates = tempoCandidates(onsets, strokes);
  const shares = probabilities(
    tempoModel,
    candidates.map((candidate) => candidate.features),
  );
  const ranked = candidates
    .map(({ bpm }, i) => ({ bpm, confidence: shares[i]! }))
    .sort((a, b) => b.confidence - a.confidence);
  const [first, ...others] = ranked.map(({ bpm, confidence }) => ({
    bpm: round(bpm * 100) / 100,
    confidence: round(confidence * 1000) / 1000,
  }));
  return { ...first!, alternatives: others.filter((o) => o.confidence >= 0.01).slice(0, 4) };
}

/**
 * The tempo that the onsets of a whole track say near one that is only roughly known.
 *
 * @param reach how far it may lie away, as a share.
 */
export const tempoNear = (onsets: OnsetRanges, near: Bpm, reach: number): Bpm =>
  refineBpm(beatSpectrum(onsets), near, reach);

/** Magnitude of the onset strength's spectrum: how much gathers at a frequency over the track. */
interface BeatSpectrum {
  magnitudes: Float32Array;
  /** Bins a hertz. */
  binsPerHertz: number;
  /** Half the spacing at which two tempi can be told apart, in BPM of the beat. */
  step: Bpm;
}

function beatSpectrum({ framesPerSecond, ranges }: OnsetRanges): BeatSpectrum {
  const length = ranges[0]!.length;
  let size = 1024;
  while (size < 8 * length) size *= 2;
  const transform = realFft(size);
  const input = transform.input();
  input.fill(0);
  for (const curve of ranges) {
    const flat = withoutRunningMean(curve, framesPerSecond);
    // Square roots keep a few very strong hits from deciding alone.
    for (let i = 0; i < length; i++) input[i]! += sqrt(flat[i]!);
  }
  const spectrum = transform.forward();
  // Nothing above eight events a beat at the fastest tempo is ever asked for.
  const bins = min(size / 2, ceil((32 * size) / framesPerSecond));
  const magnitudes = new Float32Array(bins);
  for (let i = 0; i < bins; i++) magnitudes[i] = sqrt(spectrum[2 * i]! ** 2 + spectrum[2 * i + 1]! ** 2);
  return {
    magnitudes,
    binsPerHertz: size / framesPerSecond,
    step: max(0.002, (0.6 * framesPerSecond) / length),
  };
}

/** How far from the true tempo a coarse one may be, as a share. */
const refineReach = 0.04;

/**
 * Sharpens a tempo that is right to a few percent: of all tempi near it, the one whose beats, eighths
 * and sixteenths gather the most onset strength over the whole length. The longer the track, the
 * sharper the peak.
 */
function refineBpm({ magnitudes, binsPerHertz, step }: BeatSpectrum, near: Bpm, reach = refineReach): Bpm {
  const gathered = (bpm: Bpm): number => {
    const beat = (bpm / 60) * binsPerHertz;
    return (
      valueAt(magnitudes, beat) +
      valueAt(magnitudes, 2 * beat) +
      valueAt(magnitudes, 4 * beat) +
      valueAt(magnitudes, 8 * beat) / 2
    );
  };
  let best = near;
  let bestValue = gathered(near);
  for (let bpm = near * (1 - reach); bpm <= near * (1 + reach); bpm += step) {
    const value = gathered(bpm);
    if (value > bestValue) {
      bestValue = value;
      best = bpm;
    }
  }
  const left = gathered(best - step);
  const right = gathered(best + step);
  const curvature = left - 2 * bestValue + right;
  if (curvature >= 0) return best;
  // The top of the parabola through three points; never further than to the neighbour.
  return best + step * max(-0.5, min(0.5, (0.5 * (left - right)) / curvature));
}
