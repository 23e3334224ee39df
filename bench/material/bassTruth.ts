/** The bass line of a MIDI piece, as far as its bass part is what sounds lowest. */
import { median } from "@/core/median";
import type { MidiFile } from "@/core/formats/midiFile";
import { drumChannel, isBassProgram, playedSeconds } from "./pieces";

/** Bass notes that begin this near to one another are one: parts that double each other. */
const together = 0.03;
/** A part of bass programs that lies higher plays no bass. */
const highestMiddle = 55;
/** When it is asked what sounds beneath a note, after its beginning. */
const [askedFrom, askedTo] = [0.02, 0.15];

export interface TrueBassNote {
  time: number;
  end: number;
  pitch: number;
}

export interface BassTruth {
  /** The lowest note at each place, in order; none ends after the next begins. */
  notes: TrueBassNote[];
  /** Share of them beneath which another part sounds. */
  beneath: number;
}

const pitchedTracks = ({ tracks }: MidiFile) =>
  tracks.filter(({ channel, notes }) => channel !== drumChannel && notes.length > 0);
const playsBass = ({ instrument, notes }: MidiFile["tracks"][number]) =>
  isBassProgram(instrument.number) && median(notes.map(({ midi }) => midi)) < highestMiddle;

/** Channels on which nothing but bass is played. */
export function bassChannels(midi: MidiFile): Set<number> {
  const pitched = pitchedTracks(midi);
  const others = new Set(pitched.flatMap((track) => (playsBass(track) ? [] : track.channel)));
  return new Set(pitched.filter(playsBass).flatMap(({ channel }) => (others.has(channel) ? [] : channel)));
}

export function bassOfMidi(midi: MidiFile): BassTruth {
  const pitched = pitchedTracks(midi);
  const others = pitched.filter((track) => !playsBass(track)).flatMap(({ notes }) => notes);
  const all = pitched
    .filter(playsBass)
    .flatMap(({ notes }) => notes)
    .filter(({ time }) => time < playedSeconds - 0.5)
    .sort((a, b) => a.time - b.time);
  const notes: BassTruth["notes"] = [];
  for (const { time, duration, midi: pitch } of all) {
    const last = notes.at(-1);
    if (last && time - last.time < together) {
      if (pitch < last.pitch) Object.assign(last, { pitch, end: time + duration });
    } else {
      if (last) last.end = Math.min(last.end, time);
      notes.push({ time, end: time + duration, pitch });
    }
  }
  const covered = notes.filter(({ time, pitch }) =>
    others.some(
      (own) => own.midi < pitch && own.time < time + askedTo && own.time + own.duration > time + askedFrom,
    ),
  );
  return { notes, beneath: notes.length > 0 ? covered.length / notes.length : 0 };
}
