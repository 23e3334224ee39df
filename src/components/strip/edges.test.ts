/** Edges of what is recreated. */
import type { Grid } from "@/core/grid/grid";
import { withEdgeMoved } from "./CoverageEdges";

const steady = (bars: number): Grid => ({
  beats: Array.from({ length: 4 * bars }, (_, k) => 0.5 * k),
  barOne: 0,
  beatsPerBar: 4,
  steady: true,
  bpm: 120,
});
const both = { reference: steady(32), version: steady(16) };
const spans = [
  { referenceFirst: 5, versionFirst: 1, bars: 4 },
  { referenceFirst: 13, versionFirst: 9, bars: 4 },
];

describe("edges of recreated bars", () => {
  it("move by whole bars, both sides together", () => {
    expect(withEdgeMoved(spans, 1, "end", 2, both)[1]).toEqual({ ...spans[1], bars: 6 });
    expect(withEdgeMoved(spans, 1, "start", -2, both)[1]).toEqual({
      referenceFirst: 11,
      versionFirst: 7,
      bars: 6,
    });
    expect(withEdgeMoved(spans, 0, "end", -1, both)[1]).toBe(spans[1]);
  });

  it("stop where a track ends, at a neighbour, and at one bar", () => {
    // The version has sixteen bars and begins with its first.
    expect(withEdgeMoved(spans, 1, "end", 99, both)[1]!.bars).toBe(8);
    expect(withEdgeMoved(spans, 0, "start", -99, both)[0]).toEqual(spans[0]);
    expect(withEdgeMoved(spans, 0, "end", 99, both)[0]!.bars).toBe(8);
    expect(withEdgeMoved(spans, 1, "start", -99, both)[1]!.versionFirst).toBe(5);
    expect(withEdgeMoved(spans, 0, "end", -99, both)[0]!.bars).toBe(1);
    expect(withEdgeMoved(spans, 0, "start", 99, both)[0]).toEqual({
      referenceFirst: 8,
      versionFirst: 4,
      bars: 1,
    });
  });
});
