/** Paths through bars, held against every path there is, and what is made of their runs. */
import { bestPath, rowsOf, runsOf, straightened, tidied, type Run } from "./runs";
import type { BarSimilarity } from "./relocation";
import { whiteNoise } from "../testing/signals";

/** What the best of all paths is worth, each tried: chance 0.12 a bar, a jump its cost, beginning or ending to answer half of it. */
function bestOfAll(
  agreement: Float32Array,
  referenceBars: number,
  versionBars: number,
  jump: number,
): number {
  let best = -Infinity;
  const walk = (v: number, last: number, value: number) => {
    if (v === versionBars) {
      best = Math.max(best, value);
      return;
    }
    // No answer: free where there was none before, and at the very beginning.
    walk(v + 1, -1, value - (v > 0 && last >= 0 ? jump / 2 : 0));
    for (let r = 0; r < referenceBars; r++) {
      const cost = v === 0 || (last >= 0 && r === last + 1) ? 0 : last < 0 ? jump / 2 : jump;
      walk(v + 1, r, value - cost + agreement[r * versionBars + v]! - 0.12);
    }
  };
  walk(0, -1, 0);
  return best;
}

const likenessOf = (
  referenceBars: number,
  versionBars: number,
  agreement: (reference: number, version: number) => number,
): BarSimilarity => ({
  agreement: Float32Array.from({ length: referenceBars * versionBars }, (_, at) =>
    agreement(Math.floor(at / versionBars), at % versionBars),
  ),
  selfSimilarity: new Float32Array(referenceBars ** 2),
  referenceBars,
  versionBars,
  firstFour: 0,
});
const never = () => false;

describe("the best path", () => {
  it.each([1, 2, 3, 4, 5, 6, 7, 8])("is as good as the best of all, case %i", (seed) => {
    const [rows, columns] = [4, 5];
    const noise = whiteNoise(0, 1, rows * columns, seed);
    const agreement = Float32Array.from({ length: rows * columns }, (_, i) => Math.abs(noise[i]!));
    for (const jump of [0.1, 0.4, 0.9]) {
      const { score } = bestPath(agreement, rows, columns, jump);
      expect(score).toBeCloseTo(bestOfAll(agreement, rows, columns, jump), 5);
    }
  });

  it("leaves bars without an answer that agree with nothing", () => {
    const { agreement } = likenessOf(8, 8, (i, j) => (i === j && j >= 2 && j < 6 ? 0.9 : 0.02));
    expect([...bestPath(agreement, 8, 8, 0.3).rows]).toEqual([-1, -1, 2, 3, 4, 5, -1, -1]);
  });

  it("jumps where the other place is worth more than the jump", () => {
    const { agreement } = likenessOf(12, 8, (i, j) =>
      i === (j < 4 ? j : j + 4) ? 0.9 : i === j ? 0.7 : 0.1,
    );
    // Four bars at 0.2 more each are worth 0.8.
    expect(runsOf(bestPath(agreement, 12, 8, 0.7).rows)).toHaveLength(2);
    expect(runsOf(bestPath(agreement, 12, 8, 0.9).rows)).toHaveLength(1);
  });
});

describe("runs", () => {
  it("and rows are the same thing", () => {
    const rows = Int32Array.from([-1, 4, 5, 6, -1, 0, 1, 9]);
    const runs = runsOf(rows);
    expect(runs).toEqual([
      { reference: 4, version: 1, bars: 3 },
      { reference: 0, version: 5, bars: 2 },
      { reference: 9, version: 7, bars: 1 },
    ]);
    expect([...rowsOf(runs, 8)]).toEqual([...rows]);
  });

  it("that are short go back on the line of their neighbour where that costs little", () => {
    // Two bars that are a little better elsewhere.
    const likeness = likenessOf(24, 24, (i, j) =>
      i === j ? 0.8 : i === j + 6 && (j === 8 || j === 9) ? 0.85 : 0.1,
    );
    const runs: Run[] = [
      { reference: 0, version: 0, bars: 8 },
      { reference: 14, version: 8, bars: 2 },
      { reference: 10, version: 10, bars: 14 },
    ];
    expect(straightened(runs, likeness, never)).toEqual([{ reference: 0, version: 0, bars: 24 }]);
  });

  it("that are short stay where the neighbour's line has nothing of them", () => {
    const likeness = likenessOf(40, 20, (i, j) => (i === (j >= 8 && j < 12 ? j + 20 : j) ? 0.9 : 0.1));
    const runs: Run[] = [
      { reference: 0, version: 0, bars: 8 },
      { reference: 28, version: 8, bars: 4 },
      { reference: 12, version: 12, bars: 8 },
    ];
    expect(straightened(runs, likeness, never)).toEqual(runs);
  });

  it("meet where fours begin when the bars between say nothing", () => {
    // A section left out: the last bar before the gap is as good as the last bar of what is left out.
    const likeness = likenessOf(24, 16, (i, j) =>
      i === j && j < 9 ? 0.8 : i === j + 8 && j >= 8 ? 0.8 : 0.1,
    );
    const runs: Run[] = [
      { reference: 0, version: 0, bars: 9 },
      { reference: 17, version: 9, bars: 7 },
    ];
    expect(straightened(runs, likeness, never)).toEqual([
      { reference: 0, version: 0, bars: 8 },
      { reference: 16, version: 8, bars: 8 },
    ]);
    // Counted from another bar, they meet there.
    expect(straightened(runs, { ...likeness, firstFour: 1 }, never)[0]!.bars).toBe(9);
  });

  it("lose what does not agree at their ends", () => {
    // Out of the middle of the reference, so that no edge is common to both.
    const { agreement } = likenessOf(40, 16, (i, j) => (i === j + 12 && j >= 2 && j < 13 ? 0.8 : 0.05));
    expect(tidied([{ reference: 12, version: 0, bars: 16 }], agreement, 40, 16)).toEqual([
      { reference: 14, version: 2, bars: 11 },
    ]);
  });

  it("reach the edges that both tracks have, whatever lacks there", () => {
    const { agreement } = likenessOf(16, 16, (i, j) => (i === j && j >= 1 && j < 12 ? 0.8 : 0.05));
    expect(tidied([{ reference: 0, version: 0, bars: 16 }], agreement, 16, 16)).toEqual([
      { reference: 0, version: 0, bars: 16 },
    ]);
  });

  it("answer each bar of the reference once", () => {
    const { agreement } = likenessOf(8, 12, (i, j) => (i === j % 8 ? 0.8 : 0.1));
    const runs = [
      { reference: 0, version: 0, bars: 8 },
      { reference: 0, version: 8, bars: 4 },
    ];
    expect(tidied(runs, agreement, 8, 12)).toEqual([{ reference: 0, version: 0, bars: 8 }]);
  });
});
