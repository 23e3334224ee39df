/**
 * What the bass line is told by, fifty times a second: the low end on a scale of semitones, once in frames
 * long enough to tell low notes apart and once in frames short enough to tell when they begin, beside what
 * the drum model hears of bass and kick.
 */
import { hannWindow, loadFrame, realFft } from "../dsp/fft";
import { strokeKinds, type StrokeCurves } from "../grid/strokeCurves";
import { hertzOfPitch } from "../harmony/notes";
import type { Hertz, Seconds } from "../units";

const { ceil, floor, log10, log2, max, min, round, sqrt } = Math;

/** Frames lie this far apart. */
export const bassHop: Seconds = 0.02;

/** A scale of semitones in frames of one length. */
interface Scale {
  seconds: Seconds;
  /** MIDI note number of the first bin. */
  lowest: number;
  perSemitone: number;
  bins: number;
}
export const bassScales: readonly Scale[] = [
  { seconds: 0.32, lowest: 20, perSemitone: 2, bins: 118 },
  { seconds: 0.1, lowest: 24, perSemitone: 1, bins: 56 },
];
/** After the bins of both scales: how probably a bass note begins, and a kick. */
export const bassInputs = bassScales.reduce((sum, { bins }) => sum + bins, 0) + 2;
/** Places of bass and kick among the curves. */
const heardCurves = (["bass", "kick"] as const).map((kind) => strokeKinds.indexOf(kind));
/** Levels are compressed as log10(1 + this × magnitude ÷ effective magnitude of the track). */
const compression = 30;

/** Writes the levels of one scale into the rows. */
function addScale(
  samples: Float32Array,
  rate: Hertz,
  { seconds, lowest, perSemitone, bins }: Scale,
  rows: Float32Array,
  at: number,
): void {
  const frames = rows.length / bassInputs;
  const length = round(seconds * rate);
  const transform = realFft(2 ** ceil(log2(length)));
  const { size } = transform;
  const window = hannWindow(length);
  // Places of the edges of bins in bins of the transform, of which bin k covers k − ½ … k + ½.
  const edges = Float64Array.from({ length: bins + 1 }, (_, b) =>
    min(size / 2 - 1, (hertzOfPitch(lowest + (b - 0.5) / perSemitone) * size) / rate + 0.5),
  );
  const last = ceil(edges[bins]!);
  const sums = new Float64Array(size / 2 + 1);
  let total = 0;
  for (let frame = 0; frame < frames; frame++) {
    const first = round(frame * bassHop * rate - length / 2);
    loadFrame(transform, [samples], first, window);
    const spectrum = transform.forward();
    for (let k = 1; k <= last; k++)
      sums[k + 1] = sums[k]! + spectrum[2 * k]! ** 2 + spectrum[2 * k + 1]! ** 2;
    const upTo = (place: number) => {
      const k = floor(place);
      return sums[k]! + (place - k) * (sums[k + 1]! - sums[k]!);
    };
    let below = upTo(edges[0]!);
    const row = frame * bassInputs + at;
    for (let b = 0; b < bins; b++) {
      const above = upTo(edges[b + 1]!);
      const power = max(0, above - below);
      total += power;
      rows[row + b] = sqrt(power);
      below = above;
    }
  }
  const gain = compression / (sqrt(total / (frames * bins)) || 1);
  for (let frame = 0; frame < frames; frame++) {
    const row = frame * bassInputs + at;
    for (let b = 0; b < bins; b++) rows[row + b] = log10(1 + gain * rows[row + b]!);
  }
}

/**
 * @param samples mid of the low end without kicks, below about 900 Hz.
 * @param curves how probably strokes begin, `framesPerSecond`.
 * @returns `frames × bassInputs`; the same whatever the gain of the file.
 */
export function bassSpectra(
  samples: Float32Array,
  rate: Hertz,
  curves: StrokeCurves,
  framesPerSecond: Hertz,
): Float32Array {
  const frames = max(1, floor(samples.length / rate / bassHop));
  const rows = new Float32Array(frames * bassInputs);
  let at = 0;
  for (const scale of bassScales) {
    addScale(samples, rate, scale, rows, at);
    at += scale.bins;
  }
  // The most within half a frame to either side.
  const reach = max(1, round((bassHop * framesPerSecond) / 2));
  heardCurves.forEach((place, i) => {
    const curve = curves[place]!;
    for (let frame = 0; frame < frames; frame++) {
      const middle = round(frame * bassHop * framesPerSecond);
      let most = 0;
      for (let k = max(0, middle - reach); k <= min(curve.length - 1, middle + reach); k++)
        most = max(most, curve[k]!);
      rows[frame * bassInputs + at + i] = most;
    }
  });
  return rows;
}
