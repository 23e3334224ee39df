/** Changes of drums do what they say, and nothing else. */
import { addHits, flattenVelocities, removeHits, shiftHits, straighten, writtenPlace } from "./drumChanges";
import { straightTimeOf, timeOf, type Note, type Song } from "./song";
import { styleSong } from "./songs/styles";

const song = (): Song => styleSong("house", 101);
const notesOf = (own: Song, voice: string): Note[] =>
  own.parts.flatMap(({ notes }) => notes.filter((note) => note.voice === voice));
const count = (own: Song) => own.parts.reduce((sum, { notes }) => sum + notes.length, 0);

describe("known differences of drums", () => {
  it("are made at the place that a hit was written for, swung or not", () => {
    const own = styleSong("speed garage", 101);
    expect(own.swing.percent).toBeGreaterThan(54);
    for (const note of notesOf(own, "hat")) {
      const { beat, off } = writtenPlace(own, note);
      expect((beat * 4) % 1).toBeCloseTo(0, 6);
      expect(Math.abs(off)).toBeLessThan(0.02);
    }
  });

  it("take out the hits that are named and no others", () => {
    const own = song();
    const before = count(own);
    const gone = removeHits(own, "kick", (beat) => beat % 16 === 0);
    expect(gone.length).toBeGreaterThan(2);
    expect(count(own)).toBe(before - gone.length);
    expect(notesOf(own, "kick").some((note) => writtenPlace(own, note).beat % 16 === 0)).toBe(false);
  });

  it("add hits where none is near", () => {
    const own = song();
    const before = notesOf(own, "kick").length;
    const added = addHits(own, "kick", [4, 4.5, 12.5]);
    // A kick stands on beat 4 already.
    expect(added.map((note) => writtenPlace(own, note).beat)).toEqual([4.5, 12.5]);
    expect(notesOf(own, "kick")).toHaveLength(before + 2);
  });

  it("move, flatten and straighten one voice", () => {
    const [before, own] = [styleSong("speed garage", 101), styleSong("speed garage", 101)];
    shiftHits(own, "hat", 0.015);
    notesOf(own, "hat").forEach((note, i) => {
      expect(note.time).toBeCloseTo(notesOf(before, "hat")[i]!.time + 0.015, 9);
    });
    flattenVelocities(own, "hat");
    expect(new Set(notesOf(own, "hat").map(({ velocity }) => velocity)).size).toBe(1);
    expect(new Set(notesOf(own, "kick").map(({ velocity }) => velocity)).size).toBeGreaterThan(1);
    const swung = styleSong("speed garage", 101);
    straighten(swung, "hat");
    notesOf(swung, "hat").forEach((note, i) => {
      const { beat } = writtenPlace(before, notesOf(before, "hat")[i]!);
      const moved = straightTimeOf(before, beat) - timeOf(before, beat);
      expect(note.time).toBeCloseTo(notesOf(before, "hat")[i]!.time + moved, 9);
    });
  });
});
