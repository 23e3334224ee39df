/** Tempo, beats and downbeats of pieces by others, as their files have them. */
import { readFile } from "node:fs/promises";
import { Midi } from "@/core/formats/midiFile";
import type { Piece, TrackerTruth } from "./pieces";

export interface GridTruth {
  bpm: number;
  beats: number[];
  downbeats: number[];
}

const middleOf = (numbers: readonly number[]): number | undefined =>
  [...numbers].sort((a, b) => a - b)[Math.floor(numbers.length / 2)];

const gapsOf = (times: readonly number[]): number[] => times.slice(1).map((time, i) => time - times[i]!);

/** As the tempo map and the metres of a MIDI file say. */
export async function midiGrid({ file }: Piece, until: number): Promise<GridTruth> {
  const { header } = new Midi(await readFile(file));
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
    const end = metres[i + 1]?.ticks ?? header.secondsToTicks(until);
    for (let n = 0, at = ticks; at < end - 1; n++, at += step) {
      const time = header.ticksToSeconds(at);
      beats.push(time);
      if (n % inBar === 0) downbeats.push(time);
    }
  });
  return { beats, downbeats, bpm: 60 / (middleOf(gapsOf(beats)) ?? 0.5) };
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
