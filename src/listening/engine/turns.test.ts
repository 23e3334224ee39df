/** Whose turn it is, and what can be monitored. */
import { lensPartOf, listeningParts } from "@/core/formats/chunks";
import { lensParts } from "@/core/lens/parts";
import { monitorFilterOf, monitorFilters } from "./monitorFilter";
import { sideInTurn } from "./turns";

describe("turns", () => {
  const turns = (
    bars: number,
    beatsPerBar: number,
    loop: { from: number; to: number } | null,
    beats: number[],
  ) =>
    beats.map((beat) => (sideInTurn(beat, bars, { loop, beatsPerBar }) === "reference" ? "r" : "v")).join("");

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

describe("ways of monitoring", () => {
  it("are there for every part of the lens, alone and left out, each with its sound", () => {
    for (const part of lensParts) {
      expect(monitorFilterOf(part)).toMatchObject({ label: `${part} only`, part });
      expect(monitorFilterOf(`without-${part}`)).toMatchObject({ label: `all but ${part}` });
      expect(lensPartOf(part)).toBe(part);
      expect(lensPartOf(`without-${part}`)).toBe(part);
    }
    for (const { name, part } of monitorFilters) {
      expect(monitorFilterOf(name).part).toBe(part);
      expect(lensPartOf(part)).toBeNull();
    }
    expect(new Set(listeningParts).size).toBe(listeningParts.length);
  });
});
