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

export interface BassTruth {
  /** The lowest note at each place, in order. */
  notes: { time: number; pitch: number }[];
  /** Share of them beneath which another part sounds. */
  beneath: number;
}

export function bassOfMidi({ tracks }: MidiFile): BassTruth {
  const pitched = tracks.filter(({ channel, notes }) => channel !== drumChannel && notes.length > 0);
  const isBass = ({ instrument, notes }: (typeof tracks)[number]) =>
    isBassProgram(instrument.number) && median(notes.map(({ midi }) => midi)) < highestMiddle;
  const others = pitched.filter((track) => !isBass(track)).flatMap(({ notes }) => notes);
  const all = pitched
    .filter(isBass)
    .flatMap(({ notes }) => notes)
    .filter(({ time }) => time < playedSeconds - 0.5)
    .sort((a, b) => a.time - b.time);
  const notes: BassTruth["notes"] = [];
  for (const { time, midi: pitch } of all) {
    const last = notes.at(-1);
    if (last && time - last.time < together) last.pitch = Math.min(last.pitch, pitch);
    else notes.push({ time, pitch });
  }
  const covered = notes.filter(({ time, pitch }) =>
    others.some(
      (own) => own.midi < pitch && own.time < time + askedTo && own.time + own.duration > time + askedFrom,
    ),
  );
  return { notes, beneath: notes.length > 0 ? covered.length / notes.length : 0 };
}
