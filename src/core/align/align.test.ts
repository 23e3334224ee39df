/** Lining up of made-up tracks whose bars are known, and of stems by their samples. */
import { barStart, type Grid } from "../grid/grid";
import { pitchCount } from "../harmony/pitches";
import { loadFft } from "../dsp/fft";
import { drumsAsWritten, steadyGrid, type Written } from "../testing/drums";
import { stereo, whiteNoise } from "../testing/signals";
import type { BarCurves } from "./barFeatures";
import { findCoverage, plainReading, readAnew, type AlignedSide } from "./coverage";
import { relation } from "./related";
import { relatedModel } from "./relatedModel";
import { comparingRate, findOffset, decimated } from "./offset";

beforeAll(loadFft);

const { round, abs } = Math;

/** What a bar plays: a chord's pitch class, and a rhythm. */
interface Bar {
  chord: number;
  rhythm: string;
}

const fps = 100;

/** Curves as an analysis would make them of a track that plays some bars. */
function track(
  bars: readonly Bar[],
  { bpm = 120, lead = 0.5, semitones = 0, noise = 0.02, seed = 1 } = {},
): AlignedSide {
  const beat = 60 / bpm;
  const seconds = lead + bars.length * 4 * beat + 0.5;
  const frames = round(seconds * fps);
  const random = whiteNoise(0, 60, 1000, seed);
  let next = 0;
  const chance = () => abs(random[next++ % random.length]!);
  const ranges = Array.from({ length: 4 }, () =>
    Float32Array.from({ length: frames }, () => noise * chance()),
  );
  const pitchFrames = round(seconds * 10);
  const strengths = Float32Array.from({ length: pitchFrames * pitchCount }, () => noise * chance());
  const kWeightedMeanSquares = new Float32Array(frames).fill(0.01);
  bars.forEach(({ chord, rhythm }, b) => {
    for (let step = 0; step < 16; step++) {
      const range = "khs.".indexOf(rhythm[step]!);
      if (range < 0 || range > 2) continue;
      const frame = round((lead + (b * 4 + step / 4) * beat) * fps);
      ranges[range]![frame]! += 5;
      ranges[range]![frame + 1]! += 3;
    }
    for (let frame = round((lead + b * 4 * beat) * 10); frame < (lead + (b + 1) * 4 * beat) * 10; frame++) {
      for (const interval of [0, 4, 7]) {
        const pitch = 24 + ((chord + semitones + interval + 24) % 12);
        if (frame < pitchFrames) strengths[frame * pitchCount + pitch]! += 1;
      }
    }
  });
  const grid: Grid = {
    beats: Array.from({ length: bars.length * 4 + 1 }, (_, k) => lead + k * beat),
    barOne: 0,
    beatsPerBar: 4,
    steady: true,
    bpm,
  };
  const curves: BarCurves = {
    onsets: { framesPerSecond: fps, ranges },
    pitches: { framesPerSecond: 10, strengths, tuningCents: 0 },
    kWeightedMeanSquares,
  };
  return { grid, curves, durationSeconds: seconds, hits: [] };
}

const verse = [0, 5, 9, 7].map((chord) => ({ chord, rhythm: "k.h.s.h.k.h.s.hs" }));
const chorus = [5, 7, 4, 9].map((chord) => ({ chord, rhythm: "k.hks.h.k.hks.h." }));
const bridge = [2, 10, 3, 1].map((chord) => ({ chord, rhythm: "k.......s......." }));
const song = [...verse, ...chorus, ...bridge, ...chorus.map((b) => ({ ...b, chord: b.chord + 1 }))];
const reference = track(song);
const spansOf = (side: AlignedSide) => findCoverage(reference, side).spans;

/** Hits that bars are played with, over a grid that begins with bar 1. */
const drummed = (lines: readonly Written[], { grid, ...side }: AlignedSide): AlignedSide => ({
  ...side,
  grid,
  hits: lines
    .flatMap((written, bar) => {
      const from = barStart(grid, bar + 1);
      const one = steadyGrid(grid.bpm, 1, from);
      return drumsAsWritten(written, one).hits;
    })
    .sort((a, b) => a.time - b.time),
});

describe("harmony in common", () => {
  const harmony = (side: AlignedSide) => findCoverage(reference, side).harmony;
  /** The same drums over other chords. */
  const another = (seed: number) =>
    track(
      song.map((bar, i) => ({ ...bar, chord: (bar.chord + seed * (i % 4)) % 12 })),
      { seed },
    );

  it("is all of it in the same track, whatever its key and tempo", () => {
    expect(harmony(track(song, { seed: 2 }))).toBeGreaterThan(0.95);
    expect(harmony(track(song, { semitones: -4, bpm: 126, seed: 3 }))).toBeGreaterThan(0.95);
  });

  it("is little under the same drums with other chords", () => {
    for (const seed of [2, 3, 5]) {
      const found = findCoverage(reference, another(seed));
      expect(found.spans.length).toBeGreaterThan(0);
      expect(found.harmony).toBeLessThan(0.6);
    }
  });

  it("is not told of drums and bass alone, nor against them", () => {
    const drums = track(song, { seed: 4 });
    const strengths = drums.curves.pitches.strengths.map((x) => 0.1 * x);
    const alone = { ...drums, curves: { ...drums.curves, pitches: { ...drums.curves.pitches, strengths } } };
    expect(harmony(alone)).toBeNull();
    expect(findCoverage(alone, reference).harmony).toBeNull();
  });

  it("does not depend on how loud a track is", () => {
    const own = track(song, { seed: 6 });
    const quiet = {
      ...own,
      curves: {
        ...own.curves,
        kWeightedMeanSquares: own.curves.kWeightedMeanSquares.map((x) => 0.01 * x),
        pitches: { ...own.curves.pitches, strengths: own.curves.pitches.strengths.map((x) => 0.1 * x) },
      },
    };
    expect(harmony(quiet)).toBeCloseTo(harmony(own)!, 6);
  });
});

describe("whether two tracks have to do with each other", () => {
  /** Another song: its own chords, its own rhythm, no bar twice. */
  const stranger = (seed: number, bpm = 120) => {
    const rhythms = ["k.hhs..h.k.hs..h", "kh.hs.kh.hk.s.hh", "k..hs..hk..hs.k.", "khhhshhhk.hhs..."];
    return track(
      Array.from({ length: 16 }, (_, i) => ({
        chord: (seed + ((i * i + 3 * i) % 12)) % 12,
        rhythm: rhythms[(i + seed + (i >> 2)) % 4]!,
      })),
      { bpm, seed: 40 + seed },
    );
  };
  const related = (side: AlignedSide, own = reference) => findCoverage(own, side).related;

  it("a track and itself, moved, transposed, at another tempo or in part, have", () => {
    expect(related(reference)).toBeGreaterThan(0.9);
    expect(related(track(song, { lead: 2.2, seed: 2 }))).toBeGreaterThan(0.9);
    expect(related(track(song, { semitones: 3, seed: 3 }))).toBeGreaterThan(0.9);
    expect(related(track(song, { bpm: 126, seed: 4 }))).toBeGreaterThan(0.9);
    expect(related(track(song.slice(4, 12), { seed: 5 }))).toBeGreaterThan(0.7);
  });

  it("strangers have not, and no bar of theirs is said to answer", () => {
    for (const seed of [1, 5, 8]) {
      for (const bpm of [120, 97]) {
        const found = findCoverage(reference, stranger(seed, bpm));
        expect(found.related).toBeLessThan(0.5);
        expect(found).toMatchObject({ spans: [], semitones: null, agreement: 0, reading: plainReading });
      }
    }
  });

  it("songs that share a beat but no chords have not", () => {
    const beat: Written = {
      kick: ["X...X...X...X..."],
      snare: ["....X.......X..."],
      hat: ["x.x.x.x.x.x.x.x."],
    };
    const rhythm = "k.h.s.h.k.h.s.hs";
    const over = (chords: readonly number[], seed: number, semitones = 0) =>
      drummed(
        chords.map(() => beat),
        track(
          chords.map((chord) => ({ chord, rhythm })),
          { seed, semitones },
        ),
      );
    const ours = [0, 5, 9, 7, 0, 5, 9, 7, 2, 10, 3, 1, 0, 5, 9, 7];
    const theirs = [0, 0, 4, 4, 11, 11, 6, 6, 0, 0, 4, 4, 8, 1, 8, 1];
    expect(related(over(theirs, 3), over(ours, 2))).toBeLessThan(0.4);
    expect(related(over(ours, 3, 4), over(ours, 2))).toBeGreaterThan(0.9);
  });

  it("the same bars in another order are less so than in theirs", () => {
    const backwards = track([...song].reverse(), { seed: 7 });
    expect(related(backwards)).toBeLessThan(related(reference));
  });

  it("tells what speaks for it, a number for each weight of the model", () => {
    const heard: number[][] = [];
    findCoverage(reference, reference, false, (evidence) => heard.push(evidence));
    expect(heard).toHaveLength(1);
    expect(heard[0]).toHaveLength(relatedModel.weights.length);
    expect(heard[0]!.every(Number.isFinite)).toBe(true);
    expect(relation(heard[0]!)).toBeCloseTo(related(reference), 9);
  });
});

describe("coverage with drums", () => {
  // Two passages that sound alike on the whole, but for the kicks.
  const bars = Array.from({ length: 24 }, (_, i) => verse[i % 4]!);
  const straight: Written = { kick: ["X...X...X...X..."], hat: ["x.x.x.x.x.x.x.x."] };
  const broken: Written = { kick: ["X.....X...X....."], hat: ["x.x.x.x.x.x.x.x."] };
  const written = Array.from({ length: 24 }, (_, bar) => (bar < 12 ? straight : broken));
  const whole = drummed(written, track(bars));
  const loop = (own: Written) =>
    findCoverage(
      whole,
      drummed(
        Array.from({ length: 8 }, () => own),
        track(bars.slice(0, 8), { seed: 5 }),
      ),
    );

  it("tells passages apart that differ in one drum alone", () => {
    const [there] = loop(straight).spans;
    expect(there!.referenceFirst + there!.bars).toBeLessThanOrEqual(13);
    const [here] = loop(broken).spans;
    expect(here).toMatchObject({ versionFirst: 1, bars: 8 });
    expect(here!.referenceFirst).toBeGreaterThanOrEqual(13);
  });

  it("finds its place where no drums are recreated", () => {
    const bare = track([...song, ...verse].slice(4, 12), { seed: 6 });
    const own = drummed(
      Array.from({ length: 20 }, () => straight),
      track([...song, ...verse]),
    );
    expect(findCoverage(own, bare).spans).toEqual([{ referenceFirst: 5, versionFirst: 1, bars: 8 }]);
  });
});

describe("where fours begin", () => {
  // Fours of which the second and the third begin with the same bar: where the jump lies is open.
  const fours = [
    [0, 5, 9, 7],
    [4, 2, 11, 6],
    [4, 10, 1, 8],
    [3, 8, 5, 11],
    [7, 1, 6, 9],
  ].map((chords, i) =>
    chords.map((chord) => ({ chord, rhythm: ["k.h.s.h.k.h.s.hs", "k.hks.h.k.hks.h."][i % 2]! })),
  );
  fours[2]![0] = fours[1]![0]!;
  const version = track([fours[0]!, ...fours.slice(2)].flat(), { seed: 4 });

  it.each([0, 1])("a section that is left out is left out whole, with bar 1 counted %i bars late", (late) => {
    const plain = track(fours.flat());
    const counted = { ...plain, grid: { ...plain.grid, barOne: 4 * late } };
    expect(findCoverage(counted, version).spans).toEqual([
      { referenceFirst: 1 - late, versionFirst: 1, bars: 4 },
      { referenceFirst: 9 - late, versionFirst: 5, bars: 12 },
    ]);
  });
});

describe("coverage", () => {
  it("of the track itself is the whole, in its own key", () => {
    const found = findCoverage(reference, reference);
    expect(found).toMatchObject({
      spans: [{ referenceFirst: 1, versionFirst: 1, bars: 16 }],
      reading: plainReading,
      semitones: 0,
    });
    expect(found.agreement).toBeCloseTo(1, 2);
  });

  it.each([
    ["a loop out of the middle", song.slice(4, 8), {}, [{ referenceFirst: 5, versionFirst: 1, bars: 4 }]],
    ["a longer lead-in", song, { lead: 3.7 }, [{ referenceFirst: 1, versionFirst: 1, bars: 16 }]],
    ["another tempo", song, { bpm: 131 }, [{ referenceFirst: 1, versionFirst: 1, bars: 16 }]],
    [
      "a passage left out",
      [...song.slice(0, 4), ...song.slice(8)],
      {},
      [
        { referenceFirst: 1, versionFirst: 1, bars: 4 },
        { referenceFirst: 9, versionFirst: 5, bars: 8 },
      ],
    ],
    [
      "another order",
      [...song.slice(8, 12), ...song.slice(0, 8)],
      {},
      [
        { referenceFirst: 9, versionFirst: 1, bars: 4 },
        { referenceFirst: 1, versionFirst: 5, bars: 8 },
      ],
    ],
  ])("of %s", (_name, bars, options, expected) => {
    expect(spansOf(track(bars, { seed: 7, ...options }))).toEqual(expected);
  });

  it.each([-4, -1, 3, 6])("finds a transposition by %i semitones", (semitones) => {
    const found = findCoverage(reference, track(song, { semitones, seed: 8 }));
    expect(found.semitones).toBe(semitones);
    expect(found.spans).toEqual([{ referenceFirst: 1, versionFirst: 1, bars: 16 }]);
  });

  it("counts a version's bars as the reference does where they were read otherwise", () => {
    const version = track(song, { seed: 9 });
    // Read at half tempo and from the second beat on.
    const misread: AlignedSide = {
      ...version,
      grid: {
        ...version.grid,
        beats: version.grid.beats.filter((_, k) => k % 2 === 1),
        barOne: 1,
        bpm: 60,
      },
    };
    const found = findCoverage(reference, misread);
    expect(found.reading.factor).toBe(2);
    const grid = readAnew(misread.grid, found.reading, 4);
    const [span] = found.spans;
    // Whatever the numbers, the same moments answer each other.
    expect(barStart(grid, span!.versionFirst)).toBeCloseTo(barStart(reference.grid, span!.referenceFirst), 2);
    expect(span!.bars).toBeGreaterThanOrEqual(14);
  });

  it("is nothing where nothing agrees", () => {
    const other = track(
      Array.from({ length: 8 }, (_, i) => ({ chord: (i * 7 + 3) % 12, rhythm: "................" })),
      { noise: 0.5, seed: 11 },
    );
    const strange = { ...other, curves: { ...other.curves, kWeightedMeanSquares: new Float32Array(10000) } };
    const bars = findCoverage(reference, strange).spans.reduce((sum, s) => sum + s.bars, 0);
    expect(bars).toBeLessThanOrEqual(4);
  });
});

describe("a stem in its track", () => {
  const rate = 44100;
  const vocal = whiteNoise(-20, 6, rate, 3).map((x, i) => (i % 30000 < 12000 ? x : 0));

  it.each([0, 0.25, 1.7304, -0.4])("is found %f s into it, to the millisecond", (seconds) => {
    const track_ = whiteNoise(-26, 9, rate, 4);
    const at = round(seconds * rate);
    vocal.forEach((x, i) => {
      if (i + at >= 0 && i + at < track_.length) track_[i + at]! += x;
    });
    const common = comparingRate(rate, rate);
    const mono = (samples: Float32Array) =>
      decimated(stereo(samples, samples).channels as [Float32Array, Float32Array], rate, common);
    const found = findOffset(mono(track_), mono(vocal), common)!;
    expect(abs(found.seconds - seconds)).toBeLessThan(0.001);
    expect(found.confidence).toBeGreaterThan(0.5);
  });

  it("has no place where it is silent, and little confidence where it does not belong", () => {
    const silence = new Float32Array(20000);
    expect(findOffset(whiteNoise(-20, 3, 5512, 5), silence, 5512)).toBeNull();
    const stranger = findOffset(whiteNoise(-20, 3, 5512, 5), whiteNoise(-20, 3, 5512, 99), 5512)!;
    expect(stranger.confidence).toBeLessThan(0.5);
  });
});
