import { lengthOf, type Signal } from "../audio/signal";
import type { Seconds } from "../units";
import { channelWeight, kWeighting } from "./kWeighting";

const { floor, round } = Math;

/** Steps a second of the K-weighted energy curve. */
export const kWeightedStepsPerSecond = 100;
/** Steps a second of the coarse level curves (true peak, mean square). */
export const levelStepsPerSecond = 10;

/** Neighbouring samples of one channel at full scale. */
export interface ClippedRun {
  start: Seconds;
  samples: number;
}

/**
 * What one pass over the samples yields for everything about level. Every loudness measure, of the
 * whole or of any span, is computed from these curves without touching the samples again.
 */
export interface LevelSweep {
  /** K-weighted, channel-weighted mean square of each 10 ms, linear. Incomplete last step dropped. */
  kWeightedMeanSquares: Float32Array;
  /** Unweighted mean square of each 100 ms, mean over the channels, linear. */
  meanSquares: Float32Array;
  /** Largest sample magnitude over all channels. */
  samplePeak: number;
  /** Runs of at least three neighbouring samples of one channel at full scale. */
  clippedRuns: number;
  /** The first `mostClippedPlaces` of them, in order. */
  clippedPlaces: ClippedRun[];
  /** Mean of each channel, full scale = 1. */
  dcOffsets: number[];
}

/** Magnitude from which a sample counts as being at full scale: 16-bit full scale less one step. */
const fullScale = 32766 / 32768;
const shortestClippedRun = 3;

/** Places that are kept of all clipped runs. */
export const mostClippedPlaces = 500;

/** Counts runs at full scale and adds where they begin, in samples, to `places` as long as there is room. */
function runsAtFullScale(samples: Float32Array, places: { at: number; samples: number }[]): number {
  let runs = 0;
  let run = 0;
  for (let i = 0; i <= samples.length; i++) {
    const x = samples[i] ?? 0;
    if (x >= fullScale || -x >= fullScale) run++;
    else {
      if (run >= shortestClippedRun && runs++ < mostClippedPlaces) places.push({ at: i - run, samples: run });
      run = 0;
    }
  }
  return runs;
}

/** One pass over all samples: K-weighted energy, mean square, peak, clipping, DC offset. */
export function sweepLevels(signal: Signal): LevelSweep {
  const { sampleRate, channels, layout } = signal;
  const length = lengthOf(signal);
  const stepCount = floor((length * kWeightedStepsPerSecond) / sampleRate);
  const coarseCount = floor((length * levelStepsPerSecond) / sampleRate);
  const kWeightedMeanSquares = new Float64Array(stepCount);
  const meanSquares = new Float64Array(coarseCount);
  const { shelf, highPass } = kWeighting(sampleRate);
  const dcOffsets: number[] = [];
  let samplePeak = 0;
  let clippedRuns = 0;
  const clipped: { at: number; samples: number }[] = [];

  channels.forEach((samples, c) => {
    const weight = channelWeight(layout[c]!);
    const { b0, b1, b2, a1, a2 } = shelf;
    const { a1: c1, a2: c2 } = highPass;
    let s1 = 0;
    let s2 = 0;
    let h1 = 0;
    let h2 = 0;
    let sum = 0;
    let peak = 0;
    let at = 0;
    for (let step = 0; step <= stepCount; step++) {
      const end = step === stepCount ? length : round(((step + 1) * sampleRate) / kWeightedStepsPerSecond);
      const count = end - at;
      let weighted = 0;
      let plain = 0;
      for (; at < end; at++) {
        const x = samples[at]!;
        const y = b0 * x + s1;
        s1 = b1 * x - a1 * y + s2;
        s2 = b2 * x - a2 * y;
        const z = y + h1;
        h1 = -2 * y - c1 * z + h2;
        h2 = y - c2 * z;
        weighted += z * z;
        plain += x * x;
        sum += x;
        const magnitude = x < 0 ? -x : x;
        if (magnitude > peak) peak = magnitude;
      }
      if (step < stepCount) {
        kWeightedMeanSquares[step]! += (weight * weighted) / count;
        const coarse = floor(step / (kWeightedStepsPerSecond / levelStepsPerSecond));
        if (coarse < coarseCount) {
          meanSquares[coarse]! +=
            (plain / count / channels.length) * (levelStepsPerSecond / kWeightedStepsPerSecond);
        }
      }
    }
    if (peak > samplePeak) samplePeak = peak;
    if (peak >= fullScale) clippedRuns += runsAtFullScale(samples, clipped);
    dcOffsets.push(length > 0 ? sum / length : 0);
  });

  return {
    kWeightedMeanSquares: Float32Array.from(kWeightedMeanSquares),
    meanSquares: Float32Array.from(meanSquares),
    samplePeak,
    clippedRuns,
    clippedPlaces: clipped
      .sort((a, b) => a.at - b.at)
      .slice(0, mostClippedPlaces)
      .map(({ at, samples }) => ({ start: at / sampleRate, samples })),
    dcOffsets,
  };
}
