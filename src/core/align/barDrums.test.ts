/** Which drums bars have, and how alike that makes them. */
import { drumsAsWritten, steadyGrid, type Written } from "../testing/drums";
import { barDrums, drumSimilarity } from "./barDrums";

const bars = 8;
const full: Written = {
  kick: ["X...X...X...X..."],
  snare: ["....X.......X..."],
  hat: ["x.o.x.o.x.o.x.o."],
};
const rowsOf = (written: Written, grid = steadyGrid(120, bars)) =>
  barDrums(drumsAsWritten(written, grid).hits, grid, 1, bars);
const of = (a: Written, b: Written) => {
  const { similarity, says } = drumSimilarity(rowsOf(a), rowsOf(b));
  // The fourth bar against the fourth: nothing at the edges.
  return { similarity: similarity[3 * bars + 3]!, says: says[3 * bars + 3]! };
};

describe("drums of bars", () => {
  it("are the same where the same is played, at any tempo", () => {
    expect(of(full, full).similarity).toBeCloseTo(1, 5);
    const { similarity } = drumSimilarity(rowsOf(full), rowsOf(full, steadyGrid(97, bars, 0.1)));
    expect(Math.min(...similarity)).toBeGreaterThan(0.99);
  });

  it("differ the more, the more is left out", () => {
    const sparse: Written = { ...full, hat: ["x.o.x.o.x.o.x.o.", "................"] };
    const rows = rowsOf(sparse);
    const { similarity } = drumSimilarity(rowsOf(full), rows);
    const [same, without] = [similarity[0]!, similarity[1]!];
    expect(same).toBeCloseTo(1, 5);
    expect(without).toBeLessThan(0.85);
    const kicksOnly = drumSimilarity(
      rowsOf(full),
      rowsOf({ ...full, snare: ["....X.......X...", "................"], hat: sparse.hat }),
    );
    expect(kicksOnly.similarity[1]!).toBeLessThan(without - 0.1);
  });

  it("take a clap for a snare, and hits a little off their place for the same", () => {
    expect(of(full, { kick: full.kick, clap: full.snare, hat: full.hat }).similarity).toBeCloseTo(1, 5);
    const grid = steadyGrid(120, bars);
    const loose = drumsAsWritten(full, grid, {
      alter: (hit, beat) => ({ ...hit, time: hit.time + (beat % 2 === 0 ? 0.025 : -0.02) }),
    });
    const { similarity } = drumSimilarity(rowsOf(full), barDrums(loose.hits, grid, 1, bars));
    expect(similarity[3 * bars + 3]!).toBeGreaterThan(0.7);
  });

  it("do not count a drum that one track does not play at all", () => {
    expect(of(full, { kick: full.kick, snare: full.snare }).similarity).toBeCloseTo(1, 5);
    expect(of({ hat: full.hat }, { kick: full.kick, snare: full.snare })).toEqual({ similarity: 0, says: 0 });
  });

  it("say nothing where neither plays", () => {
    expect(of({}, {})).toEqual({ similarity: 0, says: 0 });
    expect(of(full, full).says).toBe(1);
  });
});
