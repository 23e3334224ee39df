/** Places in music and back, and what corrections make of a measured grid. */
import { gridOf } from "./correction";
import {
  barStart,
  barsIn,
  barsOf,
  beatAt,
  downbeatsOf,
  positionAt,
  secondsAt,
  spanOfBars,
  type Grid,
} from "./grid";
import type { GridEstimate } from "./gridEstimate";

/** Four beats a bar at 120 BPM; two beats lie before bar 1, which begins at 1.5 s. */
const grid: Grid = {
  beats: Array.from({ length: 23 }, (_, k) => 0.5 + k * 0.5),
  barOne: 2,
  beatsPerBar: 4,
  steady: true,
  bpm: 120,
};

describe("places", () => {
  it.each([
    [1.5, 1, 1],
    [1.75, 1, 1.5],
    [3.5, 2, 1],
    [3.49, 1, 4.98],
    [1.0, 0, 4],
    [0.25, 0, 2.5],
    [21.5, 11, 1],
  ])("%f s is bar %i beat %f", (seconds, bar, beat) => {
    const position = positionAt(grid, seconds);
    expect(position.bar).toBe(bar);
    expect(position.beat).toBeCloseTo(beat, 4);
  });

  it("lead back to the same time, also between uneven beats and beyond the ends", () => {
    const uneven: Grid = { ...grid, steady: false, beats: [1, 1.5, 2.1, 2.5, 3.2, 3.6] };
    for (const seconds of [0, 0.9, 1.2, 2.1, 3.1, 3.6, 5.5]) {
      expect(secondsAt(uneven, beatAt(uneven, seconds))).toBeCloseTo(seconds, 9);
    }
  });

  it("are gathered to bars", () => {
    expect(barsOf(grid)).toEqual({ first: 0, last: 6 });
    expect(barStart(grid, 3)).toBeCloseTo(5.5, 9);
    expect(spanOfBars(grid, { first: 2, last: 3 })).toEqual({ from: 3.5, to: 7.5 });
    // A little beyond a bar line does not take in the next bar.
    expect(barsIn(grid, 3.45, 7.6)).toEqual({ first: 2, last: 3 });
    expect(barsIn(grid, 4, 4.1)).toEqual({ first: 2, last: 2 });
    expect(downbeatsOf(grid)).toEqual([1.5, 3.5, 5.5, 7.5, 9.5, 11.5]);
  });
});

describe("corrections", () => {
  const measured: GridEstimate = {
    beats: Array.from({ length: 33 }, (_, k) => 0.4 + k * 0.5),
    downbeats: Array.from({ length: 9 }, (_, k) => 0.4 + k * 2),
    beatsPerBar: 4,
    steady: true,
    bpm: 120,
    confidence: 0.9,
    otherBarStarts: [],
    swing: { eighths: null, sixteenths: null },
  };
  const corrected = (correction: Parameters<typeof gridOf>[2]) => gridOf(measured, 17, correction)!;

  it("leave the measurement as it is where there are none", () => {
    expect(corrected({})).toMatchObject({ beats: measured.beats, barOne: 0, beatsPerBar: 4, bpm: 120 });
  });

  it.each([60, 240, 121.5])("%f BPM keeps bar 1 where it is", (bpm) => {
    const found = corrected({ bpm });
    expect(found.bpm).toBe(bpm);
    expect(barStart(found, 1)).toBeCloseTo(0.4, 9);
    expect(secondsAt(found, 4) - secondsAt(found, 3)).toBeCloseTo(60 / bpm, 9);
  });

  it("set bar 1 on the nearest beat, and move the grid where there is none near", () => {
    const onBeat = corrected({ barOneAt: 1.43 });
    expect(barStart(onBeat, 1)).toBeCloseTo(1.4, 9);
    expect(onBeat.beats).toEqual(measured.beats);
    const offBeat = corrected({ barOneAt: 1.15 });
    expect(barStart(offBeat, 1)).toBeCloseTo(1.15, 9);
    expect(offBeat.beats[1]! - offBeat.beats[0]!).toBeCloseTo(0.5, 9);
  });

  it("nudge every beat by the same, after all else", () => {
    const found = corrected({ barOneAt: 1.4, nudgeSeconds: -0.005 });
    expect(barStart(found, 1)).toBeCloseTo(1.395, 9);
  });

  it("count other metres from the same bar 1", () => {
    const waltz = corrected({ beatsPerBar: 3 });
    expect(barStart(waltz, 2)).toBeCloseTo(0.4 + 1.5, 9);
  });

  it("lay a player's beats on the one tempo that fits them best", () => {
    const swaying = {
      ...measured,
      steady: false,
      beats: measured.beats.map((time, k) => time + 0.02 * Math.sin(k)),
    };
    const straight = gridOf(swaying, 17, { manner: "steady" })!;
    expect(straight.steady).toBe(true);
    expect(straight.bpm).toBeCloseTo(120, 0);
    const gaps = straight.beats.slice(1).map((time, k) => time - straight.beats[k]!);
    expect(Math.max(...gaps) - Math.min(...gaps)).toBeLessThan(1e-9);
  });

  it("make a grid where none was found, from a tempo and a bar 1", () => {
    expect(gridOf(null, 10)).toBeNull();
    const made = gridOf(null, 10, { bpm: 90, barOneAt: 1 })!;
    expect(barStart(made, 1)).toBeCloseTo(1, 9);
    expect(made.bpm).toBe(90);
  });
});
