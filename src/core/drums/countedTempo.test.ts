/** Beats that were read too slowly are counted anew by what is struck between them; others are left alone. */
import { drumsAsWritten, steadyGrid, type Written } from "../testing/drums";
import { countedOtherwise } from "./countedTempo";

/** What is said of a pattern, written on its own beats, when it is read at another tempo or metre. */
const readAt = (written: Written, bpm: number, beatsPerBar: number, asBpm = bpm, asBeats = beatsPerBar) => {
  const truth = steadyGrid(bpm, 32, 0.5, beatsPerBar);
  const grid = steadyGrid(asBpm, Math.floor((32 * beatsPerBar * asBpm) / bpm / asBeats), 0.5, asBeats);
  return countedOtherwise(drumsAsWritten(written, truth).hits, grid);
};

const twoBeat: Written = {
  kick: ["X.......X......."],
  snare: ["....X.......X..."],
  hat: ["x.x.x.x.x.x.x.x."],
};
const waltz: Written = { kick: ["X.x.x."], snare: ["X....."], cymbal: ["x.x.x."] };

it("counts twice as fast where every back-beat falls between two beats", () => {
  expect(readAt(twoBeat, 180, 4, 90)).toEqual({ bpm: 180, metre: null });
  expect(readAt(twoBeat, 180, 4)).toBeNull();
});

it("counts in three where two beats of three eighths have nothing on the second", () => {
  expect(readAt(waltz, 160, 3, 160 / 1.5, 2)).toEqual({ bpm: 160, metre: 3 });
  expect(readAt(waltz, 160, 3)).toBeNull();
});

it.each<[string, Written, number, number]>([
  [
    "a slow beat with its back-beat on two and four",
    { kick: ["X.......X......."], snare: ["....X.......X..."] },
    90,
    4,
  ],
  [
    "a back-beat off the beat now and then",
    { kick: ["X.....X...X....."], snare: ["...x..X....x..X."] },
    92,
    4,
  ],
  [
    "kicks on all beats with claps between them at 124",
    { kick: ["X...X...X...X..."], clap: ["..X...X...X...X."] },
    124,
    4,
  ],
  ["6/8 with its back-beat in the middle", { kick: ["X....x"], snare: ["...X.."], hat: ["xoxxox"] }, 60, 2],
])("leaves %s alone", (_name, written, bpm, beatsPerBar) => {
  expect(readAt(written, bpm, beatsPerBar)).toBeNull();
});
