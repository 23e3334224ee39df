/** Whose turn it is. */
import { sideInTurn } from "./turns";

describe("turns", () => {
  const turns = (
    bars: number,
    beatsPerBar: number,
    loop: { from: number; to: number } | null,
    beats: number[],
  ) =>
    beats
      .map((beat) =>
        sideInTurn(beat, bars, { loop, beatsPerBar, sections: [] }) === "reference" ? "r" : "v",
      )
      .join("");

  it.each([
    ["one bar of four", 1, 4, null, [0, 3.99, 4, 7.9, 8], "rrvvr"],
    ["two bars of three", 2, 3, null, [0, 5.9, 6, 11, 12], "rrvvr"],
    ["from where the loop begins", 1, 4, { from: 6, to: 14 }, [6, 9.9, 10, 13.9], "rrvv"],
    ["at the end of a loop of one turn", 2, 4, { from: 0, to: 8 }, [7.9, 8, 8.01], "rrr"],
    ["ahead of bar 1", 1, 4, null, [-4, -0.1, 0], "vvr"],
  ] as const)("are counted: %s", (_, bars, beatsPerBar, loop, beats, wanted) => {
    expect(turns(bars, beatsPerBar, loop, [...beats])).toBe(wanted);
  });
});

describe("turns of a section each", () => {
  const sections = [8, 24, 40, 72];
  const heard = (beats: number[], loop: { from: number; to: number } | null = null) =>
    beats
      .map((beat) =>
        sideInTurn(beat, "sections", { loop, beatsPerBar: 4, sections }) === "reference" ? "r" : "v",
      )
      .join("");

  it("begin with the reference in the first, and change where the next one begins", () => {
    expect(heard([0, 8, 23.9, 24, 39.9, 40, 71, 72, 500])).toBe("rrrvvrrvv");
  });

  it("are counted from where the loop begins, in the middle of a section or where it begins", () => {
    expect(heard([30, 39.9, 40, 71.9], { from: 30, to: 72 })).toBe("rrvv");
    expect(heard([24, 39.9, 40], { from: 24.001, to: 72 })).toBe("rrv");
  });

  it("are all the reference's where no sections are known", () => {
    expect(sideInTurn(99, "sections", { loop: null, beatsPerBar: 4, sections: [] })).toBe("reference");
  });
});
