/** What each bar sounds like: spectrum, level, width, onsets, and how much is pitched where. */
import { barFeatures, type BarCurves, type BarFeatures } from "../align/barFeatures";
import { barStart, type Grid } from "../grid/grid";
import { lowestPitch, pitchCount } from "../harmony/pitches";
import { kWeightedStepsPerSecond } from "../loudness";
import { averageSpectrum, type FractionalOctaveSpectrogram } from "../tone/spectrum";
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
  /** What the top voice does, `count × melodyFeatures`; see `topVoice`. */
  melody: Float32Array;
}

/** Numbers a bar that say whether a line moves on top. */
export const melodyFeatures = 5;
/** MIDI pitch from which on a line counts as on top. */
const topFrom = 64;

/**
 * What the strongest pitch on top does in some frames: how often it changes, how far it stands out
 * of the rest on top, how many pitches it visits, how far they are apart, and how often one pitch
 * gives way to another as in a line, rather than sounding on beside it as in a chord; each about 0 … 1.
 */
function topVoice(
  strengths: Float32Array,
  first: number,
  last: number,
  into: Float32Array,
  row: number,
): void {
  let changes = 0;
  let standing = 0;
  let sounding = 0;
  let before = -1;
  let handedOver = 0;
  const recent = [-1, -1, -1];
  const visited = new Float32Array(pitchCount);
  for (let frame = first; frame < last; frame++) {
    let top = -1;
    let most = 0;
    let whole = 0;
    for (let p = topFrom - lowestPitch; p < pitchCount; p++) {
      const strength = strengths[frame * pitchCount + p]!;
      // An octave or a twelfth above something as strong is an overtone of it.
      const below = max(strengths[frame * pitchCount + p - 12]!, strengths[frame * pitchCount + p - 19] ?? 0);
      const own = strength - 0.5 * below;
      whole += strength;
      if (own > most) {
        most = own;
        top = p;
      }
    }
    if (top < 0 || whole <= 0) {
      before = -1;
      recent.shift();
      recent.push(-1);
      continue;
    }
    const earlier = recent.shift()!;
    recent.push(top);
    if (earlier >= 0 && earlier !== top && frame >= recent.length) {
      const now = frame * pitchCount;
      const then = (frame - recent.length) * pitchCount;
      const left = strengths[now + earlier]! < 0.4 * strengths[then + earlier]!;
      const came = strengths[then + top]! < 0.4 * strengths[now + top]!;
      if (left && came) handedOver++;
    }
    sounding++;
    standing += most / whole;
    visited[top]!++;
    if (before >= 0 && top !== before) changes++;
    before = top;
  }
  if (sounding === 0) return;
  let count = 0;
  let lowest = Infinity;
  let highest = -Infinity;
  for (let p = 0; p < pitchCount; p++) {
    // Held for a tenth of the bar at least.
    if (visited[p]! < 0.1 * sounding) continue;
    count++;
    lowest = min(lowest, p);
    highest = max(highest, p);
  }
  into[row] = min(1, (3 * changes) / sounding);
  into[row + 1] = standing / sounding;
  into[row + 2] = min(1, count / 6);
  into[row + 3] = count > 0 ? min(1, (highest - lowest) / 24) : 0;
  into[row + 4] = min(1, handedOver / sounding);
}

export interface ProfileCurves extends BarCurves {
  bands: FractionalOctaveSpectrogram;
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
  const melody = new Float32Array(count * melodyFeatures);
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
      curves.kWeightedMeanSquares,
      round(from * kWeightedStepsPerSecond),
      round(to * kWeightedStepsPerSecond),
    );
    loudness[b] = max(-90, -0.691 + powerToDecibels(energy));
    for (let r = 0; r < ranges.length; r++) {
      onsets[b * ranges.length + r] = meanOf(ranges[r]!, round(from * fps), round(to * fps));
    }
    const first = max(0, round(from * pitchFps));
    const last = min(strengths.length / pitchCount, round(to * pitchFps));
    topVoice(strengths, first, last, melody, b * melodyFeatures);
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
    melody,
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
