import { steadyGrid } from "@/core/testing/drums";
import type { PlacedChord } from "@/core/harmony/harmonyEstimate";
import type { CountedNote } from "@/core/lowEnd/correction";
import { bassLines, bassSentences, degreeOf, noteWords, slideWords } from "./bassLine";

const grid = steadyGrid(120, 4, 0);
const aligned = { reference: grid, version: grid, spans: [{ referenceFirst: 1, versionFirst: 1, bars: 4 }] };
const line = (midiOf: (beat: number) => number): CountedNote[] =>
  Array.from({ length: 16 }, (_, beat) => ({
    start: beat / 2,
    end: beat / 2 + 0.25,
    midi: midiOf(beat),
    cents: 0,
    levelDb: -18,
    sure: 1,
    byHand: false,
  }));
const chord = {
  startBeat: 0,
  endBeat: 16,
  chord: { root: 9, quality: "min", bass: null },
} as unknown as PlacedChord;
const everyBeat = line(() => 0).map(({ start }) => start);
const compared = (version: CountedNote[], kicks = { reference: everyBeat, version: everyBeat }) =>
  bassLines({ reference: line(() => 33), version }, kicks, [chord], aligned, 0);

describe("bass lines", () => {
  it("tell where they differ, in runs of bars", () => {
    const { differing, overlap } = compared(line((beat) => (beat === 1 || beat === 14 ? 35 : 33)));
    expect(differing).toEqual([
      { first: 1, last: 1, notes: 1 },
      { first: 4, last: 4, notes: 1 },
    ]);
    expect(overlap).toBeCloseTo(14 / 16, 9);
  });

  it("are said to lie on the kick and on the root where they do so otherwise", () => {
    expect(bassSentences(compared(line(() => 33)))).toEqual([]);
    const fifths = line((beat) => (beat % 2 === 0 ? 33 : 40));
    expect(bassSentences(compared(fifths, { reference: everyBeat, version: [] }))).toEqual([
      "0 % of your notes begin on a kick, in the reference 100 %.",
      "50 % of your notes are the root of their chord, in the reference 100 %.",
    ]);
  });

  it("name what a note is to its chord, and where it lies", () => {
    const degree = (midi: number) => degreeOf(midi, chord.chord);
    expect([degree(33), degree(36), degree(35)]).toEqual([
      { name: "the root", isOfChord: true },
      { name: "the minor third", isOfChord: true },
      { name: "a major second", isOfChord: false },
    ]);
    const { pairs } = compared(line(() => 33));
    expect(noteWords(pairs[5]!.version!, { grid, kicks: [], chords: [chord] })).toBe(
      "A1, bar 2, beat 2.00, 0.50 beats long, −18.0 dB, the root, off the kick",
    );
  });

  it("say which notes slide, and how many where one side has more of them", () => {
    const slide = { from: 0.1, to: 0.2, before: 0, after: 6.8 };
    const sliding = line(() => 33).map((note, i) => (i < 5 ? { ...note, slide } : note));
    const other = bassLines(
      { reference: sliding, version: line(() => 33) },
      { reference: everyBeat, version: everyBeat },
      [chord],
      aligned,
      0,
    );
    expect(bassSentences(other)).toEqual(["None of your notes slide, in the reference 5."]);
    expect(slideWords(sliding[0]!)).toBe("slides up to E2");
    expect(slideWords({ midi: 40, slide: { ...slide, before: 4.9, after: 0 } })).toBe("slides down from A2");
    expect(slideWords({ midi: 40 })).toBeNull();
  });
});
