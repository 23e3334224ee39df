import { steadyGrid } from "../testing/drums";
import {
  countedDrums,
  drumCorrectionSchema,
  withChangedHit,
  withHit,
  withoutHit,
  type DrumCorrection,
} from "./correction";
import { asColumns, type DrumHit } from "./hits";
import { voicesOfStem, withStems } from "./stems";

const grid = steadyGrid(120, 8);
const heard: DrumHit[] = [
  { time: 0.5, voice: "kick", velocity: 0.9, confidence: 0.98 },
  { time: 1, voice: "snare", velocity: 0.8, confidence: 0.95 },
  { time: 1.25, voice: "hat", velocity: 0.5, confidence: 0.3 },
  { time: 1.5, voice: "kick", velocity: 0.85, confidence: 0.9 },
];
const estimate = asColumns(heard, [0.5]);
const counted = (correction: DrumCorrection, of = estimate) => countedDrums(of, correction, grid);
const times = (correction: DrumCorrection, of = estimate) =>
  counted(correction, of).hits.map(({ time, voice }) => [voice, time]);

describe("hits put right", () => {
  it("are as heard without corrections; what is unsure does not count", () => {
    expect(times({})).toEqual([
      ["kick", 0.5],
      ["snare", 1],
      ["kick", 1.5],
    ]);
    expect(counted({}).subThreshold).toMatchObject([{ voice: "hat", time: 1.25 }]);
  });

  it("are added, taken out, moved, given another voice or force", () => {
    const [kick, snare, second] = counted({}).hits;
    expect(times(withHit({}, { time: 2, voice: "tom", velocity: 0.5 }))).toContainEqual(["tom", 2]);
    expect(times(withoutHit({}, kick!))).toEqual([
      ["snare", 1],
      ["kick", 1.5],
    ]);
    expect(times(withChangedHit({}, second!, { time: 1.6 }))).toEqual([
      ["kick", 0.5],
      ["snare", 1],
      ["kick", 1.6],
    ]);
    expect(times(withChangedHit({}, snare!, { voice: "clap" }))).toContainEqual(["clap", 1]);
    const softer = counted(withChangedHit({}, snare!, { velocity: 0.2 })).hits;
    expect(softer).toHaveLength(3);
    expect(softer[1]).toMatchObject({ velocity: 0.2, origin: "by hand" });
    // A millisecond at a time, over and over.
    let correction: DrumCorrection = {};
    for (let i = 0; i < 15; i++) {
      const own = counted(correction).hits.at(-1)!;
      correction = withChangedHit(correction, own, { time: own.time + 0.001 });
    }
    expect(counted(correction).hits).toHaveLength(3);
    expect(counted(correction).hits.at(-1)!.time).toBeCloseTo(1.515, 6);
  });

  it("hold for another analysis that places hits a little otherwise", () => {
    const [kick, snare] = counted({}).hits;
    const correction = withChangedHit(withoutHit({}, kick!), snare!, { voice: "rim" });
    const again = asColumns(
      heard.map((hit) => ({ ...hit, time: hit.time + 0.004, confidence: hit.confidence * 0.9 })),
      [],
    );
    expect(times(correction, again).map(([voice]) => voice)).toEqual(["rim", "kick"]);
  });

  it("forget a hit that was added and taken out again", () => {
    const correction = withHit({}, { time: 2, voice: "tom", velocity: 0.5 });
    const added = counted(correction).hits.find(({ voice }) => voice === "tom")!;
    expect(times(withoutHit(correction, added))).toEqual(times({}));
  });
});

describe("a pattern that was brought in", () => {
  const imported = {
    name: "loop.mid",
    hits: [
      { beat: 0, voice: "kick" as const, velocity: 1 },
      { beat: 3.5, voice: "snare" as const, velocity: 0.5 },
    ],
    lengthBeats: 4,
    firstBar: 2,
    repeats: true,
  };

  it("stands in place of what was heard, over and over, on the grid as it is now", () => {
    expect(times({ imported }).slice(0, 3)).toEqual([
      ["kick", 2.5],
      ["snare", 4.25],
      ["kick", 4.5],
    ]);
    expect(counted({ imported }).subThreshold).toEqual([]);
    const later = countedDrums(estimate, { imported }, steadyGrid(60, 8, 1)).hits;
    expect(later[0]!.time).toBeCloseTo(5, 9);
  });

  it("is struck once where it does not repeat, and can be put right", () => {
    const once = { imported: { ...imported, repeats: false } };
    expect(times(once)).toHaveLength(2);
    const [kick] = counted(once).hits;
    expect(times(withoutHit(once, kick!))).toEqual([["snare", 4.25]]);
  });
});

it("a pattern that would be repeated without end is refused or held within bounds", () => {
  const dense = {
    name: "dense.mid",
    hits: Array.from({ length: 4000 }, (_, i) => ({ beat: i / 8000, voice: "hat" as const, velocity: 0.5 })),
    lengthBeats: 0.5,
    firstBar: 1,
    repeats: true,
  };
  expect(counted({ imported: dense }).hits.length).toBeLessThanOrEqual(20_000);
  expect(drumCorrectionSchema.safeParse({ imported: { ...dense, lengthBeats: 1e-6 } }).success).toBe(false);
  expect(drumCorrectionSchema.safeParse({ imported: dense }).success).toBe(true);
});

describe("stems", () => {
  it.each([
    ["kick.wav", ["kick"]],
    [
      "Copper Kites - drums.flac",
      ["kick", "snare", "clap", "rim", "hat", "openHat", "tom", "cymbal", "perc"],
    ],
    ["hi-hats", ["hat", "openHat"]],
    ["Snare or clap", ["snare", "clap"]],
    ["lead vocal.wav", []],
    ["bass.wav", []],
  ])("%s hold %j", (name, voices) => {
    expect(voicesOfStem(name)).toEqual(voices);
  });

  it("tell their voice better than the mix, at the place where they lie", () => {
    const stem = asColumns([{ time: 0.31, voice: "tom", velocity: 0.7, confidence: 0.8 }], []);
    const { estimate: both, sources } = withStems(estimate, [
      { name: "kick.wav", offsetSeconds: 0.2, estimate: stem },
    ]);
    expect(sources).toEqual({ kick: "kick.wav" });
    expect(times({}, both)).toEqual([
      ["kick", 0.51],
      ["snare", 1],
    ]);
  });
});
