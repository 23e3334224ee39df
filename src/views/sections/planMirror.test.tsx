import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import type { CountedSection } from "@/core/plan";
import { PlanMirror } from "./PlanMirror";
import { answeredWords } from "./SectionTable";

afterEach(cleanup);

const section = (name: string, letter: string, firstBar: number, lastBar: number): CountedSection => ({
  name,
  letter,
  firstBar,
  lastBar,
});
const upper = [section("intro", "A", 1, 4), section("verse", "B", 5, 12)];

describe("sections on the mirror line", () => {
  const open = (lower: Parameters<typeof PlanMirror>[0]["lower"] = null) => {
    const done: string[] = [];
    render(
      <PlanMirror
        bars={{ first: 1, last: 12 }}
        upper={upper}
        lower={lower}
        beatsPerBar={4}
        chosen={{ side: "reference", place: 1 }}
        beat={() => 0}
        onChoose={({ side, place }) => done.push(`choose ${side} ${place}`)}
        onMove={({ side, place }, by) => done.push(`move ${side} ${place} by ${by}`)}
      />,
    );
    return done;
  };

  it("take the room of their bars, and say which is chosen", () => {
    open();
    const verse = screen.getByRole("button", { name: "Reference: verse, letter B, 8 bars from bar 5" });
    expect(verse.getAttribute("aria-pressed")).toBe("true");
    expect(parseFloat(verse.style.left)).toBeCloseTo((100 * 4) / 12, 6);
    expect(parseFloat(verse.style.width)).toBeCloseTo((100 * 8) / 12, 6);
  });

  it("are moved by their handles with the arrow keys; the first has none", () => {
    const done = open();
    const handles = screen.getAllByRole("button", { name: /arrow keys move it/ });
    expect(handles.map((own) => own.getAttribute("aria-label"))).toEqual([
      "verse starts at bar 5; arrow keys move it",
    ]);
    fireEvent.keyDown(handles[0]!, { key: "ArrowRight" });
    fireEvent.keyDown(handles[0]!, { key: "ArrowLeft" });
    fireEvent.keyDown(handles[0]!, { key: "x" });
    expect(done).toEqual(["move reference 1 by 1", "move reference 1 by -1"]);
  });

  it("of a version stand where the reference's bars are", () => {
    const done = open([{ item: section("verse", "B", 1, 8), place: 0, startBeat: 16, endBeat: 48 }]);
    const own = screen.getByRole("button", { name: /^Version: verse/ });
    expect(parseFloat(own.style.left)).toBeCloseTo((100 * 4) / 12, 6);
    fireEvent.click(own);
    expect(done).toEqual(["choose version 0"]);
  });
});

describe("what a version has of a section", () => {
  const answer = { section: upper[1]!, bars: 8, answered: 8, own: null };
  it.each([
    [{ ...answer, answered: 0 }, "missing"],
    [{ ...answer, answered: 3 }, "3 of 8 bars"],
    [answer, "whole"],
    [{ ...answer, own: { section: section("drop", "C", 1, 16), bars: 16 } }, "whole, in your drop of 16"],
  ])("%# is said as it is", (own, words) => {
    expect(answeredWords(own as Parameters<typeof answeredWords>[0])).toBe(words);
  });
});
