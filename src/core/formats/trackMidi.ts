/** All that was heard of a track in one Standard MIDI File: tempo, markers, chords, bass line and drums, a track each. */
import { parseMidi, writeMidi, type MidiData, type MidiEvent } from "midi-file";
import type { PlacedHit } from "../drums/steps";
import type { BarRange, Grid } from "../grid/grid";
import type { BassNote } from "../lowEnd";
import type { CountedPlan } from "../plan/trackPlan";
import { bassMidi } from "./bassMidi";
import { drumMidi } from "./drumMidi";
import { planMidi } from "./planMidi";

export interface MidiParts {
  title: string;
  plan: CountedPlan;
  grid: Grid;
  /** Drum hits as played. */
  drums: readonly PlacedHit[];
  bass: readonly BassNote[];
  /** Bars that the drums are written of. */
  bars: BarRange;
}

/** Chords, their basses and the bass line are kept apart by channel too. */
const bassLineChannel = 2;

const onChannel = (event: MidiEvent, channel: number): MidiEvent =>
  "channel" in event ? { ...event, channel } : event;
const renamed = (event: MidiEvent, text: string): MidiEvent =>
  event.type === "trackName" ? { ...event, text } : event;
/** Tracks with notes: what comes before them is tempo, metre and markers. */
const partsOf = (bytes: Uint8Array): MidiData["tracks"] =>
  parseMidi(bytes).tracks.filter((events) => events.some(({ type }) => type === "noteOn"));

/** Bytes of a type 1 file that begins with bar 1. */
export function trackMidi({ title, plan, grid, drums, bass, bars }: MidiParts): Uint8Array {
  const file = parseMidi(planMidi(plan, grid, title));
  const names = ["Chords", "Chord basses"];
  const [header, ...chords] = file.tracks;
  const tracks = [
    header!,
    ...chords.map((events, i) => events.map((event) => renamed(event, names[i]!))),
    ...partsOf(bassMidi(bass, grid, title)).map((events) =>
      events.map((event) => onChannel(renamed(event, "Bass line"), bassLineChannel)),
    ),
    ...partsOf(
      drumMidi(drums, grid, { title, bars: { ...bars, first: 1 }, timing: "as played", sections: [] }),
    ),
  ];
  return Uint8Array.from(writeMidi({ header: { ...file.header, numTracks: tracks.length }, tracks }));
}
