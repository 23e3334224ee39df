/** Drum hits as a Standard MIDI File: the percussion map of General MIDI on channel 10, velocities, tempo, markers. */
import { noteOfVoice } from "../drums/generalMidi";
import type { PlacedHit } from "../drums/steps";
import { stepsPerBeat } from "../drums/steps";
import type { BarRange, Grid } from "../grid/grid";
import type { CountedSection } from "../plan/trackPlan";
import { quartersPerBeat, startMidi, ticksPerQuarter } from "./midiFile";

const { max, min, round } = Math;

export interface DrumMidiSettings {
  title: string;
  /** Which bars; the first of them stands at the beginning of the file. */
  bars: BarRange;
  /** Every hit where it was played, or on the step that it belongs to, straight. */
  timing: "as played" | "quantised";
  sections: readonly CountedSection[];
}

/** Channel 10, counted from 0. */
const drumChannel = 9;

/** Bytes of a type 1 file that lasts whole bars. */
export function drumMidi(
  placed: readonly PlacedHit[],
  grid: Grid,
  { title, bars, timing, sections }: DrumMidiSettings,
): Uint8Array {
  const { midi, ticksOf } = startMidi(grid, title, {
    firstBar: bars.first,
    markers: sections.filter(({ firstBar }) => firstBar <= bars.last),
  });
  const track = midi.addTrack();
  track.name = "Drums";
  track.channel = drumChannel;
  const step = round((quartersPerBeat(grid.beatsPerBar) * ticksPerQuarter) / stepsPerBeat(grid.beatsPerBar));
  const end = ticksOf(bars.last * grid.beatsPerBar);
  const notes = placed
    .filter(({ bar }) => bar >= bars.first && bar <= bars.last)
    .map(({ hit, beat, quantised }) => ({
      midi: noteOfVoice[hit.voice],
      ticks: min(end - 1, ticksOf(timing === "quantised" ? quantised : beat)),
      // The package rounds down; a hair more keeps what is a whole velocity whole.
      velocity: (max(1, round(127 * hit.velocity)) + 1e-6) / 127,
    }))
    .sort((a, b) => a.ticks - b.ticks);
  notes.forEach((note, i) => {
    // A note ends before the next of its kind begins, so that every program tells them apart.
    const next = notes.slice(i + 1).find((other) => other.midi === note.midi && other.ticks > note.ticks);
    const room = (next?.ticks ?? end) - note.ticks;
    track.addNote({ ...note, durationTicks: max(1, min(step, room)) });
  });
  track.endOfTrackTicks = end;
  return midi.toArray();
}
