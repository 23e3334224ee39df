/** A bass line as a Standard MIDI File, as played: every note at its own time. */
import { beatAt, type Grid } from "../grid/grid";
import type { BassNote } from "../lowEnd";
import { startMidi } from "./midiFile";

/** Softest and loudest note are this far apart in level at least, so that an even line stays even. */
const leastSpread = 24;

/** Slides are bends of the whole channel: how far they reach either way, semitones, and their steps in a second. */
const bendRange = 24;
const stepsPerSecond = 100;
/** Controllers that say so: registered parameter 0, and its value. */
const parameter = { high: 101, low: 100, value: 6 } as const;

/** Bytes of the file; it begins with bar 1, and notes before that are left out. */
export function bassMidi(notes: readonly BassNote[], grid: Grid, title: string): Uint8Array {
  const { midi, ticksOf } = startMidi(grid, title);
  const track = midi.addTrack();
  track.name = "Bass";
  track.channel = 0;
  const loudest = notes.reduce((most, { levelDb }) => Math.max(most, levelDb), -200);
  const played = notes.filter(({ start }) => beatAt(grid, start) >= 0);
  const bend = (time: number, semitones: number) =>
    track.addPitchBend({
      ticks: ticksOf(beatAt(grid, time)),
      value: Math.round((8191 * semitones) / bendRange),
    });
  if (played.some(({ slide }) => slide)) {
    track.addCC({ number: parameter.high, value: 0, ticks: 0 });
    track.addCC({ number: parameter.low, value: 0, ticks: 0 });
    track.addCC({ number: parameter.value, value: bendRange / 127, ticks: 1 });
  }
  let isBent = false;
  for (const { start, end, midi: pitch, levelDb, slide } of played) {
    const ticks = ticksOf(beatAt(grid, start));
    if (slide) {
      bend(start, slide.before);
      const steps = Math.max(1, Math.round((slide.to - slide.from) * stepsPerSecond));
      for (let i = 1; i <= steps; i++)
        bend(
          slide.from + ((slide.to - slide.from) * i) / steps,
          slide.before + ((slide.after - slide.before) * i) / steps,
        );
    } else if (isBent) bend(start, 0);
    isBent = slide !== undefined;
    track.addNote({
      midi: pitch,
      ticks,
      durationTicks: Math.max(1, ticksOf(beatAt(grid, end)) - ticks),
      velocity: Math.max(0.05, Math.min(1, 0.9 + (0.8 * (levelDb - loudest)) / leastSpread)),
    });
  }
  return midi.toArray();
}
