import { steadyGrid } from "../testing/drums";
import type { DrumHit } from "./hits";
import { placeHits, placeInWords, swung, unswung, type MainSwing } from "./steps";

const grid = steadyGrid(120, 8);
const hit = (time: number, voice: DrumHit["voice"] = "hat"): DrumHit => ({
  time,
  voice,
  velocity: 0.7,
  confidence: 1,
});
/** Beats of half a second, from half a second on. */
const at = (beat: number) => 0.5 + beat / 2;

describe("swing", () => {
  // Common practice, no source: 66.7 % puts the second of two eighths on the last third of the beat.
  it.each<[MainSwing, number, number]>([
    [{ of: 8, percent: 200 / 3 }, 0.5, 2 / 3],
    [{ of: 16, percent: 50 }, 0.25, 0.25],
    [{ of: 16, percent: 60 }, 0.25, 0.3],
    [{ of: 16, percent: 60 }, 3.75, 3.8],
    [{ of: 8, percent: 60 }, 7, 7],
  ])("%j moves %f to %f and back", (swing, written, played) => {
    expect(swung(written, swing)).toBeCloseTo(played, 9);
    expect(unswung(played, swing)).toBeCloseTo(written, 9);
  });
});

describe("hits on the grid", () => {
  it("have bar, step and how far from it they are", () => {
    const [early, late] = placeHits([hit(at(4) - 0.012), hit(at(5.75) + 0.014)], grid);
    expect(early).toMatchObject({ bar: 2, quantised: 4, division: 4 });
    expect(early!.offset).toBeCloseTo(-0.012, 6);
    expect(late).toMatchObject({ bar: 2, quantised: 5.75 });
    expect(late!.offset).toBeCloseTo(0.014, 6);
  });

  it("are measured from where swing puts the step", () => {
    const swing: MainSwing = { of: 16, percent: 58 };
    const [second] = placeHits([hit(at(0.29) + 0.004)], grid, swing);
    expect(second!.quantised).toBe(0.25);
    expect(second!.offset).toBeCloseTo(0.004, 6);
  });

  it.each([
    ["thirty-seconds in a roll", [0, 0.125, 0.25, 0.375], 8],
    ["triplet eighths", [0, 1 / 3, 2 / 3], 3],
    ["triplet sixteenths", [0, 1 / 6, 2 / 6, 3 / 6, 4 / 6, 5 / 6], 6],
    ["plain sixteenths, loosely played", [0.01, 0.24, 0.52, 0.75], 4],
  ])("use finer steps where they are played: %s", (_name, places, division) => {
    const placed = placeHits(
      places.map((place) => hit(at(8 + place))),
      grid,
    );
    expect(placed.map((own) => own.division)).toEqual(places.map(() => division));
    placed.forEach((own, i) => expect(Math.abs(own.quantised - 8 - places[i]!)).toBeLessThan(0.03));
  });

  it("keep a flam on one step", () => {
    const placed = placeHits([hit(at(1) - 0.028, "snare"), hit(at(1), "snare")], grid);
    expect(placed.map(({ quantised }) => quantised)).toEqual([1, 1]);
    expect(placed[0]!.offset).toBeCloseTo(-0.028, 6);
  });

  it("count eighths and sixteenths of 6/8 within its dotted beats", () => {
    const compound = steadyGrid(60, 4, 0, 2);
    const placed = placeHits([hit(1 / 3), hit(1 + 2 / 3), hit(2 + 1 / 6)], compound);
    expect(placed.map(({ bar }) => bar)).toEqual([1, 1, 2]);
    placed.forEach(({ offset }) => expect(Math.abs(offset)).toBeLessThan(1e-6));
  });

  it.each([
    [0, "1"],
    [2.75, "3¾"],
    [7.5, "4½"],
    [1 + 1 / 3, "2⅓"],
    [5.125, "2⅛"],
  ])("%f is said as beat %s", (written, says) => {
    expect(placeInWords(written, 4)).toBe(says);
  });
});
