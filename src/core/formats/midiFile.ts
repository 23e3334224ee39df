/** What all Standard MIDI Files have in common: tempo, metre, markers, and places in ticks. */
import * as toneMidi from "@tonejs/midi";
import { beatAt, secondsAt, type Grid } from "../grid/grid";

const { max, round } = Math;

// The package is CommonJS: bundlers give its names at once, Node under `default`.
export const { Midi } = "Midi" in toneMidi ? toneMidi : (toneMidi as { default: typeof toneMidi }).default;
export type MidiFile = toneMidi.Midi;

/** Ticks of a quarter note: about half a millisecond at 120 BPM. */
export const ticksPerQuarter = 960;

/** Quarters to a beat: in 6/8 a beat is a dotted quarter. */
export const quartersPerBeat = (beatsPerBar: number): number => (beatsPerBar === 2 ? 1.5 : 1);

/** A file that begins with a bar of a grid, and where beats (from bar 1 beat 1) lie in it. */
export function startMidi(
  grid: Grid,
  title: string,
  {
    firstBar = 1,
    markers = [],
  }: { firstBar?: number; markers?: readonly { name: string; firstBar: number }[] } = {},
): { midi: MidiFile; ticksOf(beat: number): number } {
  const midi = new Midi();
  midi.header.fromJSON({ ...midi.header.toJSON(), ppq: ticksPerQuarter, name: title });
  const { beatsPerBar, beats, steady, bpm } = grid;
  const quarters = quartersPerBeat(beatsPerBar);
  const start = (firstBar - 1) * beatsPerBar;
  const ticksOf = (beat: number) => max(0, round((beat - start) * quarters * ticksPerQuarter));
  midi.header.timeSignatures = [
    { ticks: 0, timeSignature: beatsPerBar === 2 ? [6, 8] : [beatsPerBar, 4], measures: 0 },
  ];
  if (steady) midi.header.tempos = [{ ticks: 0, bpm: bpm * quarters }];
  else {
    // One tempo a beat where the beats follow a player, so that every place keeps its time.
    const last = max(start + 1, Math.floor(beatAt(grid, beats.at(-1)!)));
    midi.header.tempos = Array.from({ length: last - start }, (_, i) => {
      const from = secondsAt(grid, start + i);
      return { ticks: ticksOf(start + i), bpm: (quarters * 60) / (secondsAt(grid, start + i + 1) - from) };
    });
  }
  midi.header.meta = markers
    .filter((marker) => marker.firstBar >= firstBar)
    .map((marker) => ({
      ticks: ticksOf((marker.firstBar - 1) * beatsPerBar),
      type: "marker",
      text: marker.name,
    }));
  midi.header.update();
  return { midi, ticksOf };
}
