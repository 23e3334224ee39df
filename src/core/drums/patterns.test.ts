import { drumsAsWritten, steadyGrid, type Written } from "../testing/drums";
import { barLetters, barLikeness, barsOfSteps, describeBars, typicalPattern } from "./patterns";
import { placeHits } from "./steps";

const shape = { beatsPerBar: 4, stepsPerBeat: 4 };
const grid = steadyGrid(120, 16);
const place = (written: Written) => placeHits(drumsAsWritten(written, grid).hits, grid);
const all = { first: 1, last: 16 };

const plain: Written = { kick: ["X...X...X...X..."], snare: ["....X.......X..."], hat: ["x.x.x.x.x.x.x.x."] };

describe("typical pattern", () => {
  it("is the bar that comes again", () => {
    const { periodBars, hits } = typicalPattern(place(plain), all, shape);
    expect(periodBars).toBe(1);
    expect(hits.filter(({ voice }) => voice === "kick").map(({ step }) => step)).toEqual([0, 4, 8, 12]);
    expect(hits.filter(({ voice }) => voice === "snare").map(({ step }) => step)).toEqual([4, 12]);
    expect(hits[0]!.velocity).toBeCloseTo(0.9, 6);
  });

  it("is as long as what comes again, two bars or four", () => {
    const two = place({ kick: ["X..x....X.......", "X.....x...X....."], snare: ["....X.......X..."] });
    expect(typicalPattern(two, all, shape).periodBars).toBe(2);
    const four = place({
      kick: ["X...X...X...X..."],
      snare: ["....X.......X...", "....X.......X...", "....X.......X...", "....X..XX.X.X.XX"],
    });
    expect(typicalPattern(four, all, shape).periodBars).toBe(4);
  });

  it("is not shaken by a hit more or less in single bars", () => {
    const drums = drumsAsWritten(plain, grid, {
      alter: (hit, beat) => (hit.voice === "kick" && (beat === 8 || beat === 37) ? null : hit),
    });
    const { hits } = typicalPattern(placeHits(drums.hits, grid), all, shape);
    expect(hits.filter(({ voice }) => voice === "kick")).toHaveLength(4);
  });
});

describe("bars held against each other", () => {
  it("are alike as far as they have the same hits", () => {
    const [a] = barsOfSteps(place(plain), { first: 1, last: 1 }, shape);
    const [b] = barsOfSteps(place({ ...plain, kick: ["X...X...X...X.x."] }), { first: 1, last: 1 }, shape);
    const [c] = barsOfSteps(place({ kick: ["X.........X....."] }), { first: 1, last: 1 }, shape);
    expect(barLikeness(a!, a!)).toBe(1);
    expect(barLikeness(a!, b!)).toBeGreaterThan(0.85);
    expect(barLikeness(a!, c!)).toBeLessThan(0.5);
    expect(barLikeness(a!, c!)).toBeCloseTo(barLikeness(c!, a!), 9);
  });

  it("have the same letter where they are alike, and none where nothing is struck", () => {
    const breaks: Written = {
      kick: [
        ...Array<string>(8).fill("X...X...X...X..."),
        ...Array<string>(4).fill("X.....X..X......"),
        ...Array<string>(4).fill("................"),
      ],
    };
    const letters = barLetters(barsOfSteps(place(breaks), all, shape));
    expect(letters.slice(0, 8)).toEqual(Array(8).fill("A"));
    expect(letters.slice(8, 12)).toEqual(Array(4).fill("B"));
    expect(letters.slice(12)).toEqual(Array(4).fill(null));
  });

  it("are a fill, the last of four, or just other", () => {
    const bars = (snare: readonly string[]) => {
      const placed = place({ ...plain, snare });
      return describeBars(placed, all, shape, barLetters(barsOfSteps(placed, all, shape)));
    };
    const usual = "....X.......X...";
    const fill = "....X..XX.XXX.XX";
    const once = bars(Array.from({ length: 16 }, (_, i) => (i === 15 ? fill : usual)));
    expect(once.filter(({ kind }) => kind !== "typical").map(({ bar, kind }) => [bar, kind])).toEqual([
      [16, "fill"],
    ]);
    const always = bars([usual, usual, usual, fill]);
    expect(always.filter(({ kind }) => kind === "last of four").map(({ bar }) => bar)).toEqual([
      4, 8, 12, 16,
    ]);
  });
});
