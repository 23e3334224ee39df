/** The registry of curves: every long curve that is kept of a file, with its type, rate and origin. */
import { combinedStrength } from "../grid/beats";
import { onsetRanges } from "../grid/onsetRanges";
import { kWeightedStepsPerSecond, levelStepsPerSecond } from "../loudness";
import { twelfthCount, type FractionalOctaveSpectrogram } from "../tone";
import type { Hertz, Seconds } from "../units";
import type { TrackCurves } from "./result";

interface Curve {
  type: "float32" | "uint8";
  /** Steps a second; 0 where it follows from the sample rate of the file. */
  rate(curves: TrackCurves): Hertz;
  data(curves: TrackCurves): Float32Array | Uint8Array;
}

const float32 = (
  rate: (curves: TrackCurves) => Hertz,
  data: (curves: TrackCurves) => Float32Array,
): Curve => ({
  type: "float32",
  rate,
  data,
});

const onsetCurves = Object.fromEntries(
  onsetRanges.map((_, i) => [
    `onsets${i}`,
    float32(
      ({ onsets }) => onsets.framesPerSecond,
      ({ onsets }) => onsets.ranges[i]!,
    ),
  ]),
) as Record<`onsets${number}`, Curve>;

export const curveRegistry = {
  /** K-weighted mean square of each 10 ms (ITU-R BS.1770), from which the loudness of any span follows. */
  kWeightedMeanSquares: float32(
    () => kWeightedStepsPerSecond,
    ({ levels }) => levels.kWeightedMeanSquares,
  ),
  /** Mean square of each 100 ms. */
  meanSquares: float32(
    () => levelStepsPerSecond,
    ({ levels }) => levels.meanSquares,
  ),
  /** True peak of each 100 ms, linear. */
  truePeaks: float32(
    () => levelStepsPerSecond,
    ({ levels }) => levels.truePeaks,
  ),
  /** Power per twelfth-octave band of mid and of side, and what they have in common: `frames × twelfthCount`. */
  bandsMid: float32(
    ({ bands }) => 1 / bands.hopSeconds,
    ({ bands }) => bands.mid,
  ),
  bandsSide: float32(
    ({ bands }) => 1 / bands.hopSeconds,
    ({ bands }) => bands.side,
  ),
  bandsCross: float32(
    ({ bands }) => 1 / bands.hopSeconds,
    ({ bands }) => bands.cross,
  ),
  /** Levels of left and right in 21 bands every 10 ms; see `BandEnvelopes`. */
  envelopes: {
    type: "uint8",
    rate: ({ envelopes }) => envelopes.framesPerSecond,
    data: ({ envelopes }) => envelopes.levels,
  },
  /** Samples below some 250 Hz: kicks and the rest of the mid apart, and the side; see `LowEnd`. */
  lowKick: float32(
    ({ lowEnd }) => lowEnd.rate,
    ({ lowEnd }) => lowEnd.kick,
  ),
  lowRest: float32(
    ({ lowEnd }) => lowEnd.rate,
    ({ lowEnd }) => lowEnd.rest,
  ),
  lowSide: float32(
    ({ lowEnd }) => lowEnd.rate,
    ({ lowEnd }) => lowEnd.side,
  ),
  /** Onset strength of each range. */
  ...onsetCurves,
  /** Onset strength over all ranges, for drawing. */
  onsetStrength: float32(
    ({ onsets }) => onsets.framesPerSecond,
    ({ onsets }) => combinedStrength(onsets),
  ),
  /** Pitch salience: `frames × pitchCount`. */
  pitchSalience: float32(
    ({ pitches }) => pitches.framesPerSecond,
    ({ pitches }) => pitches.strengths,
  ),
  /** Waveform: two bytes a block of 128 samples, peak then RMS. */
  overview: { type: "uint8", rate: () => 0, data: ({ overview }) => overview },
} satisfies Record<string, Curve>;

export type CurveName = keyof typeof curveRegistry;
export const curveNames = Object.keys(curveRegistry) as CurveName[];
export const isCurveName = (name: string): name is CurveName => Object.hasOwn(curveRegistry, name);

/** A curve as it is read back; that of the other type is empty. */
export interface ReadCurve {
  data: Float32Array;
  bytes: Uint8Array;
  rate: Hertz;
}

export type ReadCurves = (name: CurveName) => ReadCurve;

export const onsetNames = onsetRanges.map((_, i) => `onsets${i}` as CurveName);
/** What spans are measured from. */
export const spanCurveNames: readonly CurveName[] = [
  "kWeightedMeanSquares",
  "meanSquares",
  "truePeaks",
  "bandsMid",
  "bandsSide",
  "bandsCross",
  "envelopes",
];

/** The inverse of the registry for what spans are measured from. */
export function spanCurvesFrom(
  curve: ReadCurves,
  durationSeconds: Seconds,
): Pick<TrackCurves, "levels" | "bands" | "envelopes"> {
  const mid = curve("bandsMid");
  const bands: FractionalOctaveSpectrogram = {
    hopSeconds: 1 / mid.rate,
    frames: mid.data.length / twelfthCount,
    durationSeconds,
    mid: mid.data,
    side: curve("bandsSide").data,
    cross: curve("bandsCross").data,
  };
  return {
    levels: {
      kWeightedMeanSquares: curve("kWeightedMeanSquares").data,
      meanSquares: curve("meanSquares").data,
      truePeaks: curve("truePeaks").data,
    },
    bands,
    envelopes: { framesPerSecond: curve("envelopes").rate, levels: curve("envelopes").bytes },
  };
}

/** The inverse of the registry for onset strength. */
export const onsetsFrom = (curve: ReadCurves): Pick<TrackCurves["onsets"], "framesPerSecond" | "ranges"> => ({
  framesPerSecond: curve(onsetNames[0]!).rate,
  ranges: onsetNames.map((name) => curve(name).data),
});
