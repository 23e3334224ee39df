/** All parts in one MIDI file hold what the files of the single parts hold, for two libraries. */
import { Midi } from "./midiFile";
import { BasicMIDI } from "spessasynth_core";
import { placeHits } from "../drums";
import { readChord } from "../harmony/chords";
import { drumsAsWritten, steadyGrid } from "../testing/drums";
import { bassMidi } from "./bassMidi";
import { drumMidi } from "./drumMidi";
import { planMidi } from "./planMidi";
import { trackMidi } from "./trackMidi";

const grid = steadyGrid(104.25, 4);
const bars = { first: 1, last: 4 };
const drums = placeHits(
  drumsAsWritten({ kick: ["X...X...X...X..."], snare: ["....x.......x..o"] }, grid).hits,
  grid,
);
const sections = [
  { firstBar: 1, lastBar: 2, name: "verse", letter: "A" },
  { firstBar: 3, lastBar: 4, name: "chorus", letter: "B" },
];
const plan = {
  key: { tonic: 9, mode: "minor" as const },
  chords: ["Am", "F", "C", "G"].map((name, i) => ({
    startBeat: 4 * i,
    endBeat: 4 * i + 4,
    chord: readChord(name),
    confidence: 1,
  })),
  sections,
} as unknown as Parameters<typeof planMidi>[0];
const bass = [0, 1, 2, 3].map((i) => ({
  start: grid.beats[4 * i]! + 0.01,
  end: grid.beats[4 * i]! + 0.4,
  midi: 33 + i,
  cents: 0,
  levelDb: -12 - i,
  sure: 1,
}));
const title = "Rust and Reed";
const whole = trackMidi({ title, plan, grid, drums, bass, bars });

const notesOf = (bytes: Uint8Array) =>
  new Midi(bytes).tracks
    .flatMap(({ notes }) => notes)
    .map(({ midi, ticks, durationTicks, velocity }) => [
      ticks,
      midi,
      durationTicks,
      Math.round(127 * velocity),
    ])
    .sort((a, b) => a[0]! - b[0]! || a[1]! - b[1]! || a[2]! - b[2]!);

describe("MIDI of all parts", () => {
  it("has the notes of chords, bass line and drums, each on a track and channel of its own", () => {
    const { tracks, header } = new Midi(whole);
    const playing = tracks.filter(({ notes }) => notes.length > 0);
    expect(playing.map(({ name, channel }) => [name, channel])).toEqual([
      ["Chords", 0],
      ["Chord basses", 1],
      ["Bass line", 2],
      ["Drums", 9],
    ]);
    const single = [
      planMidi(plan, grid, title),
      bassMidi(bass, grid, title),
      drumMidi(drums, grid, { title, bars, timing: "as played", sections }),
    ];
    expect(notesOf(whole)).toEqual(
      single.flatMap(notesOf).sort((a, b) => a[0]! - b[0]! || a[1]! - b[1]! || a[2]! - b[2]!),
    );
    expect(header.tempos[0]!.bpm).toBeCloseTo(104.25, 2);
    expect(
      header.meta.filter(({ type }) => type === "marker").map(({ text, ticks }) => [text, ticks]),
    ).toEqual([
      ["verse", 0],
      ["chorus", 2 * 4 * 960],
    ]);
    expect(header.keySignatures[0]).toMatchObject({ key: "C", scale: "minor" });
  });

  it("is the same for a library that does not know the one that wrote it", () => {
    const midi = BasicMIDI.fromArrayBuffer(whole.buffer.slice(0) as ArrayBuffer);
    const notes = midi.tracks
      .flatMap(({ events }) => events)
      .filter(({ statusByte, data }) => (statusByte & 0xf0) === 0x90 && data[1]! > 0)
      .map(({ ticks, data }) => [ticks, data[0]!])
      .sort((a, b) => a[0]! - b[0]! || a[1]! - b[1]!);
    expect(notes).toEqual(notesOf(whole).map(([ticks, note]) => [ticks, note]));
  });
});
