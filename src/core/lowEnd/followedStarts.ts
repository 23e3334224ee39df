/**
 * Where notes of a bass line begin without being struck: the pitch of the low end steps to another place. A
 * line that is played legato, as by a synthesiser, has few other signs. What was tried beside it and left:
 * sound that begins where there was none, and short dips at one pitch, which found as much of kicks and
 * chords as of notes.
 */
import { firstAfter } from "../firstAfter";
import { quantile } from "../median";
import { powerToDecibels, type Decibels, type Seconds } from "../units";
import { lowFramesPerSecond } from "./lowBand";
import { tonalOver, trackHop, type PitchTrack } from "./pitchTrack";

const { abs, max, min, round } = Math;

/** A note that begins this near to a known one is that one. */
const apart: Seconds = 0.09;
/** It stays at its pitch for so long before and after it steps, */
const stays: Seconds = 0.12;
/** within so many semitones, */
const within = 0.5;
/** and steps within this time by so much, though not by an octave, which may be heard wrongly. */
const stepTakes: Seconds = 0.045;
const leastStep = 0.8;
const octave = { from: 11.4, to: 12.6 } as const;
/** Less tonal stretches have no pitch to speak of. */
const leastTonal = 0.65;
/** It is as loud as the line before and after, within so much of its loud notes, and not much softer than before. */
const loudEnough: Decibels = 10;
const mostFall: Decibels = 6;
/** The line as it is followed: its pitch, and how loud it is beside its loud notes. */
interface Followed {
  track: PitchTrack;
  /** Beside the loud notes, over frames of the track. */
  levelOver(from: number, to: number): Decibels;
}

function follow(track: PitchTrack, envelope: Float32Array): Followed {
  const levels = Array.from(envelope, (power) => powerToDecibels(power + 1e-12));
  const loud = quantile(
    levels.filter((level) => level > -80),
    0.8,
  );
  return {
    track,
    levelOver(from, to) {
      const first = round(from * trackHop * lowFramesPerSecond);
      const last = max(first + 1, round(to * trackHop * lowFramesPerSecond));
      let sum = 0;
      for (let i = first; i < last; i++) sum += envelope[i] ?? 0;
      return powerToDecibels(sum / (last - first) + 1e-12) - loud;
    },
  };
}

function isSteady({ track }: Followed, from: number, to: number): boolean {
  const own = track.pitch[from]!;
  for (let frame = from + 1; frame < to; frame++)
    if (!(abs(track.pitch[frame]! - own) <= within)) return false;
  return !Number.isNaN(own) && tonalOver(track, from, to) >= leastTonal;
}

/** Where the pitch steps from one note to another. */
function steps(line: Followed): Seconds[] {
  const { pitch } = line.track;
  const found: Seconds[] = [];
  const long = round(stays / trackHop);
  const gap = round(stepTakes / trackHop);
  for (let frame = long; frame + gap + long < pitch.length; frame++) {
    if (pitch[frame] === pitch[frame - 1]) continue;
    // What lies between may be anything.
    const next = pitch[frame + gap]!;
    const way = abs(next - pitch[frame - 1]!);
    if (!(way >= leastStep) || (way > octave.from && way < octave.to)) continue;
    if (!isSteady(line, frame - long, frame) || !isSteady(line, frame + gap, frame + gap + long)) continue;
    const before = line.levelOver(frame - long, frame);
    const after = line.levelOver(frame + gap, frame + gap + long);
    if (min(before, after) < -loudEnough || after < before - mostFall) continue;
    let at = frame;
    while (at < frame + gap && abs(pitch[at]! - next) > within) at++;
    found.push(((frame + at) / 2) * trackHop);
    frame += gap;
  }
  return found;
}

/**
 * @param envelope of the low end without kicks, `lowFramesPerSecond`.
 * @param starts that are known, in order.
 * @returns those and the others, in order.
 */
export function withFollowedStarts(
  starts: readonly Seconds[],
  track: PitchTrack,
  envelope: Float32Array,
): Seconds[] {
  const further = steps(follow(track, envelope)).filter((time) => {
    const near = firstAfter(starts, time - apart);
    return near === null || near >= time + apart;
  });
  return [...starts, ...further].sort((a, b) => a - b);
}
