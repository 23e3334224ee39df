/** Corrections laid over a measured grid. */
import { madeUpAnalysis } from "../testing/study";
import { barsOf, barStart, positionAt } from "./grid";
import { formatBars, parseBars } from "./barRange";
import { gridCorrectionSchema, gridOf, isEmptyCorrection, type GridCorrection } from "./correction";

const { grid: measured, durationSeconds } = madeUpAnalysis();
const corrected = (correction: GridCorrection) => gridOf(measured, durationSeconds, correction)!;

describe("a corrected grid", () => {
  it("is the measured one where nothing is corrected", () => {
    expect(corrected({})).toMatchObject({
      bpm: 120,
      barOne: 0,
      beatsPerBar: 4,
      steady: true,
      beats: measured!.beats,
    });
  });

  it("is moved as a whole by a nudge, after everything else", () => {
    expect(barStart(corrected({ nudgeSeconds: 0.05 }), 1)).toBeCloseTo(0.55, 9);
    expect(barStart(corrected({ barOneAt: 4.5, nudgeSeconds: -0.02 }), 1)).toBeCloseTo(4.48, 9);
  });

  it("has bar 1 on the beat that it is set near to", () => {
    const own = corrected({ barOneAt: 4.52 });
    expect(own.barOne).toBe(8);
    expect(barStart(own, 1)).toBeCloseTo(4.5, 9);
    expect(barsOf(own).first).toBe(-1);
  });

  it("has bar 1 exactly where it is set between beats: all beats move", () => {
    const own = corrected({ barOneAt: 4.7 });
    expect(barStart(own, 1)).toBeCloseTo(4.7, 9);
    expect(own.beats[1]! - own.beats[0]!).toBeCloseTo(0.5, 9);
  });

  it("takes bar 1 at 0:00 for what it says", () => {
    expect(isEmptyCorrection({ barOneAt: 0 })).toBe(false);
    // The nearest beat is half a second on: too far to be intended.
    expect(barStart(corrected({ barOneAt: 0 }), 1)).toBeCloseTo(0, 9);
  });

  it("keeps bar 1 where it is at another tempo", () => {
    const own = corrected({ bpm: 60 });
    expect([own.bpm, barStart(own, 1), own.beats[1]! - own.beats[0]!]).toEqual([60, 0.5, 1]);
    expect(positionAt(own, 4.5)).toEqual({ bar: 2, beat: expect.closeTo(1, 5) });
  });

  it("counts in another metre", () => {
    expect(barStart(corrected({ beatsPerBar: 3 }), 2)).toBeCloseTo(2, 9);
  });

  it("is made of a typed tempo alone where nothing was measured", () => {
    expect(gridOf(null, 10, {})).toBeNull();
    const own = gridOf(null, 10, { bpm: 120, barOneAt: 1 })!;
    expect([barStart(own, 1), own.beatsPerBar]).toEqual([1, 4]);
    expect(own.beats.at(-1)!).toBeGreaterThan(9);
  });

  it("finds the best one tempo through beats that follow a player", () => {
    const played = {
      ...measured!,
      steady: false,
      beats: measured!.beats.map((time, i) => time + 0.004 * (i % 2 ? 1 : -1)),
    };
    const own = gridOf(played, durationSeconds, { manner: "steady" })!;
    expect(own.steady).toBe(true);
    expect(own.bpm).toBeCloseTo(120, 2);
    expect(own.beats[0]!).toBeCloseTo(0.5, 3);
  });
});

describe("what a correction may say", () => {
  it.each<[string, object, boolean]>([
    ["a usual tempo", { bpm: 97.5 }, true],
    ["too slow", { bpm: 19.9 }, false],
    ["too fast", { bpm: 401 }, false],
    ["no number", { bpm: NaN }, false],
    ["6/8", { beatsPerBar: 2 }, true],
    ["13/4", { beatsPerBar: 13 }, false],
    ["a nudge of 2 s", { nudgeSeconds: 2 }, true],
    ["a nudge of 3 s", { nudgeSeconds: 3 }, false],
    ["bar 1 in another hour", { barOneAt: 4000 }, false],
    ["another manner", { manner: "wobbling" }, false],
  ])("%s", (_name, correction, fits) => {
    expect(gridCorrectionSchema.safeParse(correction).success).toBe(fits);
  });

  it("a nudge of 0 is none", () => {
    expect(isEmptyCorrection({ nudgeSeconds: 0 })).toBe(true);
    expect(isEmptyCorrection({ bpm: undefined })).toBe(true);
    expect(isEmptyCorrection({ beatsPerBar: 4 })).toBe(false);
  });
});

describe("bars in an address", () => {
  it.each<[string | null, { first: number; last: number } | null]>([
    ["5-8", { first: 5, last: 8 }],
    ["-1-4", { first: -1, last: 4 }],
    ["-3--1", { first: -3, last: -1 }],
    ["7-7", { first: 7, last: 7 }],
    ["8-5", null],
    ["5", null],
    ["5-8x", null],
    ["1e3-2e3", null],
    ["99999-99999", null],
    ["", null],
    [null, null],
  ])("%s", (text, bars) => {
    expect(parseBars(text)).toEqual(bars);
    if (bars) expect(formatBars(bars)).toBe(text);
  });
});
