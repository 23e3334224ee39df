/** The bass line as notes: when each begins and ends, how high and how loud it is. */
import type { Decibels, Fraction, Hertz, Seconds } from "../units";
import { quantile } from "../median";
import { beginningsIn, pitchesOver, type HeardBass } from "./bassNetwork";
import { likeliestPitch, middleOf, pitchReader, type PitchReading } from "./bassPitch";
import { bassPitchModel } from "./bassPitchModel";
import type { BassNote } from "./notes";
import { pitchTrack, type PitchTrack } from "./pitchTrack";
import { slideOf } from "./slides";
import { lowEnvelope, lowFramesPerSecond } from "./lowBand";

const { abs, floor, log10, max, min, round } = Math;

/** Shorter notes are strokes. */
const shortest: Seconds = 0.07;
/** A note is over when it has fallen by so much, or below this under the loud ones. */
const over: Decibels = 14;
const quiet: Decibels = 26;
/** A note is read from so long after its beginning. */
const afterBeginning: Seconds = 0.02;
/** What is heard of a kick hides the note: so long after it nothing is read. */
const hidden: Seconds = 0.04;
/** After so long hardly anything of it is left, and so much of a note is enough to read its pitch. */
const settled: Seconds = 0.14;
const enough: Seconds = 0.2;
/** Beginning this near to a kick, a note is on it. */
const besideKick: Seconds = 0.05;
/** Frames in which a note is loudest. */
const attackFrames = 20;
/** Notes are read for so long at most; the network says most at their beginning. */
const longestRead: Seconds = 0.4;
const longestHeard: Seconds = 0.24;

/** The low end that a bass line is read from, without its kicks, at either rate. */
export interface LowEndWithoutKicks {
  low: Float32Array;
  rate: Hertz;
  full: Float32Array;
  fullRate: Hertz;
}

interface BassStretch {
  start: Seconds;
  end: Seconds;
  /** From here on its pitch can be followed. */
  readFrom: Seconds;
  reading: PitchReading;
  power: number;
}

/** Notes as they begin and end, with what bears on their pitch. */
export function bassStretches(
  { low, rate, full, fullRate }: LowEndWithoutKicks,
  starts: readonly Seconds[],
  kicks: readonly Seconds[],
  envelope = lowEnvelope(low, rate),
): BassStretch[] {
  const read = pitchReader(full, fullRate);
  const level = (frame: number): Decibels =>
    10 * log10((envelope[max(0, min(envelope.length - 1, frame))] ?? 0) + 1e-12);
  const loud = quantile(
    Array.from(envelope, (power) => 10 * log10(power + 1e-12)).filter((own) => own > -80),
    0.8,
  );
  const lastFrame = envelope.length - 1;
  let near = 0;
  return starts.flatMap((start, i) => {
    const next = min(starts[i + 1] ?? Infinity, low.length / rate);
    while (near < kicks.length && kicks[near]! < start - besideKick) near++;
    const kick = kicks[near] ?? Infinity;
    const readFrom =
      kick < start + besideKick ? min(kick + hidden, start + 0.5 * (next - start)) : start + afterBeginning;
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
    // A long note can be read once the kick has died away.
    const pitchFrom = kick < start + besideKick ? max(readFrom, min(kick + settled, end - enough)) : readFrom;
    const from = round(pitchFrom * fullRate);
    const length = min(round(min(longestRead, max(0.06, end - pitchFrom)) * fullRate), full.length - from);
    if (length < 0.05 * fullRate) return [];
    const reading = read(from, length);
    if (reading === null) return [];
    let power = 0;
    for (let f = first; f < frame; f++) power += envelope[f]! / (frame - first);
    return [{ start, end, readFrom, reading, power }];
  });
}

/** Where no pitch is likelier than that, no note sounds. */
const leastLikely: Fraction = 0.2;
/** Beginnings this near to one that the drum model hears are that one, which is told more exactly. */
const sameBeginning: Seconds = 0.03;
/** Those that it does not hear are less likely: kicks leave such, */
const leastAlone: Fraction = 0.5;
/** and slides, which begin no note. A note that follows is asked for so long. */
const besideSlide: Seconds = 0.05;
const longestAfter: Seconds = 0.4;
/** A note that slides has not lasted longer. */
const longestSlid: Seconds = 2;

/**
 * When notes of the line begin.
 *
 * @param starts when the drum model hears bass notes begin, in order.
 */
function startsOfLine(heard: HeardBass, starts: readonly Seconds[], track: PitchTrack): Seconds[] {
  const beginnings = beginningsIn(heard);
  const found: Seconds[] = [];
  let next = 0;
  beginnings.forEach(({ time, likely }, i) => {
    while (next < starts.length && starts[next]! < time - sameBeginning) next++;
    while (next + 1 < starts.length && abs(starts[next + 1]! - time) < abs(starts[next]! - time)) next++;
    const near = starts[next] ?? Infinity;
    const before = found.at(-1) ?? -Infinity;
    if (abs(near - time) <= sameBeginning) {
      if (near > before) found.push(near);
      return;
    }
    const until = min(beginnings[i + 1]?.time ?? Infinity, time + longestAfter);
    if (likely < leastAlone || isSlide(track, before, time, until)) return;
    if (time > before) found.push(time);
  });
  return found;
}

/** Whether the pitch slides at `time` from the note that began before to what follows until then. */
function isSlide(track: PitchTrack, before: Seconds, time: Seconds, until: Seconds): boolean {
  if (!(time - before < longestSlid)) return false;
  const slide = slideOf(track, before + afterBeginning, until, 0);
  return slide !== null && slide.from - besideSlide < time && time < slide.to + besideSlide;
}

/**
 * Reads the bass line.
 *
 * @param heard what the network says of the same samples.
 * @param starts when the drum model hears bass notes begin, in order.
 * @param kicks in order.
 */
export function bassLine(
  rest: LowEndWithoutKicks,
  heard: HeardBass,
  starts: readonly Seconds[],
  kicks: readonly Seconds[],
): BassNote[] {
  const track = pitchTrack(rest.full, rest.fullRate);
  const envelope = lowEnvelope(rest.low, rest.rate);
  const notes = bassStretches(rest, startsOfLine(heard, starts, track), kicks, envelope);
  const middle = middleOf(notes.map(({ reading }) => reading));
  return notes.flatMap(({ start, end, readFrom, reading, power }): BassNote[] => {
    const likely = pitchesOver(heard, readFrom, min(end, readFrom + longestHeard));
    if (max(...likely) < leastLikely) return [];
    const pitch = likeliestPitch(reading, middle, bassPitchModel, likely);
    if (!pitch) return [];
    const { exact, midi, sure } = pitch;
    const slide = slideOf(track, readFrom, end, exact);
    return [
      {
        start: round(1e4 * start) / 1e4,
        end: round(1e4 * end) / 1e4,
        midi,
        cents: round(100 * (exact - midi)),
        levelDb: round(100 * log10(power + 1e-12)) / 10,
        sure: round(100 * sure) / 100,
        ...(slide && { slide }),
      },
    ];
  });
}
