/** A bass line as a Standard MIDI File, as played: every note at its own time. */
import { beatAt, type Grid } from "../grid/grid";
import type { BassNote } from "../lowEnd";
import { startMidi } from "./midiFile";

/** Softest and loudest note are this far apart in level at least, so that an even line stays even. */
const leastSpread = 24;

/** Bytes of the file; it begins with bar 1, and notes before that are left out. */
export function bassMidi(notes: readonly BassNote[], grid: Grid, title: string): Uint8Array {
  const { midi, ticksOf } = startMidi(grid, title);
  const track = midi.addTrack();
  track.name = "Bass";
  track.channel = 0;
  const loudest = notes.reduce((most, { levelDb }) => Math.max(most, levelDb), -200);
  for (const { start, end, midi: pitch, levelDb } of notes) {
    if (beatAt(grid, start) < 0) continue;
    const ticks = ticksOf(beatAt(grid, start));
    track.addNote({
      midi: pitch,
      ticks,
      durationTicks: Math.max(1, ticksOf(beatAt(grid, end)) - ticks),
      velocity: Math.max(0.05, Math.min(1, 0.9 + (0.8 * (levelDb - loudest)) / leastSpread)),
    });
  }
  return midi.toArray();
}
