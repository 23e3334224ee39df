/**
 * Notes of a bass line that slide: where the pitch of a note, followed from moment to moment, leaves one
 * place for another. A jump is none, nor is the fall of an attack.
 */
import { median } from "../median";
import type { Seconds } from "../units";
import type { BassSlide } from "./notes";
import { tonalOver, trackFrame, trackHop, type PitchTrack } from "./pitchTrack";

const { abs, ceil, floor, max, round } = Math;

/** Shorter notes are not followed. */
const shortest: Seconds = 0.2;
/** A note dwells where it begins, and where it ends, for so long. */
const dwells: Seconds = 0.06;
/** One that falls from its very beginning is struck, not slid. */
const struck: Seconds = 0.04;
/** Less than this, in semitones, is no slide, nor is more: what was followed is something else then. */
const least = 0.7;
const most = 14;
/** Nor is what takes longer, or less than half a frame: a jump may seem to. */
const longest: Seconds = 1.2;
const briefest: Seconds = trackFrame / 2;
/** On its way lies what is further than this share of it from both ends. */
const edge = 0.2;
const fewestBetween = 2;
/** On its way it sounds as much as the rest of the note does, by this share, and the note beside all else. */
const leastSounding = 0.4;
const leastTonal = 0.35;

/**
 * @param from when the note can be followed, and when it ends.
 * @param pitch at which it was read, MIDI with its fraction.
 * @returns where it slides; null where it does not.
 */
export function slideOf(track: PitchTrack, from: Seconds, end: Seconds, pitch: number): BassSlide | null {
  if (end - from < shortest) return null;
  const [first, last] = [ceil(from / trackHop), floor(end / trackHop)];
  const semitones = Array.from(track.pitch.subarray(first, last), (own) => own - pitch);
  if (semitones.length < 4 || semitones.some(Number.isNaN)) return null;
  const dwelling = max(3, round(dwells / trackHop));
  const before = median(semitones.slice(0, dwelling));
  const after = median(semitones.slice(-dwelling));
  const way = after - before;
  if (abs(way) < least || abs(way) > most) return null;
  const along = semitones.map((own) => (own - before) / way);
  // From where it leaves for good to where it stays.
  let leaves = along.length - 1;
  while (leaves > 0 && along[leaves]! > edge) leaves--;
  let stays = leaves;
  while (stays < along.length - 1 && along[stays]! < 1 - edge) stays++;
  const seconds = (stays - leaves) * trackHop;
  if (seconds > longest || seconds < briefest || stays - leaves - 1 < fewestBetween) return null;
  if (way < 0 && leaves * trackHop < struck) return null;
  const usual = tonalOver(track, first, last);
  const between = tonalOver(track, first + leaves + 1, first + stays);
  if (usual < leastTonal || between < leastSounding * usual) return null;
  // The track may lie octaves beside what was read.
  const octaves = 12 * round((abs(before) < abs(after) ? before : after) / 12);
  const rounded = (value: number) => round(100 * value) / 100;
  return {
    from: rounded((first + leaves) * trackHop),
    to: rounded((first + stays) * trackHop),
    before: rounded(before - octaves),
    after: rounded(after - octaves),
  };
}
