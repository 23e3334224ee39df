/** Grids come out as they were put in, to what can be heard. */
import { steadyGrid } from "../testing/drums";
import type { Grid } from "./grid";
import { packGrid, unpackGrid } from "./packedGrid";

describe("packed grids", () => {
  it("keep a steady grid to a microsecond in three numbers", () => {
    const grid = steadyGrid(123.37, 80, 0.317);
    const packed = packGrid(grid);
    expect(packed.beats).toEqual([]);
    expect(JSON.stringify(packed).length).toBeLessThan(200);
    const back = unpackGrid(packed);
    back.beats.forEach((time, i) => expect(time).toBeCloseTo(grid.beats[i]!, 6));
    expect({ ...back, beats: [] }).toEqual({ ...grid, beats: [] });
  });

  it("keep one that follows a player to a tenth of a millisecond", () => {
    const grid: Grid = {
      ...steadyGrid(90, 20, 0.2),
      steady: false,
      beats: Array.from({ length: 81 }, (_, i) => 0.2 + i * 0.66 + 0.01 * Math.sin(i)),
    };
    const back = unpackGrid(packGrid(grid));
    back.beats.forEach((time, i) => expect(Math.abs(time - grid.beats[i]!)).toBeLessThan(6e-5));
  });
});
