/**
 * What strokes of one drum have in common: the mean of them at each sample, without those that are far
 * from it, so that what sounds beside some does not count. From this a Wiener filter takes away what
 * two halves of the strokes do not agree on, and what sounded alike before the stroke: music that
 * repeats with it.
 */
import { hannWindow, realFft } from "../dsp/fft";
import { filtered } from "../dsp/vector/filter";
import type { Fraction, Hertz } from "../units";
import type { Place, StereoSamples } from "./strokes";

const { ceil, cos, floor, max, min, PI, round, sin, sqrt } = Math;

/** A stroke that is to be averaged, and for how many samples from `at` on it is not overlaid by the next. */
export interface Entry extends Place {
  room: number;
}

export interface Average {
  samples: [Float32Array, Float32Array];
  /** Share of what is left that two halves of the strokes agree on. */
  clean: Fraction;
  /** Samples that enough strokes tell of. */
  known: number;
}

/** Strokes that must be left at a place: fewer say nothing. */
const fewest = 3;
const leastShare = 0.2;
/** Half the length of the filter that moves by a fraction of a sample. */
const reach = 12;

/** A filter that reads a fraction of a sample later, −0.5 to 0.5: a sinc under a squared cosine. */
function shiftTaps(shift: number): Float64Array {
  const taps = new Float64Array(2 * reach + 1);
  for (let k = -reach; k <= reach; k++) {
    const t = k - shift;
    const sinc = t === 0 ? 1 : sin(PI * t) / (PI * t);
    taps[k + reach] = sinc * cos((PI * k) / (2 * reach + 2)) ** 2;
  }
  return taps;
}

/** A part of one channel, moved by a fraction of a sample: sample i is at `at + shift + i`. */
export function cutOut(channel: Float32Array, at: number, shift: number, length: number): Float32Array {
  const whole = new Float32Array(length + 2 * reach);
  const from = max(0, at - reach);
  const to = min(channel.length, at + length + reach);
  if (to > from) whole.set(channel.subarray(from, to), from - (at - reach));
  return (shift === 0 ? whole : filtered(whole, shiftTaps(shift))).subarray(reach, reach + length);
}

/** Each value with the one on either side of it. */
function withNeighbours(values: Float64Array): Float64Array {
  const sums = new Float64Array(values.length);
  for (let i = 0; i < values.length; i++) sums[i] = (values[i - 1] ?? 0) + values[i]! + (values[i + 1] ?? 0);
  return sums;
}

/** What sounds before the stroke is taken away this often over. */
const overSubtraction = 2;
const frame = 1024;
const hop = 256;

/**
 * Leaves of `whole` what `halves` agree on, and what is louder than before the stroke.
 *
 * @param length of what the strokes tell of; nothing is kept behind it.
 * @param before samples ahead of the stroke.
 * @param lowest frequency that is kept, as a share of the sample rate.
 * @returns the share of the power after the stroke that is left.
 */
function keepCommon(
  whole: readonly Float32Array[],
  halves: readonly [readonly Float32Array[], readonly Float32Array[]],
  length: number,
  before: number,
  lowest: number,
): Fraction {
  const transform = realFft(frame);
  const bins = frame / 2;
  const window = hannWindow(frame).map(sqrt);
  const frames = floor((length + frame) / hop) + 1;
  const spectra = (samples: Float32Array): Float32Array => {
    const result = new Float32Array(frames * frame);
    for (let k = 0; k < frames; k++) {
      const start = k * hop - frame / 2 - hop;
      const input = transform.input();
      const end = min(frame, length - start);
      const first = min(frame, max(0, -start));
      input.fill(0);
      for (let i = first; i < end; i++) input[i] = samples[start + i]! * window[i]!;
      result.set(transform.forward(), k * frame);
    }
    return result;
  };
  let kept = 0;
  let all = 0;
  const gains = new Float32Array(frames * bins);
  const common = new Float32Array(frames * bins);
  const power = new Float32Array(frames * bins);
  // Both channels share one mask: what is common is so in both.
  whole.forEach((_, channel) => {
    const [a, b] = halves.map((half) => spectra(half[channel]!)) as [Float32Array, Float32Array];
    for (let i = 0; i < common.length; i++) {
      const [ar, ai, br, bi] = [a[2 * i]!, a[2 * i + 1]!, b[2 * i]!, b[2 * i + 1]!];
      common[i]! += ar * br + ai * bi;
      power[i]! += (ar * ar + ai * ai + br * br + bi * bi) / 2;
    }
  });
  // Frames that end before the stroke, and what all of them hold.
  const framesBefore = floor((before + hop - frame / 2) / hop) + 1;
  const background = new Float32Array(bins);
  if (framesBefore > 1) {
    background.fill(Infinity);
    for (let k = 1; k < framesBefore; k++) {
      for (let bin = 0; bin < bins; bin++) {
        const here = (power[k * bins + bin]! + power[(k - 1) * bins + bin]!) / 2;
        background[bin] = min(background[bin]!, here);
      }
    }
  }
  const near = (values: Float32Array, row: number): Float64Array => {
    const sums = new Float64Array(bins);
    for (let k = max(0, row - 1); k <= min(frames - 1, row + 1); k++)
      for (let bin = 0; bin < bins; bin++) sums[bin]! += values[k * bins + bin]!;
    return withNeighbours(sums);
  };
  const groundOfFrame = withNeighbours(Float64Array.from(background));
  for (let k = 0; k < frames; k++) {
    const both = near(common, k);
    const sum = near(power, k);
    const rows = min(frames - 1, k + 1) - max(0, k - 1) + 1;
    for (let bin = 0; bin < bins; bin++) {
      const ground = overSubtraction * rows * groundOfFrame[bin]!;
      const agreed = max(0, (both[bin]! - ground) / (sum[bin]! + 1e-20));
      // The whole has half the noise of a half.
      const place = bin / frame / lowest;
      gains[k * bins + bin] = place < 0.7 ? 0 : ((2 * agreed) / (1 + agreed)) * min(1, (place - 0.7) / 0.3);
    }
  }
  for (const channel of whole) {
    const own = spectra(channel);
    channel.fill(0);
    const scale = hop / (frame * frame * 0.5);
    for (let k = 0; k < frames; k++) {
      const start = k * hop - frame / 2 - hop;
      const spectrum = transform.spectrum();
      for (let bin = 0; bin < bins; bin++) {
        const gain = gains[k * bins + bin]!;
        const at = k * frame + 2 * bin;
        const energy = own[at]! ** 2 + own[at + 1]! ** 2;
        if (k >= framesBefore) {
          kept += gain * energy;
          all += energy;
        }
        spectrum[2 * bin] = own[at]! * gain;
        spectrum[2 * bin + 1] = own[at + 1]! * gain;
      }
      const output = transform.backward();
      for (let i = max(0, -start); i < min(frame, length - start); i++)
        channel[start + i]! += output[i]! * window[i]! * scale;
    }
  }
  return all > 0 ? kept / all : 0;
}

/** Values further than this many standard deviations from the mean do not count. */
const nearMean = 1;

/** Mean of strokes over a short time, for finding where they begin. */
export function meanStroke(
  samples: StereoSamples,
  entries: readonly Entry[],
  length: number,
): [Float32Array, Float32Array] {
  return samples.map((channel) => {
    const mean = new Float32Array(length);
    for (const { at, shift, gain } of entries) {
      const own = cutOut(channel, at, shift, length);
      for (let i = 0; i < length; i++) mean[i]! += own[i]! / (gain * entries.length);
    }
    return mean;
  }) as [Float32Array, Float32Array];
}

/** Mean over rows where they reach, at each sample, without what lies far from it. */
function robustMean(rows: readonly Float32Array[], length: number): Float32Array {
  const sums = new Float32Array(length);
  const squares = new Float32Array(length);
  const counts = new Float32Array(length);
  for (const row of rows) {
    for (let i = 0; i < row.length; i++) {
      const own = row[i]!;
      sums[i]! += own;
      squares[i]! += own * own;
    }
  }
  const means = new Float32Array(length);
  const spreads = squares;
  const ends = rows.map((row) => row.length).sort((a, b) => a - b);
  let over = 0;
  for (let i = 0; i < length; i++) {
    while (over < ends.length && ends[over]! <= i) over++;
    const count = max(1, ends.length - over);
    means[i] = sums[i]! / count;
    spreads[i] = nearMean * nearMean * max(0, squares[i]! / count - means[i]! * means[i]!);
  }
  sums.fill(0);
  counts.fill(0);
  for (const row of rows) {
    for (let i = 0; i < row.length; i++) {
      const own = row[i]!;
      const far = own - means[i]!;
      if (far * far > spreads[i]!) continue;
      sums[i]! += own;
      counts[i]!++;
    }
  }
  for (let i = 0; i < length; i++) if (counts[i]! > 0) means[i] = sums[i]! / counts[i]!;
  return means;
}

/**
 * @param samples the track, or what is left of it.
 * @param entries the clearest strokes; their gains are taken out.
 * @param length of the result, from the place of a stroke on.
 * @param before samples ahead of the places from which is heard what sounds anyway.
 * @param lowest frequency that the drum has anything at.
 */
export function averageStrokes(
  samples: StereoSamples,
  rate: Hertz,
  entries: readonly Entry[],
  length: number,
  before: number,
  lowest: Hertz,
): Average {
  const least = max(fewest, leastShare * entries.length);
  const rooms = entries.map(({ room }) => min(room, length)).sort((a, b) => b - a);
  const known = rooms[ceil(min(least, entries.length)) - 1] ?? 0;
  const rows = samples.map((channel) =>
    entries.map(({ at, shift, gain, room }) => {
      const own = cutOut(channel, at - before, shift, before + min(known, room));
      for (let i = 0; i < own.length; i++) own[i]! /= gain;
      return own;
    }),
  );
  const all = before + length;
  const halves = [0, 1].map((half) =>
    rows.map((own) =>
      robustMean(
        own.filter((_, i) => i % 2 === half),
        all,
      ),
    ),
  ) as [Float32Array[], Float32Array[]];
  const whole = rows.map((own) => robustMean(own, all));
  const clean = keepCommon(whole, halves, before + known, before, lowest / rate);
  const fade = round(min(0.02 * rate, known / 4));
  const start = round(0.001 * rate);
  const result = whole.map((channel) => {
    const own = channel.subarray(before);
    for (let i = 0; i < start; i++) own[i]! *= i / start;
    // Where what is known ends, it fades.
    for (let i = max(0, known - fade); i < known; i++) own[i]! *= (known - i) / fade;
    own.fill(0, known);
    return own;
  }) as [Float32Array, Float32Array];
  return { samples: result, clean, known };
}
