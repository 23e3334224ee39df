/**
 * Chords and sections as a Standard MIDI File: block chords over their basses, the tempo of the
 * grid, and a marker where each section begins. Bar 1 stands at the beginning of the file.
 */
import * as toneMidi from "@tonejs/midi";
import { secondsAt, type Grid } from "../grid/grid";
import { spellingOf } from "../harmony/keys";
import { noteName } from "../harmony/notes";
import { voicing } from "../harmony/voicing";
import type { CountedPlan } from "../plan/trackPlan";

const { max, round } = Math;

// The package is CommonJS: bundlers give its names at once, Node under `default`.
const { Midi } = "Midi" in toneMidi ? toneMidi : (toneMidi as { default: typeof toneMidi }).default;

/** Ticks of a quarter note. */
const resolution = 480;
const velocity = 0.63;

/** Bytes of a type 1 file. A beat is a quarter, in 6/8 a dotted quarter. */
export function planMidi(plan: CountedPlan, grid: Grid, title: string): Uint8Array {
  const midi = new Midi();
  midi.header.fromJSON({
    ...midi.header.toJSON(),
    ppq: resolution,
    name: title,
  });
  const isCompound = grid.beatsPerBar === 2;
  const quarters = isCompound ? 1.5 : 1;
  const ticksOf = (beat: number) => max(0, round(beat * quarters * resolution));
  midi.header.timeSignatures = [
    { ticks: 0, timeSignature: isCompound ? [6, 8] : [grid.beatsPerBar, 4], measures: 0 },
  ];
  const quarterBpm = (beatBpm: number) => beatBpm * quarters;
  if (grid.steady) midi.header.tempos = [{ ticks: 0, bpm: quarterBpm(grid.bpm) }];
  else {
    // One tempo a bar where the beats follow a player.
    const bars = Math.floor((grid.beats.length - 1 - grid.barOne) / grid.beatsPerBar);
    midi.header.tempos = Array.from({ length: max(1, bars) }, (_, bar) => {
      const from = secondsAt(grid, bar * grid.beatsPerBar);
      const to = secondsAt(grid, (bar + 1) * grid.beatsPerBar);
      return {
        ticks: ticksOf(bar * grid.beatsPerBar),
        bpm: quarterBpm((60 * grid.beatsPerBar) / (to - from)),
      };
    });
  }
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
  midi.header.meta = plan.sections
    .filter(({ firstBar }) => firstBar >= 1)
    .map(({ name, firstBar }) => ({
      ticks: ticksOf((firstBar - 1) * grid.beatsPerBar),
      type: "marker",
      text: name,
    }));
  midi.header.update();
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
