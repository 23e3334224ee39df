/** Ranges against a worked example of the literature and by hand; figures against tracks of known make. */
import { madeUpStudy } from "../testing/study";
import { twelfthCount } from "../tone";
import { countedAlike, countedGrid } from "./countedAlike";
import {
  figuresOfStyle,
  outside,
  percentile,
  toneBands,
  toneCurve,
  trackFigures,
  typicalLength,
  typicalRange,
  yardstickOf,
  type TrackFigures,
} from ".";

const { abs } = Math;
const figures = madeUpStudy();
const measured = [...figures.analyses.values()].map((analysis) => trackFigures(analysis));
const plain = measured[0]!;
const withValue = (tempo: number | null, kick: string | null = null): TrackFigures => ({
  ...plain,
  values: { ...plain.values, tempo },
  patterns: { kick, "snare or clap": null, hats: null },
});

describe("typical ranges", () => {
  it("are those of the usual definition (Hyndman and Fan 1996, type 7)", () => {
    // By hand: of 1 to 10, a tenth of the way is 1 + 0.1 × 9.
    const ten = [1, 2, 3, 4, 5, 6, 7, 8, 9, 10];
    expect(percentile(ten, 0.1)).toBeCloseTo(1.9, 12);
    expect(percentile(ten, 0.5)).toBeCloseTo(5.5, 12);
    expect(percentile(ten, 0.9)).toBeCloseTo(9.1, 12);
    expect(percentile([3], 0.9)).toBe(3);
    expect(percentile([0, 10], 0.25)).toBe(2.5);
  });

  it("leave out what could not be measured, and say nothing of too few", () => {
    expect(typicalRange([120, null, 124, NaN, 128])).toEqual({
      low: 120.8,
      median: 124,
      high: 127.2,
      values: [120, 124, 128],
    });
    expect(typicalRange([120, 124, null])).toBeNull();
    expect(yardstickOf([withValue(120), withValue(122)]).tone).toBeNull();
  });

  it("tell how far a value lies outside", () => {
    const range = { low: 10, high: 12 };
    expect([9, 10, 11, 12, 15].map((value) => outside(value, range))).toEqual([-1, 0, 0, 0, 3]);
  });

  it("count patterns that more than one track has, of those that have the drum at all", () => {
    const four = "x...x...x...x...";
    const { patterns, ranges, tracks } = yardstickOf([
      withValue(120, four),
      withValue(null, four),
      withValue(126, "x.....x.x......."),
      withValue(128, null),
    ]);
    expect(tracks).toBe(4);
    expect(ranges.tempo!.values).toEqual([120, 126, 128]);
    expect(patterns).toEqual([{ group: "kick", steps: four, count: 2, of: 3 }]);
  });
});

describe("tracks of one style are counted alike", () => {
  const read = (bpm: number, confidence: number, other: number) => ({
    bpm,
    confidence,
    alternatives: [
      { bpm: other, confidence: 0.95 - confidence },
      { bpm: (bpm * 4) / 3, confidence: 0.02 },
    ],
  });
  const drill = [140, 142, 145].map((bpm) => read(bpm, 0.9, bpm / 2));

  it("where one could be counted twice or half as fast", () => {
    expect(countedAlike([read(70.5, 0.7, 141), ...drill])).toEqual([2, 1, 1, 1]);
    const slow = [70, 72, 71].map((bpm) => read(bpm, 0.9, 2 * bpm));
    expect(countedAlike([...slow, read(140, 0.6, 70)])).toEqual([1, 1, 1, 0.5]);
  });

  it("but not against what is plain, nor after one, nor among several styles, nor where nothing was found", () => {
    // .82 is more than six times .13.
    expect(countedAlike([read(70.5, 0.82, 141), ...drill])[0]).toBe(1);
    // One other, and others of which half are counted elsewhere.
    expect(countedAlike([read(70.5, 0.5, 141), drill[0]!])[0]).toBe(1);
    const house = [118, 120, 122].map((bpm) => read(bpm, 0.9, bpm / 2));
    expect(countedAlike([read(70.5, 0.5, 141), ...drill, ...house])[0]).toBe(1);
    expect(countedAlike([null, { bpm: 93, confidence: 0.4, alternatives: [] }])).toEqual([1, 1]);
  });

  it("on a grid with twice or half the beats, with bars of as many", () => {
    const grid = { beats: [0, 1, 2, 3.2, 4], barOne: 3, beatsPerBar: 4, steady: false, bpm: 60 };
    const twice = countedGrid(grid, 2);
    expect(twice).toMatchObject({ barOne: 6, beatsPerBar: 4, bpm: 120 });
    expect(twice.beats).toEqual([0, 0.5, 1, 1.5, 2, 2.6, 3.2, 3.6, 4]);
    const half = countedGrid(grid, 0.5);
    expect(half).toMatchObject({ beats: [1, 3.2], barOne: 1, bpm: 30 });
    expect(countedGrid(twice, 0.5)).toEqual(grid);
  });

  it("with all figures that hang on the count, and none other", () => {
    const [analysis] = figures.analyses.values();
    const twice = trackFigures(analysis!, 2);
    const { tempo, length, sectionBars, ...others } = twice.values;
    expect(tempo).toBeCloseTo(2 * plain.values.tempo!, 6);
    expect(abs(length! - 2 * plain.values.length!)).toBeLessThanOrEqual(2);
    expect(sectionBars).toBe(2 * plain.values.sectionBars!);
    for (const name of ["loudness", "kickLength", "kickPitch", "width", "slope"] as const)
      expect(others[name]).toBe(plain.values[name]);
    // Steps are half as long.
    expect(twice.patterns.kick!.length % 16).toBe(0);
    expect(twice.patterns.kick).not.toBe(plain.patterns.kick);
    const [own] = figuresOfStyle([analysis!]);
    expect(own).toEqual(plain);
  });
});

describe("figures of a track", () => {
  it("are those of its analysis", () => {
    const [analysis] = figures.analyses.values();
    expect(plain.values).toMatchObject({
      loudness: analysis!.loudness.integratedLufs,
      peakToLoudness: analysis!.loudness.peakToLoudnessLu,
      slope: analysis!.slopeDbPerOctave,
      tempo: 120,
    });
    expect(plain.patterns.kick).toMatch(/^[x.]+$/);
    expect(plain.patterns.kick!.length % 16).toBe(0);
  });

  it("have a typical section that is one of them: half of the track lies in such or shorter ones", () => {
    expect(typicalLength([4, 8, 4, 8])).toBe(8);
    expect(typicalLength([4, 16, 16, 4])).toBe(16);
    expect(typicalLength([8, 8, 8, 32])).toBe(32);
    expect(typicalLength([])).toBeNull();
  });

  it("have a tone curve that does not depend on the level, with pink noise flat", () => {
    const pink = new Float32Array(twelfthCount).fill(1e-4);
    const loud = pink.map((power) => 100 * power);
    const curve = toneCurve(pink);
    expect(curve).toHaveLength(toneBands.length);
    curve.forEach((level) => expect(level).toBeCloseTo(0, 4));
    toneCurve(loud).forEach((level, i) => expect(level).toBeCloseTo(curve[i]!, 4));
    const bright = toneCurve(pink.map((power, i) => (i > twelfthCount / 2 ? 4 * power : power)));
    expect(bright.at(-5)! - bright[5]!).toBeCloseTo(6.02, 1);
  });
});
