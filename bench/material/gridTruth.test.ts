import { mkdtemp, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import path from "node:path";
import { writeMidi, type MidiEvent } from "midi-file";
import { midiGrid, trackerGrid } from "./gridTruth";
import type { Piece } from "./pieces";

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(path.join(tmpdir(), "grid-truth-"));
});
afterAll(() => rm(folder, { recursive: true }));

const tempo = (bpm: number, deltaTime = 0): MidiEvent => ({
  type: "setTempo",
  microsecondsPerBeat: 60e6 / bpm,
  deltaTime,
  meta: true,
});
const metre = (numerator: number, denominator: number, deltaTime = 0): MidiEvent => ({
  type: "timeSignature",
  numerator,
  denominator,
  metronome: 24,
  thirtyseconds: 8,
  deltaTime,
  meta: true,
});

/** A file at 480 ticks to the quarter: tempo and metres, and notes as far apart as said, 128 of them. */
async function pieceOf(events: MidiEvent[], apart = 240): Promise<Piece> {
  const file = path.join(folder, `${events.length}-${Math.random()}.mid`);
  const end: MidiEvent = { type: "endOfTrack", deltaTime: 480 * 64, meta: true };
  const notes = Array.from({ length: 128 }, (): MidiEvent[] => [
    { type: "noteOn", channel: 0, noteNumber: 60, velocity: 80, deltaTime: 0 },
    { type: "noteOff", channel: 0, noteNumber: 60, velocity: 0, deltaTime: apart },
  ]).flat();
  const tracks = [
    [...events, end],
    [...notes, { ...end, deltaTime: 0 }],
  ];
  const bytes = writeMidi({ header: { format: 1, numTracks: 2, ticksPerBeat: 480 }, tracks });
  await writeFile(file, Uint8Array.from(bytes));
  return { name: "made/up", source: "midi", half: "fit", file };
}

describe("beats of a MIDI file", () => {
  it("are quarters, and every fourth begins a bar, where no metre is written", async () => {
    const { bpm, beats, downbeats } = (await midiGrid(await pieceOf([tempo(100)]), 12))!;
    expect(bpm).toBeCloseTo(100, 6);
    expect(beats.slice(0, 3)).toEqual([0, 0.6, 1.2].map((time) => expect.closeTo(time, 6) as number));
    expect(downbeats).toEqual([0, 2.4, 4.8, 7.2, 9.6].map((time) => expect.closeTo(time, 6) as number));
  });

  it("come in dotted quarters where six eighths are written", async () => {
    const { bpm, downbeats } = (await midiGrid(await pieceOf([tempo(120), metre(6, 8)]), 6))!;
    // A dotted quarter lasts 0.75 s where a quarter lasts 0.5 s.
    expect(bpm).toBeCloseTo(80, 6);
    expect(downbeats.slice(0, 3)).toEqual([0, 1.5, 3].map((time) => expect.closeTo(time, 6) as number));
  });

  it("follow a change of metre and of tempo from its place on", async () => {
    const twoBars = 2 * 3 * 480;
    const piece = await pieceOf([tempo(60), metre(3, 4), metre(4, 4, twoBars), tempo(120)]);
    const { downbeats } = (await midiGrid(piece, 12))!;
    expect(downbeats).toEqual([0, 3, 6, 8, 10].map((time) => expect.closeTo(time, 6) as number));
  });

  it("end where what is played ends, though the metre changes later", async () => {
    const piece = await pieceOf([tempo(60), metre(3, 4), metre(4, 4, 8 * 3 * 480)]);
    expect((await midiGrid(piece, 12))!.beats).toHaveLength(12);
  });
});

describe("a MIDI file that was played without looking at its tempo", () => {
  it("says nothing about beats", async () => {
    // Notes every 173 ticks: 166 a minute at the written 60, and nothing falls together with its beats.
    expect(await midiGrid(await pieceOf([tempo(60)], 173), 40)).toBeNull();
    expect(await midiGrid(await pieceOf([tempo(60)], 160), 40)).not.toBeNull();
  });
});

describe("beats of a tracker piece", () => {
  const truth = (rowSeconds: number, rows: number, patternRows: number[]) => ({
    strokes: [],
    unsure: [],
    known: [],
    isDrumless: false,
    rows: Array.from({ length: rows }, (_, i) => i * rowSeconds),
    patternRows,
  });

  it("are so many rows as bring them nearest to 120 a minute", () => {
    expect(trackerGrid(truth(0.12, 128, [0, 64])).bpm).toBeCloseTo(125, 6);
    expect(trackerGrid(truth(0.07, 128, [0, 64])).bpm).toBeCloseTo(60 / 0.56, 6);
  });

  it("have the tempo of long and short rows together", () => {
    // Six and four ticks by turns, as swung patterns are written.
    const rows = Array.from({ length: 128 }, (_, i) => 0.25 * Math.floor(i / 2) + (i % 2) * 0.15);
    expect(trackerGrid({ ...truth(0.125, 128, [0, 64]), rows }).bpm).toBeCloseTo(120, 6);
  });

  it("begin anew with every pattern, though one is cut short", () => {
    const { downbeats } = trackerGrid(truth(0.125, 104, [0, 40]));
    expect(downbeats.map((time) => time / 0.125)).toEqual([0, 16, 32, 40, 56, 72, 88]);
  });
});
