/**
 * Chords and sections as a Standard MIDI File: block chords over their basses, the tempo of the
 * grid, and a marker where each section begins. Bar 1 stands at the beginning of the file.
 */
import type { Grid } from "../grid/grid";
import { spellingOf } from "../harmony/keys";
import { noteName } from "../harmony/notes";
import { voicing } from "../harmony/voicing";
import type { CountedPlan } from "../plan/trackPlan";
import { startMidi } from "./midiFile";

const velocity = 0.63;

/** Bytes of a type 1 file. A beat is a quarter, in 6/8 a dotted quarter. */
export function planMidi(plan: CountedPlan, grid: Grid, title: string): Uint8Array {
  const { midi, ticksOf } = startMidi(grid, title, { markers: plan.sections });
  if (plan.key) {
    const spelling = spellingOf(plan.key);
    midi.header.keySignatures = [
      {
        ticks: 0,
        key: noteName(plan.key.tonic, spelling).replace("♯", "#").replace("♭", "b"),
        scale: plan.key.mode,
      },
    ];
  }
  const chords = midi.addTrack();
  chords.name = "Chords";
  const low = midi.addTrack();
  low.name = "Bass";
  low.channel = 1;
  for (const { startBeat, endBeat, chord } of plan.chords) {
    if (!chord || endBeat <= 0) continue;
    const ticks = ticksOf(startBeat);
    const durationTicks = ticksOf(endBeat) - ticks;
    const { bass, notes } = voicing(chord);
    for (const note of notes) chords.addNote({ midi: note, ticks, durationTicks, velocity });
    low.addNote({ midi: bass, ticks, durationTicks, velocity });
  }
  return midi.toArray();
}
