/**
 * Loudness, dynamics and peaks after ITU-R BS.1770-5, EBU R 128 and EBU Tech 3341/3342: first the
 * curves of a whole file, then the measures of any span of them.
 */
import type { Signal } from "../audio/signal";
import {
  amplitudeToDecibels,
  finiteOrNull,
  powerToDecibels,
  type Dbtp,
  type Decibels,
  type Hertz,
  type LoudnessUnits,
  type Lufs,
  type Seconds,
  type Span,
} from "../units";
import { integratedLoudness, loudnessRange, maxMomentary, maxShortTerm } from "./measures";
import { kWeightedStepsPerSecond, levelStepsPerSecond, sweepLevels, type LevelSweep } from "./sweep";
import { truePeaks } from "./truePeak";

export * from "./measures";
export { kWeightedStepsPerSecond, levelStepsPerSecond, mostClippedPlaces, sweepLevels } from "./sweep";
export { truePeaks } from "./truePeak";

/** Level curves of a whole file; see `LevelSweep` for the shapes. */
export interface LevelCurves extends LevelSweep {
  /** True peak of each 100 ms, linear. */
  truePeaks: Float32Array;
}

/** Loudness measures of a span. Null where a measure has no meaning: silence, or too short. */
export interface LoudnessMeasures {
  integratedLufs: Lufs | null;
  loudnessRangeLu: LoudnessUnits | null;
  truePeakDbtp: Dbtp | null;
  maxMomentaryLufs: Lufs | null;
  maxShortTermLufs: Lufs | null;
  /** True peak less integrated loudness. */
  peakToLoudnessLu: LoudnessUnits | null;
  /** True peak less effective (RMS) level. */
  crestFactorDb: Decibels | null;
  /** Length of the span that was measured. */
  measuredSeconds: Seconds;
}

/** All level curves of a signal; two passes over the samples. */
export function levelCurves(signal: Signal): LevelCurves {
  return { ...sweepLevels(signal), truePeaks: truePeaks(signal) };
}

/** The parts of a curve that lie in spans of time, one after the other. */
export function cutOut(curve: Float32Array, stepsPerSecond: Hertz, spans: readonly Span[]): Float32Array {
  const parts = spans.map(({ from, to }) =>
    curve.subarray(
      Math.max(0, Math.floor(from * stepsPerSecond + 1e-6)),
      Math.max(0, Math.ceil(to * stepsPerSecond - 1e-6)),
    ),
  );
  const whole = new Float32Array(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    whole.set(part, at);
    at += part.length;
  }
  return whole;
}

/** Loudness measures of the whole file, or of some spans of it as if they were played in a row. */
export function measureLoudness(
  curves: Pick<LevelCurves, "kWeightedMeanSquares" | "meanSquares" | "truePeaks">,
  spans: readonly Span[] | null = null,
): LoudnessMeasures {
  const cut = (curve: Float32Array, stepsPerSecond: Hertz) =>
    spans ? cutOut(curve, stepsPerSecond, spans) : curve;
  const kWeightedMeanSquares = cut(curves.kWeightedMeanSquares, kWeightedStepsPerSecond);
  const peak = cut(curves.truePeaks, levelStepsPerSecond).reduce((a, b) => Math.max(a, b), 0);
  const squares = cut(curves.meanSquares, levelStepsPerSecond);
  const meanSquare = squares.reduce((a, b) => a + b, 0) / Math.max(1, squares.length);
  const integratedLufs = integratedLoudness(kWeightedMeanSquares);
  const truePeakDbtp = finiteOrNull(amplitudeToDecibels(peak));
  const rms = finiteOrNull(powerToDecibels(meanSquare));
  return {
    integratedLufs,
    loudnessRangeLu: loudnessRange(kWeightedMeanSquares),
    truePeakDbtp,
    maxMomentaryLufs: maxMomentary(kWeightedMeanSquares),
    maxShortTermLufs: maxShortTerm(kWeightedMeanSquares),
    peakToLoudnessLu: integratedLufs === null || truePeakDbtp === null ? null : truePeakDbtp - integratedLufs,
    crestFactorDb: rms === null || truePeakDbtp === null ? null : truePeakDbtp - rms,
    measuredSeconds: kWeightedMeanSquares.length / kWeightedStepsPerSecond,
  };
}
