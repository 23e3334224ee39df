/** Tempo, beats and downbeats of pieces by others, as their files have them. */
import { readFile } from "node:fs/promises";
import { Midi } from "@/core/formats/midiFile";
import { voiceOfNote } from "@/core/drums/generalMidi";
import type { DrumVoice } from "@/core/drums/voices";
import { drumChannel, type Piece, type TrackerTruth } from "./pieces";

export interface GridTruth {
  bpm: number;
  beats: number[];
  downbeats: number[];
}

const middleOf = (numbers: readonly number[]): number | undefined =>
  [...numbers].sort((a, b) => a - b)[Math.floor(numbers.length / 2)];

const gapsOf = (times: readonly number[]): number[] => times.slice(1).map((time, i) => time - times[i]!);

/** So many notes say whether a group of instruments keeps to a grid. */
const leastNotes = 16;
/** How far notes gather on beats, halves or thirds of them, 0–1, at least: strewn over the beat they reach 0.1. */
const leastGathered = 0.25;

/**
 * Whether what is played keeps to the beats that are written. Some pieces were played without looking
 * at the tempo of the file, which then says nothing about the music.
 *
 * @param groups times of the notes of kicks, of snares, and of all else: one that keeps to the beats is enough.
 */
export function keepsTo(beats: readonly number[], groups: readonly (readonly number[])[]): boolean {
  return groups.some((times) => {
    const phases: number[] = [];
    let beat = 0;
    for (const time of [...times].sort((a, b) => a - b)) {
      while (beat + 2 < beats.length && beats[beat + 1]! <= time) beat++;
      const phase = (time - beats[beat]!) / (beats[beat + 1]! - beats[beat]!);
      if (phase >= 0 && phase < 1) phases.push(phase);
    }
    if (phases.length < leastNotes) return false;
    return [1, 2, 3].some((parts) => {
      const sum = (wave: (angle: number) => number) =>
        phases.reduce((total, phase) => total + wave(2 * Math.PI * parts * phase), 0);
      return Math.hypot(sum(Math.cos), sum(Math.sin)) >= leastGathered * phases.length;
    });
  });
}

/** As the tempo map and the metres of a MIDI file say; null where what is played does not keep to them. */
export async function midiGrid({ file }: Piece, until: number): Promise<GridTruth | null> {
  const midi = new Midi(await readFile(file));
  const { header } = midi;
  const metres =
    header.timeSignatures.length > 0 ? header.timeSignatures : [{ ticks: 0, timeSignature: [4, 4] }];
  const beats: number[] = [];
  const downbeats: number[] = [];
  metres.forEach(({ ticks, timeSignature }, i) => {
    const [count, unit] = timeSignature as [number, number];
    // Compound metres are beaten in threes of their unit.
    const isCompound = unit === 8 && count % 3 === 0;
    const step = header.ppq * (4 / unit) * (isCompound ? 3 : 1);
    const inBar = isCompound ? count / 3 : count;
    const end = Math.min(metres[i + 1]?.ticks ?? Infinity, header.secondsToTicks(until));
    for (let n = 0, at = ticks; at < end - 1; n++, at += step) {
      const time = header.ticksToSeconds(at);
      beats.push(time);
      if (n % inBar === 0) downbeats.push(time);
    }
  });
  const times = (isOwn: (voice: DrumVoice | null) => boolean) =>
    midi.tracks.flatMap(({ channel, notes }) =>
      notes.flatMap(({ time, midi: note }) =>
        isOwn(channel === drumChannel ? voiceOfNote(note) : null) && time < until ? [time] : [],
      ),
    );
  const groups = [
    times((voice) => voice === "kick"),
    times((voice) => voice === "snare"),
    times((voice) => voice === null),
  ];
  return keepsTo(beats, groups) ? { beats, downbeats, bpm: 60 / (middleOf(gapsOf(beats)) ?? 0.5) } : null;
}

/** Rows over which the length of one is taken. */
const evenly = 16;

/** As the rows of a tracker piece say, whose patterns begin on bars. */
export function trackerGrid({ rows, patternRows }: TrackerTruth): GridTruth {
  // Over many rows: where they swing, long and short ones alternate.
  const rowSeconds = middleOf(rows.slice(evenly).map((row, i) => (row - rows[i]!) / evenly))!;
  // The power of two that comes nearest to 120 BPM.
  const perBeat = 2 ** Math.round(Math.log2(0.5 / rowSeconds));
  const beats: number[] = [];
  const downbeats: number[] = [];
  patternRows.forEach((first, i) => {
    const end = patternRows[i + 1] ?? rows.length;
    for (let row = first; row < end; row += perBeat) {
      beats.push(rows[row]!);
      if ((row - first) % (4 * perBeat) === 0) downbeats.push(rows[row]!);
    }
  });
  return { bpm: 60 / (rowSeconds * perBeat), beats, downbeats };
}
