/** Bars that nothing answers. */
import { steadyGrid } from "@/core/testing/drums";
import { emptyBars } from "./coverage";

describe("bars that are not recreated", () => {
  const grid = steadyGrid(120, 16);
  const gaps = (spans: readonly [referenceFirst: number, bars: number][]) =>
    emptyBars(
      {
        reference: grid,
        version: grid,
        spans: spans.map(([referenceFirst, bars], i) => ({ referenceFirst, versionFirst: 1 + 4 * i, bars })),
      },
      grid,
    );

  it("lie before, between and after what answers, in any order of the version", () => {
    // The grid goes on to the bar that its last beat begins.
    expect(
      gaps([
        [9, 4],
        [3, 2],
      ]),
    ).toEqual([
      { first: 1, last: 2 },
      { first: 5, last: 8 },
      { first: 13, last: 17 },
    ]);
  });

  it("are none where all is answered, and all where nothing is", () => {
    expect(gaps([[1, 17]])).toEqual([]);
    expect(gaps([])).toEqual([{ first: 1, last: 17 }]);
  });

  it("are counted once where bars are answered twice", () => {
    expect(
      gaps([
        [1, 8],
        [5, 6],
      ]),
    ).toEqual([{ first: 11, last: 17 }]);
  });
});
