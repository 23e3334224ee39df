/** Songs in 6/8 that were read in fours or threes are put right by their hits; others are left alone. */
import { drumsAsWritten, steadyGrid, type Written } from "../testing/drums";
import type { Grid } from "../grid/grid";
import type { GridEstimate } from "../grid/gridEstimate";
import { compoundGrid } from "./compound";

/** Two beats of three eighths a bar, 60 beats a minute. */
const sixEight = steadyGrid(60, 24, 0.5, 2);
const soul: Written = { kick: ["X....x"], snare: ["...X.."], hat: ["xoxxox"] };

/** What a reading at another tempo would hand on. */
const readAs = (bpm: number, beatsPerBar: number, start: number): { estimate: GridEstimate; grid: Grid } => {
  const grid = steadyGrid(bpm, Math.floor((48 * bpm) / 60 / beatsPerBar), start, beatsPerBar);
  return {
    grid,
    estimate: {
      beats: [...grid.beats],
      downbeats: grid.beats.filter((_, i) => i % beatsPerBar === 0),
      beatsPerBar: beatsPerBar as 3 | 4,
      steady: true,
      bpm,
      confidence: 0.4,
      otherBarStarts: [],
      swing: { eighths: null, sixteenths: null },
    },
  };
};
const asRead = (written: Written, truth: Grid, bpm: number, beatsPerBar: number, start = truth.beats[0]!) => {
  const { grid, estimate } = readAs(bpm, beatsPerBar, start);
  return compoundGrid(drumsAsWritten(written, truth).hits, estimate, grid, truth.beats[0]!);
};

describe("6/8", () => {
  it.each([
    ["at twice its tempo", 120, 4, 0.5],
    ["at twice its tempo, from another eighth", 120, 4, 0.5 + 1 / 3],
    ["at three halves of its tempo, as a waltz", 90, 3, 0.5],
    ["at three halves of its tempo, from the back-beat", 90, 4, 0.5 + 1 / 3],
    ["at its tempo, as four beats", 60, 4, 0.5],
  ])("read %s is found", (_name, bpm, beatsPerBar, start) => {
    const found = asRead(soul, sixEight, bpm, beatsPerBar, start)!;
    expect(found).toMatchObject({ beatsPerBar: 2, bpm: 60 });
    // Every downbeat lies on a true one: bars of two seconds from half a second on.
    for (const time of found.downbeats) expect(Math.abs(((time - 0.5 + 1) % 2) - 1)).toBeLessThan(0.01);
    // None is lost at the beginning, where the beats that were read may begin later than the music.
    expect(found.downbeats[0]).toBeCloseTo(0.5, 2);
  });

  it.each<[string, Written, Grid, number, number]>([
    [
      "a straight beat",
      { kick: ["X...X...X...X..."], snare: ["....X.......X..."], hat: ["x.x.x.x.x.x.x.x."] },
      steadyGrid(120, 24),
      120,
      4,
    ],
    [
      "a shuffle",
      { kick: ["X.....X....."], snare: ["...X.....X.."], hat: ["x.xx.xx.xx.x"] },
      steadyGrid(86, 24),
      86,
      4,
    ],
    [
      "a waltz",
      { kick: ["X....."], snare: ["..x.x."], hat: ["x.xxxx"] },
      steadyGrid(112, 32, 0.5, 3),
      112,
      3,
    ],
    [
      "triplet rolls now and then",
      {
        kick: ["X.....X...X....."],
        snare: ["........X......."],
        hat: ["x.x.x.x.x.x.x.x.", "x..x..x..x..x..x..x..x.."],
      },
      steadyGrid(140, 24),
      140,
      4,
    ],
  ])("%s is left as it is", (_name, written, truth, bpm, beatsPerBar) => {
    expect(asRead(written, truth, bpm, beatsPerBar)).toBeNull();
  });
});
