/**
 * Chords and sections as a Standard MIDI File: block chords over their basses, the tempo of the
 * grid, and a marker where each section begins. Bar 1 stands at the beginning of the file.
 */
import { parseMidi, writeMidi } from "midi-file";
import type { Grid } from "../grid/grid";
import { keySignatureOf, type Key } from "../harmony/keys";
import { voicing } from "../harmony/voicing";
import type { CountedPlan } from "../plan/trackPlan";
import { startMidi } from "./midiFile";

const velocity = 0.63;

/** Bytes of a type 1 file. A beat is a quarter, in 6/8 a dotted quarter. */
export function planMidi(plan: CountedPlan, grid: Grid, title: string): Uint8Array {
  const { midi, ticksOf } = startMidi(grid, title, { markers: plan.sections });
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
  return plan.key ? withKeySignature(midi.toArray(), plan.key) : midi.toArray();
}

/** The same file with a key signature at its beginning; the package that writes the rest gets it wrong. */
function withKeySignature(bytes: Uint8Array, key: Key): Uint8Array {
  const file = parseMidi(bytes);
  file.tracks[0]!.unshift({
    deltaTime: 0,
    meta: true,
    type: "keySignature",
    key: keySignatureOf(key),
    scale: key.mode === "major" ? 0 : 1,
  });
  return Uint8Array.from(writeMidi(file));
}
