/** Measures what a single hit is like: its pitch, its envelope, its sound. */
import { hannWindow, realFft } from "../dsp/fft";
import { filtered, lowPassTaps } from "../dsp/vector/filter";
import type { DrumVoice } from "../drums/voices";
import type { Decibels, Fraction, Hertz, Milliseconds } from "../units";
import { hitBands, thirdOctaveCentres, type HitMeasures } from "./hitMeasures";
import type { StereoSamples } from "./strokes";

const { abs, atan2, cos, exp, floor, log, log10, log2, max, min, PI, pow, round, sin, SQRT2, sqrt } = Math;

/** Where the pitch of each voice's body is looked for. */
const pitchRange: Partial<Record<DrumVoice, readonly [Hertz, Hertz]>> = {
  kick: [25, 180],
  tom: [45, 450],
  snare: [100, 500],
  rim: [200, 2500],
  perc: [80, 3000],
};

const step: Milliseconds = 1;
const toDecibels = (power: number): Decibels => 10 * log10(max(power, 1e-14));
const tenths = (value: number): number => round(10 * value) / 10;

/** Power every millisecond over some milliseconds around it. */
function envelopeOf(samples: Float32Array, rate: Hertz, width: Milliseconds): Float32Array {
  const sums = new Float64Array(samples.length + 1);
  for (let i = 0; i < samples.length; i++) sums[i + 1] = sums[i]! + samples[i]! * samples[i]!;
  const frames = floor((1000 * samples.length) / rate / step);
  const half = max(1, round((width * rate) / 2000));
  const envelope = new Float32Array(frames);
  for (let frame = 0; frame < frames; frame++) {
    const middle = round((frame * step * rate) / 1000);
    const [from, to] = [max(0, middle - half), min(samples.length, middle + half)];
    envelope[frame] = max(0, sums[to]! - sums[from]!) / max(1, to - from);
  }
  return envelope;
}

const peakOf = (envelope: Float32Array): number =>
  envelope.reduce((best, value, i) => (value > envelope[best]! ? i : best), 0);

/** It has fallen where it stays below for so long: what sounds later is something else. */
const staysFallen: Milliseconds = 40;

/** Time from a peak until the level has fallen by some decibels; between frames by a line. */
function fallTime(envelope: Float32Array, peak: number, fall: Decibels, known: number): Milliseconds | null {
  const threshold = envelope[peak]! * pow(10, -fall / 10);
  let last = peak;
  for (let k = peak; k < known && k - last <= staysFallen / step; k++)
    if (envelope[k]! >= threshold) last = k;
  if (last >= known - 1) return null;
  const [a, b] = [toDecibels(envelope[last]!), toDecibels(envelope[last + 1]!)];
  const part = a > b ? (a - toDecibels(threshold)) / (a - b) : 0;
  return tenths((last - peak + min(1, max(0, part))) * step);
}

const decayOf = (envelope: Float32Array, known: number) => {
  const peak = peakOf(envelope);
  return {
    to20: fallTime(envelope, peak, 20, known),
    to40: fallTime(envelope, peak, 40, known),
  };
};

/** Spectrum over the whole hit: power of each bin. */
function powerSpectrum(samples: Float32Array, size: number): Float32Array {
  const transform = realFft(size);
  const power = new Float32Array(size / 2);
  // Pieces half over one another where the hit is longer than the transform.
  const window = hannWindow(size);
  for (let start = -size / 2; start < samples.length - size / 4; start += size / 2) {
    const input = transform.input();
    for (let i = 0; i < size; i++) input[i] = (samples[start + i] ?? 0) * window[i]!;
    const spectrum = transform.forward();
    for (let bin = 1; bin < size / 2; bin++)
      power[bin]! +=
        spectrum[2 * bin]! * spectrum[2 * bin]! + spectrum[2 * bin + 1]! * spectrum[2 * bin + 1]!;
  }
  return power;
}

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

/** Voices whose pitch falls all the way. */
const glides: readonly DrumVoice[] = ["kick", "tom"];

/** Frames from a peak on until the power has fallen by some decibels. */
function fallen({ power }: PitchTrack, peak: number, fall: Decibels): number {
  let end = peak;
  while (end < power.length && power[end]! > power[peak]! * pow(10, -fall / 10)) end++;
  return end;
}

/**
 * A pitch that falls exponentially stays on average this near to the fit, as a share of itself, and its level
 * rises no more than so on its way; both measured on synthesised and on recorded kicks, out of mixes.
 */
const largestResidual: Fraction = 0.095;
const largestRise: Decibels = 12;
/** Of a short kick as much is looked at, in frames. */
const shortBody = 60;

/** By how much the power of what is loud rises again at most after it has fallen. */
function risenAgain({ power }: PitchTrack, peak: number, end: number): Decibels {
  let [least, rise] = [Infinity, 1];
  for (let k = peak; k < min(end, power.length); k++) {
    least = min(least, power[k]!);
    rise = max(rise, power[k]! / least);
  }
  return toDecibels(rise);
}

/**
 * Where a pitch that falls exponentially settles: the best fit over some time constants, weighted by power;
 * 0 where it does not fall so. Struck skins sound at several pitches at once, which beat.
 */
function settledPitch(track: PitchTrack, peak: number): Hertz {
  if (risenAgain(track, peak, max(fallen(track, peak, 15), peak + shortBody)) > largestRise) return 0;
  const end = fallen(track, peak, 25);
  let least = Infinity;
  let settled = 0;
  let whole = 1;
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
    if (error < least) [least, settled, whole] = [error, own, w0];
  }
  return sqrt(max(0, least) / whole) < largestResidual * settled ? settled : 0;
}

/** The body of a drum is what is left after its attack; of two pitches of one skin it is told from several places on. */
const skips: readonly Milliseconds[] = [10, 15, 20, 25];

/** A peak of the spectrum is the highest place so far to either side; one not much weaker than the strongest counts as much. */
const peakReach: Hertz = 15;
const aboutAsStrong: Fraction = pow(10, -6 / 10);

/** Place of the top of a spectrum between its bins, by a parabola through logarithms of power. */
function topBetween(spectrum: Float64Array, top: number): number {
  const [a, b, c] = [top - 1, top, top + 1].map((bin) => log(spectrum[bin]! + 1e-30)) as [
    number,
    number,
    number,
  ];
  const bend = a - 2 * b + c;
  return top + (bend < 0 ? (0.5 * (a - c)) / bend : 0);
}

/**
 * The pitch that a drum settles to, and how far it moves there.
 *
 * @param begin when it is struck.
 */
function pitchOf(samples: Float32Array, rate: Hertz, voice: DrumVoice, begin: Milliseconds) {
  const none = { fundamentalHz: null, glideSemitones: null };
  const range = pitchRange[voice];
  if (!range) return none;
  // The strongest place of the spectrum first: the body, and not what lies beside it.
  const size = 1 << (32 - Math.clz32(max(1024, round(0.2 * rate)) - 1));
  const transform = realFft(size);
  const spectrum = new Float64Array(size / 2);
  for (const skipped of skips) {
    const input = transform.input();
    input.fill(0);
    const first = round(((begin + skipped) * rate) / 1000);
    const used = min(samples.length - first, size);
    for (let i = 0; i < used; i++)
      input[i] = samples[first + i]! * (0.5 + 0.5 * cos((PI * i) / used)) * min(1, i / (0.003 * rate));
    const own = transform.forward();
    for (let bin = 1; bin < size / 2; bin++) spectrum[bin]! += own[2 * bin]! ** 2 + own[2 * bin + 1]! ** 2;
  }
  const width = rate / size;
  let best = 0;
  let all = 0;
  const [lowest, highest] = [round(range[0] / width), min(size / 2 - 2, round(range[1] / width))];
  for (let bin = lowest; bin <= highest; bin++) {
    all += spectrum[bin]! / (highest - lowest + 1);
    if (best === 0 || spectrum[bin]! > spectrum[best]!) best = bin;
  }
  // Noise has no place that stands out, silence none at all.
  if (!(spectrum[best]! > (voice === "kick" ? 0 : 9 * all))) return none;
  // Of two that are about as strong, the lower one is the pitch.
  const reach = round(peakReach / width);
  const isPeak = (bin: number) => {
    for (let other = bin - reach; other <= bin + reach; other++)
      if (spectrum[other]! > spectrum[bin]!) return false;
    return true;
  };
  let main = lowest;
  while (main < best && !(spectrum[main]! > aboutAsStrong * spectrum[best]! && isPeak(main))) main++;
  const resonance = topBetween(spectrum, main) * width;
  const rounded = (hertz: Hertz) => round(100 * hertz) / 100;
  if (!glides.includes(voice)) return { fundamentalHz: rounded(resonance), glideSemitones: null };
  const about = best * width;
  const track = pitchTrack(samples, rate, [max(10, about / 1.8), about * 1.8]);
  const fundamentalHz = settledPitch(track, peakOf(track.power)) || resonance;
  // At its beginning it is looked for over a wider range.
  const wide = pitchTrack(samples, rate, [max(10, fundamentalHz / 2), fundamentalHz * 7]);
  const loudest = peakOf(wide.power);
  let start = 0;
  while (start < loudest && wide.power[start]! < 0.1 * wide.power[loudest]!) start++;
  const first = wide.pitch[min(wide.pitch.length - 1, start + 2)]!;
  return {
    fundamentalHz: rounded(fundamentalHz),
    glideSemitones: first > 0 ? tenths(12 * log2(fundamentalHz / first)) : null,
  };
}

/**
 * @param samples left and right from the stroke, or a little ahead of it, on.
 * @param knownSeconds how much of it is known; what follows is overlaid or silent.
 */
export function measureHit(
  [left, right]: StereoSamples,
  rate: Hertz,
  voice: DrumVoice,
  knownSeconds = left.length / rate,
): HitMeasures {
  const mono = left.map((x, i) => (x + right[i]!) / 2);
  const knownFrames = (frames: number) => min(frames, floor(1000 * knownSeconds));
  const envelope = envelopeOf(mono, rate, 4);
  const peak = peakOf(envelope);
  const known = knownFrames(envelope.length);
  // The attack is read more finely: from a tenth of the peak on.
  const fine = envelopeOf(mono, rate, 1.5);
  let top = peak;
  for (let k = max(0, peak - 3); k < min(fine.length, peak + 4); k++) if (fine[k]! > fine[top]!) top = k;
  let begin = top;
  while (begin > 0 && fine[begin - 1]! > 0.01 * fine[top]!) begin--;
  let reached = begin;
  while (reached < top && fine[reached]! < 0.8 * fine[top]!) reached++;

  const size = 4096 * (rate > 50000 ? 2 : 1);
  const spectrum = powerSpectrum(mono, size);
  const width = rate / size;
  let all = 0;
  let weighted = 0;
  let logarithms = 0;
  let sum = 0;
  let count = 0;
  for (let bin = 1; bin < size / 2; bin++) {
    all += spectrum[bin]!;
    weighted += spectrum[bin]! * bin * width;
    if (bin * width < 100 || bin * width > 16000) continue;
    logarithms += log(spectrum[bin]! + 1e-20);
    sum += spectrum[bin]!;
    count++;
  }
  const thirdOctaves = thirdOctaveCentres.map((centre) => {
    const [from, to] = [centre * pow(2, -1 / 6), centre * pow(2, 1 / 6)];
    let power = 0;
    for (let bin = floor(from / width); bin <= min(size / 2 - 1, floor(to / width)); bin++) {
      // Bins count as far as they lie in the band.
      const share = (min(to, (bin + 1) * width) - max(from, bin * width)) / width;
      if (bin > 0) power += max(0, share) * spectrum[bin]!;
    }
    return tenths(max(-120, toDecibels(power / (all + 1e-30))));
  });

  const levels: (Float32Array | null)[] = hitBands.map((centre) => {
    if (centre * SQRT2 > rate / 2) return null;
    // Low bands are filtered at a lower rate.
    const factor = max(1, floor(rate / (8 * centre)));
    const own = rate / factor;
    const a = filtered(mono, lowPassTaps((centre * SQRT2) / rate, (0.6 * centre) / rate), factor);
    const b = filtered(a, lowPassTaps(centre / SQRT2 / own, (0.4 * centre) / own));
    return envelopeOf(
      a.map((x, i) => x - b[i]!),
      own,
      max(4, 1500 / centre),
    );
  });
  const tops = levels.map((own) => (own ? own[peakOf(own)]! : 0));
  const loudest = max(...tops);
  const bands = levels.map((own, i) =>
    own && tops[i]! > loudest * 1e-6
      ? { levelDb: tenths(toDecibels(tops[i]! / loudest)), ...decayOf(own, knownFrames(own.length)) }
      : null,
  );

  let [l, r, mid, side, click, body] = [0, 0, 0, 0, 0, 0];
  for (let i = 0; i < left.length; i++) {
    l += left[i]! ** 2;
    r += right[i]! ** 2;
    mid += mono[i]! ** 2;
    side += ((left[i]! - right[i]!) / 2) ** 2;
  }
  const deepTaps = lowPassTaps(250 / rate, 150 / rate);
  const highTaps = lowPassTaps(1000 / rate, 500 / rate);
  const deepPart = filtered(mono, deepTaps);
  const high = filtered(mono, highTaps);
  const clickEnd = round(((begin + 15) * rate) / 1000);
  for (let i = 0; i < mono.length; i++) {
    body += deepPart[i]! ** 2;
    if (i < clickEnd) click += (mono[i]! - high[i]!) ** 2;
  }
  const decay = decayOf(envelope, known);
  return {
    ...pitchOf(mono, rate, voice, begin * step),
    attackMs: tenths((reached - begin) * step),
    decay,
    bands,
    clickDb: body > 0 && click > 0 ? tenths(toDecibels(click / body)) : null,
    brightnessHz: all > 0 ? round(weighted / all) : 0,
    noisiness: sum > 0 ? round(100 * min(1, exp(logarithms / count) / (sum / count))) / 100 : 0,
    position: l + r > 0 ? round((100 * (sqrt(r) - sqrt(l))) / (sqrt(r) + sqrt(l))) / 100 : 0,
    sideToMidDb: mid > 0 ? tenths(max(-120, toDecibels(side / mid))) : null,
    tail: tailOf(envelope, peak, known, decay),
    peakDb: tenths(toDecibels(mono.reduce((most, x) => max(most, abs(x)), 0) ** 2)),
    thirdOctaves,
  };
}

/** Falls so far within so many milliseconds where it is cut off. */
const gateFall: Decibels = 25;
const gateWithin = 12;

function tailOf(
  envelope: Float32Array,
  peak: number,
  known: number,
  { to20, to40 }: { to20: number | null; to40: number | null },
): HitMeasures["tail"] {
  for (let k = peak + 20; k + gateWithin < known; k++) {
    const here = envelope[k]!;
    if (here < envelope[peak]! * 1e-3) break;
    if (envelope[k + gateWithin]! < here * pow(10, -gateFall / 10)) return "gated";
  }
  // What rings on takes the second twenty decibels far slower than the first.
  return to20 !== null && to40 !== null && to40 - to20 > 2.5 * max(20, to20) ? "room" : "plain";
}
