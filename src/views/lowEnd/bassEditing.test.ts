/** What keys and buttons make of a bass note, on a grid that is not of whole seconds. */
import { steadyGrid } from "@/core/testing/drums";
import { beatAt } from "@/core/grid/grid";
import { countedBass, type CountedNote } from "@/core/lowEnd/correction";
import { addedNote, editedNote, noteEdit } from "./bassEditing";

const grid = steadyGrid(118, 8, 0.3);
const note: CountedNote = {
  start: 1.3,
  end: 1.6,
  midi: 33,
  cents: 12,
  levelDb: -15,
  sure: 0.6,
  byHand: false,
};
const beatsOf = ({ start, end }: { start: number; end: number }) =>
  [beatAt(grid, start), beatAt(grid, end)] as const;

describe("an edit of a bass note", () => {
  it("tunes it to the semitone, and no further than a bass goes", () => {
    expect(editedNote(note, { kind: "pitch", by: 12 }, grid)).toEqual({ midi: 45, cents: 0 });
    expect(editedNote(note, { kind: "pitch", by: 60 }, grid)!.midi).toBe(67);
    expect(editedNote(note, { kind: "pitch", by: -60 }, grid)!.midi).toBe(16);
  });

  it("moves it by beats of the grid and keeps its length, but never before the file", () => {
    const [start, end] = beatsOf(note);
    const moved = editedNote(note, { kind: "move", by: 0.25 }, grid) as CountedNote;
    expect(beatsOf(moved)[0]).toBeCloseTo(start + 0.25, 9);
    expect(beatsOf(moved)[1]).toBeCloseTo(end + 0.25, 9);
    expect(editedNote(note, { kind: "move", by: -100 }, grid)!.start).toBe(0);
    const slide = { from: 1.4, to: 1.5, before: 0, after: 3 };
    const slid = editedNote({ ...note, slide }, { kind: "move", by: 0.25 }, grid)!.slide!;
    expect(beatAt(grid, slid.from)).toBeCloseTo(beatAt(grid, 1.4) + 0.25, 9);
    expect(slid.after).toBe(3);
  });

  it("shortens it to something that can still be seen", () => {
    const [start, end] = beatsOf(note);
    const longer = editedNote(note, { kind: "length", by: 0.25 }, grid)!;
    expect(beatAt(grid, longer.end!)).toBeCloseTo(end + 0.25, 9);
    const least = editedNote(note, { kind: "length", by: -10 }, grid)!;
    expect(beatAt(grid, least.end!) - start).toBeCloseTo(0.05, 9);
    const slid = { ...note, slide: { from: 1.4, to: 1.5, before: 0, after: 3 } };
    // A slide that the note no longer holds goes with its end.
    const kept = noteEdit(slid, { kind: "length", by: 0.25 }, grid).next!;
    expect(kept.slide).toEqual(slid.slide);
    expect(noteEdit(slid, { kind: "length", by: -10 }, grid).next!.slide).toBeUndefined();
  });

  it("says what was done, and takes a note away", () => {
    const { label, next, change } = noteEdit(note, { kind: "away" }, grid);
    expect([label, next]).toEqual(["Bass note A1 removed", null]);
    expect(countedBass([note], change({}))).toEqual([]);
  });

  it("sets a note of half a beat, as loud as the line", () => {
    const line = [-20, -12, -15].map((levelDb) => ({ ...note, levelDb }));
    const { note: added, change } = addedNote(40, 2, grid, line);
    expect(added).toMatchObject({ start: 2, midi: 40, levelDb: -15, sure: 1 });
    expect(beatsOf(added)[1] - beatsOf(added)[0]).toBeCloseTo(0.5, 9);
    expect(countedBass([], change({}))).toHaveLength(1);
    // Without a line there is a usual level.
    expect(addedNote(40, 2, grid, []).note.levelDb).toBe(-20);
  });
});
