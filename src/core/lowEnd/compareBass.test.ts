/** Bass lines written by hand, held against each other and put right. */
import { steadyGrid } from "../testing/drums";
import { compareBass, noteOverlap, pairBass } from "./compareBass";
import { countedBass, withChangedNote, withNote, withoutNote } from "./correction";
import type { BassNote } from "./notes";

const grid = steadyGrid(120, 8, 0);
const all = [{ referenceFirst: 1, versionFirst: 1, bars: 8 }];
/** A note on every beat, half a beat long: a line of four pitches. */
const line: BassNote[] = Array.from({ length: 32 }, (_, beat) => ({
  start: beat / 2,
  end: beat / 2 + 0.25,
  midi: [36, 36, 43, 41][beat % 4]!,
  cents: 0,
  levelDb: -18,
  sure: 1,
}));
const changed = (change: (note: BassNote, i: number) => Partial<BassNote> | null): BassNote[] =>
  line.flatMap((note, i) => {
    const own = change(note, i);
    return own ? [{ ...note, ...own }] : [];
  });
const answersOf = (notes: readonly BassNote[], semitones = 0) =>
  pairBass({ notes: line, grid }, { notes, grid }, all, semitones).map(({ answer }) => answer);
const overlapOf = (notes: readonly BassNote[], semitones = 0) =>
  noteOverlap(pairBass({ notes: line, grid }, { notes, grid }, all, semitones));

describe("bass lines", () => {
  it("are the same as themselves, also a little late and with other lengths", () => {
    expect(overlapOf(line)).toBe(1);
    const late = changed((note) => ({ start: note.start + 0.03, end: note.start + 0.4 }));
    expect(new Set(answersOf(late))).toEqual(new Set(["same"]));
  });

  it("lose what a wrong pitch, a wrong octave, a missing and an extra note weigh", () => {
    const wrong = changed((note, i) => (i % 8 === 2 ? { midi: note.midi + 1 } : {}));
    expect(answersOf(wrong).filter((own) => own === "another pitch")).toHaveLength(4);
    expect(overlapOf(wrong)).toBeCloseTo(28 / 32, 9);
    const octave = changed((note, i) => (i % 8 === 2 ? { midi: note.midi + 12 } : {}));
    expect(overlapOf(octave)).toBeCloseTo(30 / 32, 9);
    const missing = changed((_, i) => (i % 4 === 0 ? null : {}));
    expect(overlapOf(missing)).toBeCloseTo((2 * 24) / 56, 9);
    const extra = [...line, { ...line[0]!, start: 0.25, end: 0.5 }];
    expect(answersOf(extra).filter((own) => own === "extra")).toHaveLength(1);
  });

  it("that are transposed are compared in their own key, whichever way they went", () => {
    const up = changed(({ midi }) => ({ midi: midi + 3 }));
    const down = changed(({ midi }) => ({ midi: midi - 9 }));
    expect([overlapOf(up, 3), overlapOf(down, 3)]).toEqual([1, 1]);
    const { overlaps, lengthOctaves } = compareBass({ notes: line, grid }, { notes: up, grid }, all);
    expect(overlaps[3]).toBe(1);
    expect(overlaps[0]).toBeLessThan(0.3);
    expect(lengthOctaves).toBeCloseTo(0, 9);
  });

  it("tell how much longer the notes of one are, and nothing of too few", () => {
    const long = changed(({ start }) => ({ end: start + 0.5 }));
    expect(compareBass({ notes: line, grid }, { notes: long, grid }, all).lengthOctaves).toBeCloseTo(1, 6);
    expect(compareBass({ notes: line, grid }, { notes: line.slice(0, 5), grid }, all)).toEqual({
      overlaps: Array.from({ length: 12 }, () => null),
      expected: null,
      lengthOctaves: null,
      late: null,
    });
  });

  it("tell how late one is beside the drums, in seconds of the reference", () => {
    const late = changed((note, i) => ({ start: note.start + (i % 4 === 0 ? 0.05 : 0.02) }));
    const by = (shift: number) => compareBass({ notes: line, grid }, { notes: late, grid }, all, shift).late;
    expect(by(0)).toBeCloseTo(0.02, 9);
    // The grid itself lies so much later beneath the drums.
    expect(by(0.015)).toBeCloseTo(0.005, 9);
    const early = changed(({ start }) => ({ start: start - 0.03 }));
    expect(compareBass({ notes: line, grid }, { notes: early, grid }, all).late).toBeCloseTo(-0.03, 9);
  });

  it("count notes that are hardly heard for less, and expect less in common of them", () => {
    const of = (sure: number) => {
      const [ours, theirs] = [line, changed((note, i) => (i % 4 === 0 ? { midi: note.midi + 1 } : {}))].map(
        (notes) => notes.map((note, i) => (i % 4 === 0 ? { ...note, sure } : note)),
      );
      return compareBass({ notes: ours!, grid }, { notes: theirs!, grid }, all);
    };
    expect(of(1).overlaps[0]).toBeCloseTo(0.75, 9);
    expect(of(0).overlaps[0]).toBeGreaterThan(0.95);
    expect(of(1).expected).toBeCloseTo(0.95, 9);
    expect(of(0.3).expected).toBeLessThan(of(1).expected!);
  });

  it("are compared over the bars that answer, wherever those lie", () => {
    const later = changed((note) => ({ start: note.start + 4, end: note.end + 4 }));
    const spans = [{ referenceFirst: 1, versionFirst: 3, bars: 6 }];
    expect(noteOverlap(pairBass({ notes: line, grid }, { notes: later, grid }, spans, 0))).toBe(1);
  });
});

describe("a bass line put right", () => {
  it("has what was added and changed, and not what was removed", () => {
    const [first, second] = countedBass(line, {});
    let correction = withoutNote({}, first!);
    correction = withChangedNote(correction, second!, { midi: 38, end: 0.9 });
    correction = withNote(correction, { start: 0.25, end: 0.4, midi: 40, cents: 0, levelDb: -18, sure: 1 });
    const counted = countedBass(line, correction);
    expect(counted.slice(0, 3).map(({ start, end, midi, byHand }) => [start, end, midi, byHand])).toEqual([
      [0.25, 0.4, 40, true],
      [0.5, 0.9, 38, true],
      [1, 1.25, 43, false],
    ]);
    // What was set by hand is changed and removed without a trace.
    const again = withChangedNote(correction, counted[1]!, { midi: 39 });
    expect(again.removed).toEqual(correction.removed);
    expect(withoutNote(again, countedBass(line, again)[0]!).added).toHaveLength(1);
    // Heard anew some milliseconds off, what was removed stays so.
    expect(
      countedBass(
        changed(({ start }) => ({ start: start + 0.01 })),
        withoutNote({}, first!),
      ),
    ).toHaveLength(31);
  });
});
