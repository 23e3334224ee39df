/** Looking closer, wider and along; bars that nothing answers. */
import { steadyGrid } from "@/core/testing/drums";
import { emptyBars, moved, zoomed } from "./look";

const whole = 100;
const shareOf = (time: number, { from, to }: { from: number; to: number }) => (time - from) / (to - from);

describe("a look", () => {
  it("keeps the moment under the pointer where it is", () => {
    const once = zoomed(null, whole, 0.5, 30)!;
    expect(once.to - once.from).toBeCloseTo(50, 9);
    expect(shareOf(30, once)).toBeCloseTo(0.3, 9);
    const twice = zoomed(once, whole, 0.5, 40)!;
    expect(shareOf(40, twice)).toBeCloseTo(shareOf(40, once), 9);
  });

  it("goes no closer than two seconds, and all the way out is the whole", () => {
    let look = zoomed(null, whole, 0.5, 50);
    for (let i = 0; i < 20; i++) look = zoomed(look, whole, 0.5, 50);
    expect(look!.to - look!.from).toBeCloseTo(2, 9);
    for (let i = 0; i < 5; i++) look = zoomed(look, whole, 2, 50);
    expect(look).not.toBeNull();
    for (let i = 0; i < 5; i++) look = zoomed(look, whole, 2, 50);
    expect(look).toBeNull();
  });

  it.each([0, 3, 97, 100, 140])("stays inside the track, around %i s", (pivot) => {
    const look = zoomed({ from: 80, to: 100 }, whole, 0.7, pivot)!;
    expect(look.from).toBeGreaterThanOrEqual(0);
    expect(look.to).toBeLessThanOrEqual(whole);
  });

  it("of a track shorter than the closest look is the whole", () => {
    expect(zoomed(null, 1.5, 0.5, 1)).toBeNull();
  });

  it("moves by a share of itself and stops at the ends", () => {
    expect(moved({ from: 20, to: 40 }, whole, 0.1)).toEqual({ from: 22, to: 42 });
    expect(moved({ from: 1, to: 21 }, whole, -0.1)).toEqual({ from: 0, to: 20 });
    expect(moved({ from: 79, to: 99 }, whole, 0.1)).toEqual({ from: 80, to: 100 });
    expect(moved(null, whole, 0.1)).toBeNull();
  });
});

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
