/** The pitch of a single stroke: where its body rings, and what glides to it. */
import { filtered, lowPassTaps } from "../dsp/vector/filter";
import type { Decibels, Hertz } from "../units";

const { atan2, cos, exp, floor, log2, max, min, PI, pow, round, sin } = Math;

export interface DrumPitch {
  /** Null where the voice has no pitch, or nothing stands out. */
  fundamentalHz: Hertz | null;
  /** From its beginning on, semitones; null where it does not glide. */
  glideSemitones: number | null;
}

export const noPitch: DrumPitch = { fundamentalHz: null, glideSemitones: null };

const tenths = (value: number): number => round(10 * value) / 10;

export const peakOf = (envelope: Float32Array): number =>
  envelope.reduce((best, value, i) => (value > envelope[best]! ? i : best), 0);

/** Pitch over time within a range: phase of the band moved to 0 Hz, and its power, every millisecond. */
function pitchTrack(samples: Float32Array, rate: Hertz, [low, high]: readonly [Hertz, Hertz]): PitchTrack {
  const middle = (low + high) / 2;
  const half = (high - low) / 2;
  const factor = max(1, floor(rate / max(8 * high, 2000)));
  const real = new Float32Array(samples.length);
  const imaginary = new Float32Array(samples.length);
  const turn = (2 * PI * middle) / rate;
  for (let i = 0; i < samples.length; i++) {
    real[i] = samples[i]! * cos(turn * i);
    imaginary[i] = -samples[i]! * sin(turn * i);
  }
  const taps = lowPassTaps((1.1 * half) / rate, (0.8 * half) / rate);
  const own = rate / factor;
  const [a, b] = [filtered(real, taps, factor), filtered(imaginary, taps, factor)];
  const pitch = new Float32Array(a.length);
  const power = new Float32Array(a.length);
  for (let i = 1; i < a.length; i++) {
    const re = a[i]! * a[i - 1]! + b[i]! * b[i - 1]!;
    const im = b[i]! * a[i - 1]! - a[i]! * b[i - 1]!;
    pitch[i] = middle + (atan2(im, re) * own) / (2 * PI);
    power[i] = a[i]! * a[i]! + b[i]! * b[i]!;
  }
  // Every millisecond, weighted by power over two.
  const frames = floor((1000 * samples.length) / rate);
  const result = { pitch: new Float32Array(frames), power: new Float32Array(frames) };
  for (let frame = 0; frame < frames; frame++) {
    const [from, to] = [floor((frame * own) / 1000), min(a.length, floor(((frame + 2) * own) / 1000) + 1)];
    let sum = 0;
    let weight = 0;
    for (let i = max(1, from); i < to; i++) {
      sum += pitch[i]! * power[i]!;
      weight += power[i]!;
    }
    result.pitch[frame] = weight > 0 ? sum / weight : 0;
    result.power[frame] = weight / max(1, to - from);
  }
  return result;
}

interface PitchTrack {
  pitch: Float32Array;
  power: Float32Array;
}

/** Frames from a peak on until the power has fallen by some decibels. */
function fallen({ power }: PitchTrack, peak: number, fall: Decibels): number {
  let end = peak;
  while (end < power.length && power[end]! > power[peak]! * pow(10, -fall / 10)) end++;
  return end;
}

/** Where a pitch that falls exponentially settles: the best fit over some time constants, weighted by power. */
function settledPitch(track: PitchTrack, peak: number): Hertz {
  const end = fallen(track, peak, 25);
  let least = Infinity;
  let settled = 0;
  for (let i = 0; i < 16; i++) {
    const constant = 6 * pow(30, i / 15);
    let [w0, w1, w2, p0, p1, p2] = [0, 0, 0, 0, 0, 0];
    for (let k = peak; k < end; k++) {
      const weight = track.power[k]!;
      const fall = exp(-(k - peak) / constant);
      const pitch = track.pitch[k]!;
      w0 += weight;
      w1 += weight * fall;
      w2 += weight * fall * fall;
      p0 += weight * pitch;
      p1 += weight * fall * pitch;
      p2 += weight * pitch * pitch;
    }
    // A small ridge keeps a long fall from being made of a short piece.
    w2 += 0.002 * w0;
    const own = (p0 * w2 - p1 * w1) / (w0 * w2 - w1 * w1);
    const more = (w0 * p1 - w1 * p0) / (w0 * w2 - w1 * w1);
    const error = p2 - own * p0 - more * p1;
    if (error < least) [least, settled] = [error, own];
  }
  return settled;
}

/** Median of the pitch, by power, in the later half of what is loud. */
function latePitch(track: PitchTrack, peak: number): Hertz {
  const end = fallen(track, peak, 15);
  const frames = Array.from({ length: end - peak }, (_, i) => peak + i).slice(floor((end - peak) / 2));
  frames.sort((a, b) => track.pitch[a]! - track.pitch[b]!);
  const whole = frames.reduce((sum, k) => sum + track.power[k]!, 0);
  let sum = 0;
  const middle = frames.find((k) => (sum += track.power[k]!) >= whole / 2);
  return middle === undefined ? 0 : track.pitch[middle]!;
}

/**
 * The pitch that a drum settles to, and how far it moves there.
 *
 * @param samples from the stroke on.
 * @param about where its body is strongest, Hz.
 * @param glides whether its pitch falls all the way, as that of kicks and toms.
 */
export function pitchNear(samples: Float32Array, rate: Hertz, about: Hertz, glides: boolean): DrumPitch {
  const track = pitchTrack(samples, rate, [max(10, about / 1.8), about * 1.8]);
  const peak = peakOf(track.power);
  const fundamentalHz = glides ? settledPitch(track, peak) : latePitch(track, peak);
  if (!(fundamentalHz > 0)) return noPitch;
  const rounded = round(100 * fundamentalHz) / 100;
  if (!glides) return { fundamentalHz: rounded, glideSemitones: null };
  // At its beginning it is looked for over a wider range.
  const wide = pitchTrack(samples, rate, [max(10, fundamentalHz / 2), fundamentalHz * 7]);
  const loudest = peakOf(wide.power);
  let start = 0;
  while (start < loudest && wide.power[start]! < 0.1 * wide.power[loudest]!) start++;
  const begin = wide.pitch[min(wide.pitch.length - 1, start + 2)]!;
  return {
    fundamentalHz: rounded,
    glideSemitones: begin > 0 ? tenths(12 * log2(fundamentalHz / begin)) : null,
  };
}
