/** What each bar sounds like: spectrum, level, width, onsets, and how much is pitched where. */
import { barFeatures, type BarCurves, type BarFeatures } from "../align/barFeatures";
import { barStart, type Grid } from "../grid/grid";
import { lowestPitch, pitchCount } from "../harmony/pitches";
import { energyStepsPerSecond } from "../loudness";
import { averageSpectrum, type BandMap } from "../tone/spectrum";
import { bands, twelfthCount } from "../tone/bands";
import { powerToDecibels, type Seconds } from "../units";

const { abs, floor, log2, max, min, round, sqrt } = Math;

/** Wide bands that bars are held against each other in. */
export const wideBands = 16;
const wideOf = Int32Array.from({ length: twelfthCount }, (_, b) => floor((b * wideBands) / twelfthCount));
const centres = bands(12).map(({ centre }) => centre);

/** MIDI pitches below which low, middle and high end. */
const pitchEnds = [50, 70, 96] as const;

/** Levels are kept down to so far below the loudest: dB. */
const lowestLevel = -60;

/** All whole bars of a track. Rows are bars. */
export interface BarProfile {
  /** Rhythm and harmony of the same bars. */
  features: BarFeatures;
  firstBar: number;
  count: number;
  /** When each bar begins, and when the last ends: `count + 1`. */
  starts: Float64Array;
  /** Levels of `wideBands`, dB against the loudest bar's whole power, at least −60. */
  spectra: Float32Array;
  /** K-weighted level, LUFS without gates; at least −90. */
  loudness: Float32Array;
  /** Spectral centroid on a scale of octaves, Hz; 0 in silence. */
  brightness: Float32Array;
  /** Side to mid, dB; −60 in mono. */
  width: Float32Array;
  /** Onsets heard. */
  density: Float32Array;
  /** Mean onset strength in each range, `count × ranges`. */
  onsets: Float32Array;
  onsetRanges: number;
  /** Strength of pitched sound low, middle, high, `count × 3`, against the strongest bar. */
  pitched: Float32Array;
}

export interface ProfileCurves extends BarCurves {
  bands: BandMap;
}

/** Onsets are peaks above this share of a strong one. */
const onsetShare = 0.3;
const onsetApart = 5;

/** Frames at which something new sounds in any range. */
function onsetFrames(ranges: readonly Float32Array[]): Int32Array {
  const length = ranges[0]?.length ?? 0;
  const sum = new Float32Array(length);
  for (const range of ranges) for (let i = 0; i < length; i++) sum[i]! += sqrt(range[i]!);
  const peaks: number[] = [];
  for (let i = 1; i < length - 1; i++) if (sum[i]! > sum[i - 1]! && sum[i]! >= sum[i + 1]!) peaks.push(i);
  const strong = peaks.map((i) => sum[i]!).sort((a, b) => a - b)[floor(0.9 * (peaks.length - 1))] ?? 0;
  const kept: number[] = [];
  for (const i of peaks) {
    if (sum[i]! < onsetShare * strong) continue;
    const last = kept.at(-1);
    if (last !== undefined && i - last < onsetApart) {
      if (sum[i]! > sum[last]!) kept[kept.length - 1] = i;
    } else kept.push(i);
  }
  return Int32Array.from(kept);
}

const meanOf = (curve: Float32Array, from: number, to: number): number => {
  let sum = 0;
  const first = max(0, from);
  const last = min(curve.length, to);
  for (let i = first; i < last; i++) sum += curve[i]!;
  return last > first ? sum / (last - first) : 0;
};

/** Profiles of all whole bars that lie in a file. */
export function barProfile(grid: Grid, curves: ProfileCurves, durationSeconds: Seconds): BarProfile {
  const features = barFeatures(grid, curves, durationSeconds);
  const { firstBar, count } = features;
  const starts = Float64Array.from({ length: count + 1 }, (_, b) => barStart(grid, firstBar + b));
  const ranges = curves.onsets.ranges;
  const spectra = new Float32Array(count * wideBands);
  const loudness = new Float32Array(count);
  const brightness = new Float32Array(count);
  const width = new Float32Array(count);
  const density = new Float32Array(count);
  const onsets = new Float32Array(count * ranges.length);
  const pitched = new Float32Array(count * 3);
  const fps = curves.onsets.framesPerSecond;
  const { strengths, framesPerSecond: pitchFps } = curves.pitches;
  for (const frame of onsetFrames(ranges)) {
    // An onset a little before the bar line belongs to the bar that it begins.
    const time = frame / fps + 0.03;
    let b = count;
    while (b >= 0 && starts[b]! > time) b--;
    if (b >= 0 && b < count) density[b]!++;
  }
  const powers = new Float64Array(count);
  for (let b = 0; b < count; b++) {
    const from = starts[b]!;
    const to = starts[b + 1]!;
    // Frames of the spectrum reach half a hop into their neighbours.
    const inset = min(0.5 * curves.bands.hopSeconds, 0.2 * (to - from));
    const { mid, side } = averageSpectrum(curves.bands, [{ from: from + inset, to: to - inset }]);
    let midPower = 0;
    let sidePower = 0;
    let octaves = 0;
    for (let i = 0; i < twelfthCount; i++) {
      const power = mid[i]! + side[i]!;
      midPower += mid[i]!;
      sidePower += side[i]!;
      octaves += power * log2(centres[i]!);
      spectra[b * wideBands + wideOf[i]!]! += power;
    }
    powers[b] = midPower + sidePower;
    brightness[b] = powers[b]! > 0 ? 2 ** (octaves / powers[b]!) : 0;
    width[b] = max(lowestLevel, powerToDecibels(sidePower / max(1e-20, midPower)));
    const energy = meanOf(
      curves.energies,
      round(from * energyStepsPerSecond),
      round(to * energyStepsPerSecond),
    );
    loudness[b] = max(-90, -0.691 + powerToDecibels(energy));
    for (let r = 0; r < ranges.length; r++) {
      onsets[b * ranges.length + r] = meanOf(ranges[r]!, round(from * fps), round(to * fps));
    }
    const first = max(0, round(from * pitchFps));
    const last = min(strengths.length / pitchCount, round(to * pitchFps));
    for (let frame = first; frame < last; frame++) {
      for (let p = 0; p < pitchCount; p++) {
        const height = lowestPitch + p < pitchEnds[0] ? 0 : lowestPitch + p < pitchEnds[1] ? 1 : 2;
        pitched[b * 3 + height]! += sqrt(strengths[frame * pitchCount + p]!) / max(1, last - first);
      }
    }
  }
  const loudest = powers.reduce((a, b) => max(a, b), 1e-20);
  for (let i = 0; i < spectra.length; i++) {
    spectra[i] = max(lowestLevel, powerToDecibels(spectra[i]! / loudest));
  }
  for (let height = 0; height < 3; height++) {
    let most = 1e-12;
    for (let b = 0; b < count; b++) most = max(most, pitched[b * 3 + height]!);
    for (let b = 0; b < count; b++) pitched[b * 3 + height]! /= most;
  }
  return {
    features,
    firstBar,
    count,
    starts,
    spectra,
    loudness,
    brightness,
    width,
    density,
    onsets,
    onsetRanges: ranges.length,
    pitched,
  };
}

/** Distance of the mean spectra of two runs of bars: mean absolute difference, dB. */
export function spectralDistance(
  { spectra }: BarProfile,
  a: readonly [number, number],
  b: readonly [number, number],
): number {
  let sum = 0;
  for (let w = 0; w < wideBands; w++) {
    let first = 0;
    let second = 0;
    for (let bar = a[0]; bar < a[1]; bar++) first += spectra[bar * wideBands + w]! / (a[1] - a[0]);
    for (let bar = b[0]; bar < b[1]; bar++) second += spectra[bar * wideBands + w]! / (b[1] - b[0]);
    sum += abs(first - second);
  }
  return sum / wideBands;
}
