/** Boundaries and letters on bars whose sound is known, without any audio. */
import { melodyFeatures, spectralDistance, wideBands, type BarProfile } from "./barProfile";
import { bestPhasedDivision } from "./boundaries";
import { boundaryModel } from "./boundaryModel";
import { lettersOf, withHalvesJoined } from "./similarity";
import { similarityModel } from "./similarityModel";

const onsetRanges = 4;
const rhythmSize = 48;
const harmonySize = 48;

/** What all bars of one material have in common. */
interface Material {
  /** Level of the low and the high half of the bands, dB. */
  low: number;
  high: number;
  loudness: number;
  density: number;
  /** Slots of the bar in which something is struck. */
  struck: readonly number[];
  /** Chroma of its chords, one a bar, over and over. */
  chords: readonly number[];
}

const verse: Material = {
  low: -12,
  high: -30,
  loudness: -18,
  density: 6,
  struck: [0, 24],
  chords: [9, 5, 0, 7],
};
const chorus: Material = {
  low: -6,
  high: -14,
  loudness: -11,
  density: 18,
  struck: [0, 6, 12, 18, 24, 30, 36, 42],
  chords: [5, 7, 9, 0],
};
const bridge: Material = { low: -40, high: -20, loudness: -22, density: 2, struck: [], chords: [2, 2, 4, 4] };

/** A row of mean 0 and length 1 that is high in some places. */
function row(size: number, places: readonly number[]): number[] {
  const plain = Array.from({ length: size }, (_, i): number => (places.includes(i) ? 1 : 0));
  const mean = plain.reduce((a, b) => a + b, 0) / size;
  const length = Math.hypot(...plain.map((x) => x - mean)) || 1;
  return plain.map((x) => (x - mean) / length);
}

/** @param wobble by how much levels of bars of one material differ, dB. */
function profileOf(plan: readonly (readonly [Material, number])[], wobble = 0.5): BarProfile {
  const bars = plan.flatMap(([material, count]) =>
    Array.from({ length: count }, (_, i) => ({ material, i })),
  );
  const count = bars.length;
  const unrest = (bar: number, k: number) => wobble * Math.sin(12.9898 * bar + 78.233 * k);
  const rows = (values: (own: (typeof bars)[number], bar: number) => readonly number[]) =>
    Float32Array.from(bars.flatMap((own, bar) => [...values(own, bar)]));
  const strength = ({ material }: (typeof bars)[number]) => material.struck.length / 8;
  return {
    features: {
      firstBar: 1,
      count,
      rhythm: rows(({ material }) => row(rhythmSize, material.struck)),
      rhythmSize,
      harmony: rows(({ material, i }) =>
        row(
          harmonySize,
          [0, 1, 2, 3].map((quarter) => 12 * quarter + material.chords[i % material.chords.length]!),
        ),
      ),
      harmonySize,
      pitched: new Float32Array(count).fill(0.5),
      upper: new Float32Array(count).fill(0.5),
      energy: new Float32Array(count).fill(0.01),
      quieter: new Float32Array(count),
    },
    firstBar: 1,
    count,
    starts: Float64Array.from({ length: count + 1 }, (_, bar) => 2 * bar),
    spectra: rows(({ material }, bar) =>
      Array.from(
        { length: wideBands },
        (_, b) => (b < wideBands / 2 ? material.low : material.high) + unrest(bar, b),
      ),
    ),
    loudness: rows(({ material }, bar) => [material.loudness + unrest(bar, 99)]),
    brightness: new Float32Array(count).fill(1500),
    width: new Float32Array(count).fill(-12),
    density: rows(({ material }) => [material.density]),
    onsets: rows((own) => Array.from({ length: onsetRanges }, () => strength(own))),
    onsetRanges,
    pitched: rows(({ material }) => [material.low > -20 ? 0.8 : 0.1, 0.6, material.high > -18 ? 0.7 : 0.3]),
    melody: new Float32Array(count * melodyFeatures).fill(0.3),
  };
}

const startsOf = (profile: BarProfile) => bestPhasedDivision(boundaryModel, profile, 0, profile.count);

describe("sections of bars that are known", () => {
  const song = [
    [verse, 8],
    [chorus, 8],
    [verse, 8],
    [chorus, 8],
    [bridge, 8],
    [chorus, 8],
  ] as const;

  it("begin where the material changes, and what comes again has its letter again", () => {
    const profile = profileOf(song);
    const starts = startsOf(profile);
    expect(starts).toEqual([0, 8, 16, 24, 32, 40]);
    const spans = starts.map((start, i) => [start, starts[i + 1] ?? profile.count] as const);
    expect(lettersOf(similarityModel, profile, spans)).toEqual(["A", "B", "A", "B", "C", "B"]);
  });

  it("need not be eight bars long", () => {
    const profile = profileOf([
      [verse, 8],
      [chorus, 12],
      [verse, 8],
    ]);
    expect(startsOf(profile)).toEqual([0, 8, 20]);
  });

  it("are one where nothing changes", () => {
    expect(startsOf(profileOf([[verse, 16]], 0))).toEqual([0]);
  });

  it.each([1, 2, 3])("are found in a track of %i bars too", (bars) => {
    const starts = startsOf(profileOf([[verse, bars]]));
    expect(starts[0]).toBe(0);
    expect(starts.every((start) => start < bars)).toBe(true);
  });
});

describe("the distance of spectra", () => {
  const profile = profileOf(
    [
      [verse, 4],
      [chorus, 4],
    ],
    0,
  );

  it("is the mean difference of the bands, whichever way round", () => {
    // Half of the bands 6 dB apart, half of them 16.
    expect(spectralDistance(profile, [0, 4], [4, 8])).toBeCloseTo(11, 4);
    expect(spectralDistance(profile, [4, 8], [0, 4])).toBeCloseTo(11, 4);
  });

  it("is none between bars of one material", () => {
    expect(spectralDistance(profile, [0, 2], [2, 4])).toBeCloseTo(0, 5);
  });
});

describe("halves of one section", () => {
  const joined = (second: Material, spans: readonly (readonly [number, number])[]) =>
    withHalvesJoined(
      similarityModel,
      profileOf([
        [verse, spans[0]![1]],
        [second, 40],
      ]),
      16,
      spans,
    );
  /** The second time a little fuller. */
  const fuller: Material = { ...verse, density: 9 };
  const eights = [
    [0, 8],
    [8, 16],
  ] as const;

  it("may be a little less alike than sections that have one letter", () => {
    const profile = profileOf([
      [verse, 8],
      [fuller, 40],
    ]);
    expect(lettersOf(similarityModel, profile, eights)).toEqual(["A", "B"]);
    expect(joined(fuller, eights)).toEqual([[0, 16]]);
  });

  it("are as long as each other, together not too long, and of about the same material", () => {
    const uneven = [
      [0, 8],
      [8, 12],
    ] as const;
    const long = [
      [0, 16],
      [16, 32],
    ] as const;
    expect(joined(verse, uneven)).toEqual(uneven);
    expect(joined(verse, long)).toEqual(long);
    expect(joined(chorus, eights)).toEqual(eights);
  });
});
