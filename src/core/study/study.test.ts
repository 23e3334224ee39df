import { analysisVersion, type TrackAnalysis } from "../analysis/result";
import { defaultAspectWeights } from "../match";
import { tempoGap } from "../units";
import { answeringSpans, standingsOf, type ElementRecord, type StudyRecord, type TrackRecord } from ".";

const analysis = (
  changes: { bpm?: number; lufs?: number; powers?: (band: number) => number } = {},
): TrackAnalysis => {
  const lufs = changes.lufs ?? -14;
  return {
    analysisVersion,
    durationSeconds: 90,
    sampleRate: 44100,
    channels: 2,
    silent: false,
    leadInSeconds: 0,
    tempo: { bpm: changes.bpm ?? 118, confidence: 1, alternatives: [] },
    grid: null,
    loudness: {
      integratedLufs: lufs,
      loudnessRangeLu: 5,
      truePeakDbtp: lufs + 13,
      maxMomentaryLufs: lufs + 4,
      maxShortTermLufs: lufs + 2,
      peakToLoudnessLu: 13,
      crestFactorDb: 15,
      measuredSeconds: 90,
    },
    clippedRuns: 0,
    dcOffsets: [0, 0],
    spectrum: {
      mid: Array.from({ length: 124 }, (_, b) => (changes.powers ?? (() => 0.001))(b)),
      side: new Array<number>(124).fill(0),
    },
    slopeDbPerOctave: -3,
  };
};

const track = (number: number): TrackRecord => ({
  id: `t${number}`,
  role: number === 0 ? "reference" : "version",
  number,
  fileName: `${number}.wav`,
  note: "",
  addedAt: 0,
  file: {
    hash: `h${number}`,
    bytes: 1,
    format: "wav",
    durationSeconds: 90,
    sampleRate: 44100,
    channels: 2,
    warnings: [],
    claims: {},
  },
  job: { state: "done", says: "Done", done: 1, refusal: null },
});

const element = (id: string, changes: Partial<ElementRecord> = {}): ElementRecord => ({
  id,
  name: id,
  fromHz: 40,
  toHz: 110,
  state: "in work",
  note: "",
  weight: 1,
  position: 0,
  ...changes,
});

const study = (elements: ElementRecord[], versions = [track(1), track(2)]): StudyRecord => ({
  id: "s",
  title: "Made up",
  addedAt: 0,
  aspectWeights: defaultAspectWeights,
  reference: track(0),
  versions,
  elements,
});

describe("standings", () => {
  const analyses = new Map([
    ["h0", analysis()],
    ["h1", analysis({ bpm: 120, lufs: -10 })],
    ["h2", analysis()],
  ]);

  it("say how close each version is, the equal one at 100", () => {
    const [first, second] = standingsOf(study([element("kick")]), analyses);
    expect(second!.match).toBe(100);
    expect(first!.match).toBeLessThan(90);
    expect(first!.aspects.tempo).toBeCloseTo(100 * 2 ** -(100 * (120 / 118 - 1) - 0.05), 6);
    expect(first!.aspects.loudness).toBeCloseTo(100 * 2 ** (-3.5 / 2), 6);
  });

  it("do not count elements that are left out", () => {
    // The lowest bands differ, so the kick's level and tone do.
    const differing = new Map(analyses).set("h2", analysis({ powers: (b) => (b < 30 ? 0.01 : 0.001) }));
    const counted = standingsOf(study([element("kick")]), differing)[1]!;
    const leftOut = standingsOf(study([element("kick", { state: "left out" })]), differing)[1]!;
    expect(counted.elements.kick).toBeLessThan(100);
    expect(leftOut.elements.kick).toBeUndefined();
    expect(leftOut.match!).toBeGreaterThan(counted.match!);
  });

  it("have no match before both sides are analysed", () => {
    const [first] = standingsOf(study([element("kick")]), new Map([["h1", analysis()]]));
    expect(first!.match).toBeNull();
    expect(first!.elements).toEqual({});
  });
});

describe("what of a version answers a selection", () => {
  it.each([
    ["nothing selected", null, 90, 90, { reference: null, version: null }],
    [
      "a version of full length",
      { from: 10, to: 20 },
      90,
      90,
      { reference: { from: 10, to: 20 }, version: { from: 10, to: 20 } },
    ],
    ["a short loop", { from: 40, to: 56 }, 90, 16, { reference: { from: 40, to: 56 }, version: null }],
    ["a click", { from: 10, to: 10.2 }, 90, 90, { reference: null, version: null }],
    [
      "past the end",
      { from: 80, to: 200 },
      90,
      95,
      { reference: { from: 80, to: 90 }, version: { from: 80, to: 90 } },
    ],
    ["beyond the reference", { from: 95, to: 99 }, 90, 99, { reference: null, version: null }],
  ])("%s", (_name, selection, referenceSeconds, versionSeconds, expected) => {
    expect(answeringSpans(selection, referenceSeconds, versionSeconds)).toEqual(expected);
  });
});

describe("gap of two tempi", () => {
  it.each([
    [118, 118, 0, 1],
    [118, 120, 1.694915, 1],
    [118, 59, 0, 2],
    [92, 184, 0, 0.5],
    [100, 49.5, -1, 2],
  ])("%f to %f is %f %%, folded by %f", (reference, version, percent, foldedBy) => {
    const gap = tempoGap(reference, version);
    expect(gap.percent).toBeCloseTo(percent, 5);
    expect(gap.foldedBy).toBe(foldedBy);
  });
});
