/** Loops held against a track: their bars, tempo and key, and where their drums and chords fit. */
import { drumsAsWritten, steadyGrid, type Written } from "../testing/drums";
import type { PlacedChord } from "../harmony/harmonyEstimate";
import type { Grid } from "../grid/grid";
import { loopFit, type LoopSide } from "./loopFit";

const straight: Written = {
  kick: ["X...X...X...X..."],
  snare: ["....X.......X..."],
  hat: ["..X...X...X...X."],
};
const broken: Written = {
  kick: ["X.....X...X....."],
  snare: ["....X..x.x..X..."],
  hat: ["xxxxxxxxxxxxxxxx"],
};

/** Four chords of a bar each, over and over. */
const chordsOf = (roots: readonly number[], bars: number): PlacedChord[] =>
  Array.from({ length: bars }, (_, bar) => ({
    startBeat: 4 * bar,
    endBeat: 4 * bar + 4,
    chord: {
      root: roots[bar % roots.length]!,
      quality: bar % 4 === 3 ? ("min" as const) : ("maj" as const),
      bass: null,
    },
    confidence: 1,
  })) as unknown as PlacedChord[];

const side = (
  grid: Grid,
  hits: LoopSide["hits"],
  { tonic = 0, chords = [] as PlacedChord[], durationSeconds = grid.beats.at(-1)! } = {},
): LoopSide => ({ durationSeconds, grid, hits, key: { tonic, mode: "major" }, chords });

const track = (() => {
  const grid = steadyGrid(120, 16);
  const { hits } = drumsAsWritten(
    {
      kick: Array.from({ length: 16 }, (_, bar) => (bar < 8 ? straight : broken).kick![0]!),
      snare: Array.from({ length: 16 }, (_, bar) => (bar < 8 ? straight : broken).snare![0]!),
      hat: Array.from({ length: 16 }, (_, bar) => (bar < 8 ? straight : broken).hat![0]!),
    },
    grid,
  );
  return side(grid, hits, { chords: chordsOf([0, 5, 7, 9], 16) });
})();

/** A loop that is cut to the sample: its grid as it was heard errs a little. */
function loop(written: Written, bpm: number, bars: number, options: Parameters<typeof side>[2] = {}) {
  const exact = steadyGrid(bpm, bars, 0);
  const { hits } = drumsAsWritten(written, exact);
  const heard = { ...steadyGrid(bpm * 1.004, bars, 0.003), bpm: bpm * 1.004 };
  return side(heard, hits, { ...options, durationSeconds: (240 * bars) / bpm });
}

describe("a loop", () => {
  it("that is cut to bars has its exact tempo, and is told what brings it in time", () => {
    const fit = loopFit(loop(straight, 125, 2), track)!;
    expect(fit).toMatchObject({ bars: 2, isCut: true });
    expect(fit.bpm).toBeCloseTo(125, 6);
    expect(fit.stretch).toBeCloseTo(120 / 125, 6);
  });

  it("at half the tempo needs no stretching", () => {
    // Heard at 60: a bar of it is two of the reference, and fits as well.
    const slow = loop(straight, 120, 4);
    const heard = {
      ...slow.grid,
      beats: slow.grid.beats.filter((_, i) => i % 2 === 0),
      bpm: slow.grid.bpm / 2,
    };
    const fit = loopFit({ ...slow, grid: heard }, track)!;
    expect(fit).toMatchObject({ bars: 4, isCut: true });
    expect(fit.bpm).toBeCloseTo(120, 6);
    expect(fit.stretch).toBeCloseTo(1, 6);
    expect(fit.drums!.score).toBeGreaterThan(95);
  });

  it("fits where its pattern is played, and less elsewhere", () => {
    const first = loopFit(loop(straight, 120, 2), track)!.drums!;
    const second = loopFit(loop(broken, 120, 2), track)!.drums!;
    expect(first.at.last).toBeLessThanOrEqual(8);
    expect(second.at.first).toBeGreaterThanOrEqual(9);
    for (const { score } of [first, second]) expect(score).toBeGreaterThan(95);
    const other: Written = {
      kick: ["..X..X....X..X.."],
      snare: ["X.......X......."],
      hat: ["X.X.X.X.X.X.X.X."],
    };
    expect(loopFit(loop(other, 120, 2), track)!.drums!.score).toBeLessThan(50);
  });

  it("in another key is shifted, after which its chords are those of the reference", () => {
    const chords = chordsOf([3, 8, 10, 0], 4);
    const fit = loopFit(loop({}, 120, 4, { tonic: 3, chords }), track)!;
    expect(fit.shift).toEqual({ semitones: -3, otherWay: 9 });
    expect(fit.chords!.score).toBeCloseTo(100, 6);
    expect(fit.drums).toBeNull();
  });

  it("is not what is as long as a track", () => {
    expect(loopFit(loop(straight, 120, 40), track)).toBeNull();
  });
});
