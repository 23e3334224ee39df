/** The bass line as notes: when each begins and ends, how high and how loud it is. */
import type { Decibels, Fraction, Hertz, Seconds } from "../units";
import { realFft } from "../dsp/fft";
import { median, quantile } from "../median";
import type { BassNote } from "./notes";
import { lowEnvelope, lowFramesPerSecond } from "./lowBand";

const { abs, ceil, cos, floor, log10, log2, max, min, PI, pow, round, sqrt } = Math;

/** The fundamentals that are looked for. */
const lowest: Hertz = 27;
const highest: Hertz = 210;
/** Steps of the search, a quarter of a semitone. */
const perOctave = 48;
const candidates = Array.from(
  { length: 1 + round(perOctave * log2(highest / lowest)) },
  (_, i) => lowest * pow(2, i / perOctave),
);

/** The same as MIDI note numbers. */
const pitches = candidates.map((hertz) => 69 + 12 * log2(hertz / 440));

/** Shorter notes are strokes. */
const shortest: Seconds = 0.07;
/** A note is over when it has fallen by so much, or below this under the loud ones. */
const over: Decibels = 14;
const quiet: Decibels = 26;
/** What is heard of a kick hides the note: so long after it nothing is read. */
const hidden: Seconds = 0.04;
/** Beginning this near to a kick, a note is on it. */
const besideKick: Seconds = 0.05;
/** Frames in which a note is loudest. */
const attackFrames = 20;
/** Notes are read for so long at most. */
const longestRead: Seconds = 0.4;

/** Harmonics that a note is told by, each weighing so much of the one below, up to a frequency. */
const mostHarmonics = 8;
const harmonicWeight = 0.8;
const harmonicsUpTo: Hertz = 800;
/** What lies half way between harmonics speaks against a note. */
const betweenWeight = 0.5;
/** Odd harmonics that are weaker than this beside the even ones are none. */
const leastOdd: Fraction = 0.25;
/** Length of the transform, seconds at least. */
const transformSeconds = 1.4;

/** A bass line keeps to a range: further from its middle than this, every octave more takes so much of the score. */
const freely = 5;
const takenPerOctave = 0.3;

/** Reads how well each candidate is the fundamental of a stretch; null where nothing sounds. */
function pitchReader(samples: Float32Array, rate: Hertz) {
  const size = 2 ** ceil(log2(transformSeconds * rate));
  const transform = realFft(size);
  const binWidth = rate / size;
  const magnitudes = new Float32Array(size / 2);
  /** Largest magnitude near a frequency, within a third of a semitone. */
  const at = (hertz: Hertz): number => {
    const place = hertz / binWidth;
    const low = floor(place);
    const share = place - low;
    return magnitudes[low]! * (1 - share) + (magnitudes[low + 1] ?? 0) * share;
  };
  return (first: number, length: number): Float64Array | null => {
    const input = transform.input();
    input.fill(0);
    let power = 0;
    for (let i = 0; i < length; i++) {
      const x = samples[first + i] ?? 0;
      power += (x * x) / length;
      input[i] = x * (0.54 - 0.46 * cos((2 * PI * (i + 0.5)) / length));
    }
    if (power < 1e-9) return null;
    const spectrum = transform.forward();
    for (let k = 1; k < size / 2; k++)
      magnitudes[k] = sqrt(spectrum[2 * k]! ** 2 + spectrum[2 * k + 1]! ** 2);
    return Float64Array.from(candidates, (hertz) => {
      let score = 0;
      let weight = 1;
      for (let h = 1; h <= mostHarmonics && h * hertz <= harmonicsUpTo; h++, weight *= harmonicWeight) {
        score += weight * (at(h * hertz) - betweenWeight * at((h - 0.5) * hertz));
      }
      // With next to nothing at the odd harmonics it is the octave above.
      const odd = at(hertz) + at(3 * hertz);
      return odd < leastOdd * (at(2 * hertz) + at(4 * hertz)) ? score / 2 : score;
    });
  };
}

/** MIDI note number, with its fraction, of the best candidate near a middle; null where none is any good. */
function bestPitch(scores: Float64Array, middle: number | null): number | null {
  let best = -1;
  let top = 0;
  scores.forEach((own, i) => {
    const off = middle === null ? 0 : max(0, abs(pitches[i]! - middle) - freely);
    const score = own * max(0, 1 - (takenPerOctave * off) / 12);
    if (score > top) [top, best] = [score, i];
  });
  if (best < 0) return null;
  const [a, b, c] = [scores[best - 1] ?? 0, scores[best]!, scores[best + 1] ?? 0];
  const bend = a - 2 * b + c;
  const off = bend < 0 ? max(-1, min(1, (0.5 * (a - c)) / bend)) : 0;
  return pitches[best]! + (12 * off) / perOctave;
}

/** Pitches this near, semitones, are the same note seen through a short window. */
const sameNote = 1.75;

/** How far a pitch stands out of all others, 0–1; its octaves do not speak against it. */
function standsOut(scores: Float64Array, exact: number): Fraction {
  let own = 1e-12;
  let other = 0;
  scores.forEach((score, i) => {
    const off = abs(pitches[i]! - exact);
    if (off < 0.5) own = max(own, score);
    else if (off > sameNote && abs(abs(off) - 12) > 0.75) other = max(other, score);
  });
  return max(0, min(1, 1 - other / own));
}

/**
 * Reads the bass line.
 *
 * @param rest the low end without its kicks, at either rate.
 * @param starts when bass notes are heard to begin, in order.
 * @param kicks in order.
 */
export function bassLine(
  rest: { low: Float32Array; rate: Hertz; full: Float32Array; fullRate: Hertz },
  starts: readonly Seconds[],
  kicks: readonly Seconds[],
): BassNote[] {
  const { low, rate, full, fullRate } = rest;
  const envelope = lowEnvelope(low, rate);
  const pitchOf = pitchReader(full, fullRate);
  const level = (frame: number): Decibels =>
    10 * log10((envelope[max(0, min(envelope.length - 1, frame))] ?? 0) + 1e-12);
  const loud = quantile(
    Array.from(envelope, (power) => 10 * log10(power + 1e-12)).filter((own) => own > -80),
    0.8,
  );
  const lastFrame = envelope.length - 1;
  let near = 0;
  const read = starts.flatMap((start, i) => {
    const next = min(starts[i + 1] ?? Infinity, low.length / rate);
    while (near < kicks.length && kicks[near]! < start - besideKick) near++;
    const kick = kicks[near] ?? Infinity;
    const readFrom =
      kick < start + besideKick ? min(kick + hidden, start + 0.5 * (next - start)) : start + 0.02;
    const first = round(readFrom * lowFramesPerSecond);
    const nextFrame = min(lastFrame, floor(next * lowFramesPerSecond));
    let top = -200;
    for (let frame = first; frame < min(first + attackFrames, nextFrame); frame++)
      top = max(top, level(frame));
    if (!(top > loud - quiet)) return [];
    let frame = first;
    while (frame < nextFrame && (frame < first + 6 || level(frame) > top - over)) frame++;
    const end = min(next, frame / lowFramesPerSecond);
    if (end - start < shortest) return [];
    const from = round(readFrom * fullRate);
    const length = min(round(min(longestRead, max(0.06, end - readFrom)) * fullRate), full.length - from);
    if (length < 0.05 * fullRate) return [];
    const scores = pitchOf(from, length);
    if (scores === null) return [];
    let power = 0;
    for (let f = first; f < frame; f++) power += envelope[f]! / (frame - first);
    return [{ start, end, scores, power }];
  });
  const first = read.flatMap(({ scores }) => bestPitch(scores, null) ?? []);
  const middle = first.length > 0 ? median(first) : null;
  return read.flatMap(({ start, end, scores, power }): BassNote[] => {
    const exact = bestPitch(scores, middle);
    if (exact === null) return [];
    const midi = round(exact);
    return [
      {
        start: round(1e4 * start) / 1e4,
        end: round(1e4 * end) / 1e4,
        midi,
        cents: round(100 * (exact - midi)),
        levelDb: round(100 * log10(power + 1e-12)) / 10,
        sure: round(100 * standsOut(scores, exact)) / 100,
      },
    ];
  });
}
