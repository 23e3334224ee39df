import { bandReader, hannWindow, loadFrame, realFft } from "../dsp/fft";
import type { Hertz } from "../units";
import { onsetRanges, type OnsetRanges } from "./onsetRanges";

export type { OnsetRanges } from "./onsetRanges";

const { abs, ceil, floor, log2, log10, max, min, round, sqrt } = Math;

/** Onset strength with what is needed to find bars. */
export interface OnsetStrength extends OnsetRanges {
  /**
   * How far the sound of the half second after each frame differs from that before it, between 80
   * and 2000 Hz: high where chords change. Mean 1, or all 0 in silence.
   */
  change: Float32Array;
  /** Logarithmic magnitudes between 80 and 2000 Hz, `frames × bandCount`, for what spans beats. */
  sound: { bandCount: number; magnitudes: Float32Array };
}

const bandsPerOctave = 12;
const lagFrames = 2;

/** A size of about 46 ms that the transform can do well: a power of two, or one and a half of it. */
function frameSize(sampleRate: Hertz): number {
  const wanted = 0.0464 * sampleRate;
  const below = 2 ** floor(log2(wanted));
  const sizes = [below, 1.5 * below, 2 * below];
  return max(
    256,
    sizes.reduce((a, b) => (abs(log2(b / wanted)) < abs(log2(a / wanted)) ? b : a)),
  );
}

/** Hop, length and number of the frames that onsets are read from; frame i is centred on i · hop. */
export function onsetFrames(sampleCount: number, sampleRate: Hertz) {
  const hop = round(sampleRate / 100);
  return {
    hop,
    size: frameSize(sampleRate),
    frames: max(1, ceil(sampleCount / hop)),
  };
}

/**
 * Onset strength by spectral flux with a maximum filter over frequency (Böck & Widmer 2013,
 * "Maximum filter vibrato suppression for onset detection"), on a logarithmic filter bank and
 * logarithmic magnitudes, about 100 frames a second. The value of frame i belongs to the time
 * i / framesPerSecond. A gain change of the whole file changes nothing.
 *
 * @param channels left and right, same length.
 * @param onProgress called with 0–1 now and then.
 * @param onSpectrum called with each frame's spectrum as `RealFft.forward` gives it, so that other
 * measures share the pass.
 */
export function onsetStrength(
  channels: readonly [Float32Array, Float32Array],
  sampleRate: Hertz,
  onProgress?: (done: number) => void,
  onSpectrum?: (spectrum: Float32Array, frame: number) => void,
): OnsetStrength {
  const { hop, size, frames } = onsetFrames(channels[0].length, sampleRate);
  const window = hannWindow(size);
  const transform = realFft(size);

  // Filter bank: neighbouring bins gathered into twelfth-octave bands, single bins at the low end.
  const binWidth = sampleRate / size;
  const edges: number[] = [max(1, round(onsetRanges[0].from / binWidth))];
  const top = min(size / 2, round(17000 / binWidth));
  while (edges[edges.length - 1]! < top) {
    const last = edges[edges.length - 1]!;
    edges.push(min(top, max(last + 1, round(last * 2 ** (1 / bandsPerOctave)))));
  }
  const bandCount = edges.length - 1;
  const rangeOfBand = Int32Array.from({ length: bandCount }, (_, b) => {
    const centre = ((edges[b]! + edges[b + 1]!) / 2) * binWidth;
    const range = onsetRanges.findIndex((r) => centre < r.to);
    return range < 0 ? onsetRanges.length - 1 : range;
  });

  // First the magnitudes of all frames, so that compression can be set against their mean.
  const magnitudes = new Float32Array(frames * bandCount);
  const readBands = bandReader(size, Int32Array.from(edges));
  for (let frame = 0; frame < frames; frame++) {
    loadFrame(transform, channels, frame * hop - size / 2, window);
    const spectrum = transform.forward();
    onSpectrum?.(spectrum, frame);
    readBands(spectrum, magnitudes, frame * bandCount);
    if (onProgress && frame % 512 === 0) onProgress(frame / frames);
  }

  let total = 0;
  for (let i = 0; i < magnitudes.length; i++) total += magnitudes[i]!;
  const mean = total / magnitudes.length;
  const ranges = onsetRanges.map(() => new Float32Array(frames));
  if (mean > 0) {
    const gain = 3 / mean;
    for (let i = 0; i < magnitudes.length; i++) magnitudes[i] = log10(1 + gain * magnitudes[i]!);
    for (let frame = lagFrames; frame < frames; frame++) {
      const row = frame * bandCount;
      const before = row - lagFrames * bandCount;
      for (let b = 0; b < bandCount; b++) {
        let past = magnitudes[before + b]!;
        if (b > 0 && magnitudes[before + b - 1]! > past) past = magnitudes[before + b - 1]!;
        if (b + 1 < bandCount && magnitudes[before + b + 1]! > past) past = magnitudes[before + b + 1]!;
        const rise = magnitudes[row + b]! - past;
        if (rise > 0) ranges[rangeOfBand[b]!]![frame]! += rise;
      }
    }
    for (const curve of ranges) {
      const curveMean = curve.reduce((a, b) => a + b, 0) / frames;
      if (curveMean > 0) for (let i = 0; i < frames; i++) curve[i]! /= curveMean;
    }
  }
  const firstBand = edges.findIndex((edge) => edge * binWidth >= 80);
  const soundBands = edges.findIndex((edge) => edge * binWidth >= 2000) - firstBand;
  const sound = new Float32Array(frames * soundBands);
  for (let frame = 0; frame < frames; frame++) {
    const row = frame * bandCount + firstBand;
    sound.set(magnitudes.subarray(row, row + soundBands), frame * soundBands);
  }
  return {
    framesPerSecond: sampleRate / hop,
    ranges,
    change: soundChange(sound, soundBands, round((0.5 * sampleRate) / hop)),
    sound: { bandCount: soundBands, magnitudes: sound },
  };
}

/** Mean magnitude of each band over the half second after a frame less that before it, as one distance. */
function soundChange(magnitudes: Float32Array, bandCount: number, reach: number): Float32Array {
  const frames = magnitudes.length / bandCount;
  const change = new Float32Array(frames);
  for (let b = 0; b < bandCount; b++) {
    let before = 0;
    let after = 0;
    for (let i = 0; i < min(reach, frames); i++) after += magnitudes[i * bandCount + b]!;
    for (let frame = 0; frame < frames; frame++) {
      change[frame]! += ((after - before) / reach) ** 2;
      const here = magnitudes[frame * bandCount + b]!;
      before += here - (frame >= reach ? magnitudes[(frame - reach) * bandCount + b]! : 0);
      after += (frame + reach < frames ? magnitudes[(frame + reach) * bandCount + b]! : 0) - here;
    }
  }
  let mean = 0;
  for (let i = 0; i < frames; i++) {
    change[i] = sqrt(change[i]!);
    mean += change[i]! / frames;
  }
  if (mean > 0) for (let i = 0; i < frames; i++) change[i]! /= mean;
  return change;
}
