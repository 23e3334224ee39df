/** The bass line as notes: when each begins and ends, how high and how loud it is. */
import type { Decibels, Hertz, Seconds } from "../units";
import { quantile } from "../median";
import { likeliestPitch, middleOf, pitchReader, type PitchReading } from "./bassPitch";
import { bassPitchModel } from "./bassPitchModel";
import type { BassNote } from "./notes";
import { withFollowedStarts } from "./followedStarts";
import { pitchTrack } from "./pitchTrack";
import { slideOf } from "./slides";
import { lowEnvelope, lowFramesPerSecond } from "./lowBand";

const { floor, log10, max, min, round } = Math;

/** Shorter notes are strokes. */
const shortest: Seconds = 0.07;
/** A note is over when it has fallen by so much, or below this under the loud ones. */
const over: Decibels = 14;
const quiet: Decibels = 26;
/** What is heard of a kick hides the note: so long after it nothing is read. */
const hidden: Seconds = 0.04;
/** After so long hardly anything of it is left, and so much of a note is enough to read its pitch. */
const settled: Seconds = 0.14;
const enough: Seconds = 0.2;
/** Beginning this near to a kick, a note is on it. */
const besideKick: Seconds = 0.05;
/** Frames in which a note is loudest. */
const attackFrames = 20;
/** Notes are read for so long at most. */
const longestRead: Seconds = 0.4;

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

/**
 * Reads the bass line.
 *
 * @param starts when bass notes are heard to begin, in order.
 * @param kicks in order.
 */
export function bassLine(
  rest: LowEndWithoutKicks,
  starts: readonly Seconds[],
  kicks: readonly Seconds[],
): BassNote[] {
  const track = pitchTrack(rest.full, rest.fullRate);
  const envelope = lowEnvelope(rest.low, rest.rate);
  const notes = bassStretches(rest, withFollowedStarts(starts, track, envelope), kicks, envelope);
  const middle = middleOf(notes.map(({ reading }) => reading));
  return notes.flatMap(({ start, end, readFrom, reading, power }): BassNote[] => {
    const pitch = likeliestPitch(reading, middle, bassPitchModel);
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
