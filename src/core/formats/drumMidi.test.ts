/** Drums written as MIDI are read back by two libraries that do not know each other; what others wrote is read by us. */
import { Midi } from "./midiFile";
import { BasicMIDI } from "spessasynth_core";
import { placeHits } from "../drums";
import { drumsAsWritten, steadyGrid } from "../testing/drums";
import { drumMidi } from "./drumMidi";
import { asPattern, readDrumMidi } from "./drumMidiIn";
import { grooveCsv } from "./grooveCsv";
import { ticksPerQuarter } from "./midiFile";

const grid = steadyGrid(117.5, 8);
const drums = drumsAsWritten(
  { kick: ["X...X...X...X..."], snare: ["....x.......x..o"], hat: ["..o...o...o...o."] },
  grid,
  {
    alter: (hit) => (hit.voice === "snare" ? { ...hit, time: hit.time + 0.012 } : hit),
  },
);
const placed = placeHits(drums.hits, grid);
const sections = [
  { firstBar: 1, lastBar: 4, name: "verse", letter: "A" },
  { firstBar: 5, lastBar: 8, name: "chorus", letter: "B" },
];
const written = (timing: "as played" | "quantised", bars = { first: 3, last: 6 }) =>
  drumMidi(placed, grid, { title: "Copper Kites", bars, timing, sections });

/** Notes of a file as one library reads them: number, place in quarters, velocity 1–127. */
const byOne = (bytes: Uint8Array) =>
  new Midi(bytes).tracks
    .flatMap(({ notes }) => notes)
    .map(({ midi, ticks, velocity }) => [ticks / ticksPerQuarter, midi, Math.round(127 * velocity)] as const)
    .sort((a, b) => a[0] - b[0] || a[1] - b[1]);
/** As the other reads them. */
const byOther = (bytes: Uint8Array) => {
  const midi = BasicMIDI.fromArrayBuffer(
    bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength) as ArrayBuffer,
  );
  const notes = midi.tracks
    .flatMap(({ events }) => events)
    .filter(({ statusByte, data }) => (statusByte & 0xf0) === 0x90 && data[1]! > 0)
    .map(({ ticks, data, statusByte }) => ({
      ticks,
      note: data[0]!,
      velocity: data[1]!,
      channel: statusByte & 15,
    }));
  return { midi, notes };
};

describe("MIDI out", () => {
  it("has the same notes for two libraries, on the drum channel", () => {
    const bytes = written("as played");
    const { midi, notes } = byOther(bytes);
    expect(notes.every(({ channel }) => channel === 9)).toBe(true);
    expect(midi.timeDivision).toBe(ticksPerQuarter);
    expect(
      notes
        .map(({ ticks, note, velocity }) => [ticks / ticksPerQuarter, note, velocity] as const)
        .sort((a, b) => a[0] - b[0] || a[1] - b[1]),
    ).toEqual(byOne(bytes));
    expect(notes).toHaveLength(4 * (4 + 3 + 4));
    // General MIDI level 1: 36 bass drum 1, 38 acoustic snare, 42 closed hi-hat.
    expect([...new Set(notes.map(({ note }) => note))].sort((a, b) => a - b)).toEqual([36, 38, 42]);
  });

  it("has tempo, metre, markers and the length of whole bars", () => {
    const bytes = written("as played");
    const one = new Midi(bytes);
    expect(one.header.tempos[0]!.bpm).toBeCloseTo(117.5, 3);
    expect(one.header.timeSignatures[0]!.timeSignature).toEqual([4, 4]);
    expect(
      one.header.meta
        .filter(({ type }) => type === "marker")
        .map(({ text, ticks }) => [text, ticks / ticksPerQuarter]),
    ).toEqual([["chorus", 8]]);
    const { midi } = byOther(bytes);
    expect(midi.tempoChanges[0]!.tempo).toBeCloseTo(117.5, 3);
    expect(midi.tracks.at(-1)!.events.at(-1)!.ticks).toBe(16 * ticksPerQuarter);
    expect(readDrumMidi(bytes)).toMatchObject({
      ok: true,
      value: { lengthQuarters: 16, fromDrumChannel: true },
    });
  });

  it("keeps the true timing, or sits on the steps", () => {
    const place = (bytes: Uint8Array) => byOne(bytes).find(([, note]) => note === 38)![0];
    // 12 ms at 117.5 BPM.
    expect(place(written("as played")) - 1).toBeCloseTo((0.012 * 117.5) / 60, 3);
    expect(place(written("quantised"))).toBe(1);
  });

  it("comes back as the pattern that it was", () => {
    const read = readDrumMidi(written("as played", { first: 1, last: 8 }));
    if (!read.ok) throw new Error(read.refusal.sentence);
    const voices = new Map(read.value.notes.map(({ note, voice }) => [note, voice]));
    const pattern = asPattern(read.value, voices, {
      name: "x.mid",
      firstBar: 1,
      repeats: false,
      quartersPerBeat: 1,
    });
    expect(pattern.hits).toHaveLength(drums.hits.length);
    pattern.hits.forEach(({ beat, voice, velocity }) => {
      const own = placed.find((p) => p.hit.voice === voice && Math.abs(p.beat - beat) < 0.002);
      expect(own).toBeDefined();
      expect(Math.abs(own!.hit.velocity - velocity)).toBeLessThan(0.005);
    });
  });
});

/** Bytes of a file written by hand after the Standard MIDI File 1.0 specification (1988). */
function byHand({
  type = 0,
  division = 96,
  channel = 9,
  endTicks = 384,
  metre = [4, 2],
  microseconds = 500_000,
} = {}): Uint8Array {
  const events = [
    ...[0x00, 0xff, 0x58, 0x04, ...metre, 24, 8],
    ...[0x00, 0xff, 0x51, 0x03, microseconds >> 16, (microseconds >> 8) & 255, microseconds & 255],
    ...[0x00, 0x90 | channel, 36, 100, 0x30, 36, 0],
    ...[0x30, 38, 64, 0x30, 38, 0],
    ...[0x30, 31, 90, 0x30, 31, 0],
  ];
  const rest = endTicks - 5 * 0x30;
  const track = [...events, 0x80 | (rest >> 7), rest & 0x7f, 0xff, 0x2f, 0x00];
  const word = (value: number, bytes: number) =>
    Array.from({ length: bytes }, (_, i) => (value >> (8 * (bytes - 1 - i))) & 255);
  const chunk = (name: string, body: number[]) => [
    ...[...name].map((c) => c.charCodeAt(0)),
    ...word(body.length, 4),
    ...body,
  ];
  return Uint8Array.from([
    ...chunk("MThd", [...word(type, 2), ...word(1, 2), ...word(division, 2)]),
    ...chunk("MTrk", track),
  ]);
}

describe("MIDI in", () => {
  it("reads a file of type 0 with running status and its loop length", () => {
    const read = readDrumMidi(byHand());
    if (!read.ok) throw new Error(read.refusal.sentence);
    expect(
      read.value.hits.map(({ quarter, note, velocity }) => [quarter, note, Math.round(127 * velocity)]),
    ).toEqual([
      [0, 36, 100],
      [1, 38, 64],
      [2, 31, 90],
    ]);
    expect(read.value.lengthQuarters).toBe(4);
    // A note outside the map has no voice until one is chosen.
    expect(read.value.notes).toEqual([
      { note: 31, count: 1, voice: null },
      { note: 36, count: 1, voice: "kick" },
      { note: 38, count: 1, voice: "snare" },
    ]);
    const place = { name: "x", firstBar: 1, repeats: true, quartersPerBeat: 1 };
    const plain = new Map(read.value.notes.map(({ note, voice }) => [note, voice]));
    expect(asPattern(read.value, plain, place).hits).toHaveLength(2);
    expect(asPattern(read.value, new Map(plain).set(31, "perc"), place).hits[2]).toMatchObject({
      voice: "perc",
      beat: 2,
    });
  });

  it("takes all notes where there is no drum channel, and says so", () => {
    const read = readDrumMidi(byHand({ channel: 0 }));
    expect(read).toMatchObject({ ok: true, value: { fromDrumChannel: false } });
  });

  it("counts a part that ends a little after its last hit in whole bars", () => {
    expect(readDrumMidi(byHand({ endTicks: 300 }))).toMatchObject({ ok: true, value: { lengthQuarters: 4 } });
    expect(readDrumMidi(byHand({ endTicks: 768 }))).toMatchObject({ ok: true, value: { lengthQuarters: 8 } });
  });

  it("takes a tempo or metre that cannot be for none", () => {
    const read = (change: Parameters<typeof byHand>[0]) => {
      const outcome = readDrumMidi(byHand(change));
      if (!outcome.ok) throw new Error(outcome.refusal.sentence);
      return [outcome.value.bpm, outcome.value.lengthQuarters];
    };
    expect(read({})).toEqual([120, 4]);
    expect(read({ microseconds: 0 })).toEqual([null, 4]);
    expect(read({ microseconds: 0xffffff })).toEqual([null, 4]);
    expect(read({ metre: [0, 2] })).toEqual([120, 4]);
    expect(read({ metre: [4, 255] })).toEqual([120, 4]);
    expect(read({ metre: [3, 2] })).toEqual([120, 6]);
  });

  it.each<[string, Uint8Array, RegExp]>([
    ["text", new TextEncoder().encode("this is no music at all"), /not a MIDI file/],
    ["nothing", new Uint8Array(0), /not a MIDI file/],
    ["a cut-off file", byHand().subarray(0, 40), /cut off/],
    ["type 2", byHand({ type: 2 }), /type 2/],
    ["film frames", byHand({ division: 0xe728 }), /film frames/],
    ["a damaged track", byHand().map((byte, i) => (i > 22 ? 0xff : byte)), /damaged|no notes/],
  ])("refuses %s in a clear sentence", (_name, bytes, sentence) => {
    const read = readDrumMidi(Uint8Array.from(bytes));
    expect(read.ok).toBe(false);
    if (!read.ok) expect(read.refusal.sentence).toMatch(sentence);
  });
});

describe("groove", () => {
  it("is a row a voice and step, in milliseconds and velocities", () => {
    const rows = grooveCsv(placed, { first: 1, last: 8 }, { beatsPerBar: 4, stepsPerBeat: 4 }, 60 / 117.5)
      .split("\r\n")
      .map((row) => row.split(","));
    expect(rows[0]).toHaveLength(7);
    expect(rows).toContainEqual(["Snare", "5", "2", "12.0", "12.0", "89", "8"]);
    expect(rows).toContainEqual(["Closed hat", "3", "1½", "0.0", "0.0", "64", "8"]);
    // Kick on four steps, snare on three, hat on four.
    expect(rows.filter((row) => row.length === 7)).toHaveLength(1 + 4 + 3 + 4);
  });
});
