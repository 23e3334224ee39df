import { madeUpLowEnd } from "../testing/lowEnd";
import { madeUpEnvelopes } from "../testing/envelopes";
import { fineBandCount } from "../tone";
import { analysisVersion, type TrackAnalysis } from "../analysis/result";
import { noDrums } from "../drums";
import { defaultAspectWeights } from "../match";
import { tempoGap } from "../units";
import type { Grid } from "../grid/grid";
import {
  coveredSpans,
  documentOf,
  inOrder,
  measuresOfWhole,
  movedPlace,
  noCorrections,
  sameSeconds,
  studyDocumentSchema,
  scoresOfVersions,
  withDocument,
  type ElementRecord,
  type StoredAlignment,
  type StudyRecord,
  type TrackRecord,
} from ".";

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
    tuningCents: 0,
    plan: {
      harmony: { key: null, chords: [], bars: { firstBar: 1, beatsPerBar: 4, chroma: [] } },
      form: null,
    },
    drums: noDrums,
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
    clippedPlaces: [],
    dcOffsets: [0, 0],
    spectrum: {
      mid: Array.from({ length: 124 }, (_, b) => (changes.powers ?? (() => 0.001))(b)),
      side: new Array<number>(124).fill(0),
      cross: new Array<number>(124).fill(0),
    },
    slopeDbPerOctave: -3,
    narrowPeaks: { excess: new Array<number>(fineBandCount).fill(0), resonances: [] },
    wobble: { depthCents: 1.2, rateHz: 1.5, confidence: 0.8 },
    envelopes: madeUpEnvelopes(),
    bass: [],
    lowEnd: madeUpLowEnd(),
  };
};

const track = (number: number): TrackRecord => ({
  id: `t${number}`,
  role: number === 0 ? "reference" : "version",
  number,
  fileName: `${number}.wav`,
  note: "",
  starred: false,
  place: null,
  addedAt: 0,
  file: {
    hash: `h${number}`,
    bytes: 1,
    format: "wav",
    durationSeconds: 90,
    sampleRate: 44100,
    channels: 2,
    warnings: [],
    tags: {},
  },
  job: { state: "done", message: "Done", done: 1, refusal: null },
  corrections: noCorrections,
  coverage: null,
  stems: [],
});

const element = (id: string, changes: Partial<ElementRecord> = {}): ElementRecord => ({
  id,
  name: id,
  lens: null,
  fromHz: 40,
  toHz: 110,
  state: "in work",
  note: "",
  weight: 1,
  target: null,
  hidden: false,
  ...changes,
});

const study = (elements: ElementRecord[], versions = [track(1), track(2)]): StudyRecord => ({
  id: "s",
  title: "Made up",
  addedAt: 0,
  aspectWeights: defaultAspectWeights,
  intended: { bpm: null, semitones: 0 },
  marks: {},
  target: null,
  styleAspects: [],
  folder: null,
  standIn: null,
  reference: track(0),
  versions,
  elements,
  candidates: [],
  yardstick: [],
});

describe("scores", () => {
  const pair = (version: TrackAnalysis, semitones: number | null = 0) => ({
    alignment: aligned(version, semitones),
    comparison: null,
  });
  const aligned = (version: TrackAnalysis, semitones: number | null): StoredAlignment => ({
    alignment: {
      spans: [],
      reading: { factor: 1, shift: 0, firstBeat: 0 },
      semitones,
      agreement: 1,
      harmony: null,
      related: 1,
    },
    measures: { reference: measuresOfWhole(analysis()), version: measuresOfWhole(version) },
  });
  const analyses = new Map([
    ["t1", pair(analysis({ bpm: 120, lufs: -10 }))],
    ["t2", pair(analysis())],
  ]);

  it("say how close each version is, the equal one at 100", () => {
    const [first, second] = scoresOfVersions(study([element("kick")]), analyses);
    expect(second!.match).toBe(100);
    expect(first!.match).toBeLessThan(90);
    expect(first!.aspects.tempo).toBeCloseTo(100 * 2 ** -(100 * (120 / 118 - 1) - 0.05), 6);
    expect(first!.aspects.loudness).toBeCloseTo(100 * 2 ** (-3.5 / 2), 6);
  });

  it("say what they moved with against the version before, as gaps to the reference", () => {
    // 3 dB too loud and the lowest bands 10 dB too strong; then right.
    const strong = analysis({ lufs: -11, powers: (b) => (b < 30 ? 0.01 : 0.001) });
    const [first, second] = scoresOfVersions(
      study([element("kick")]),
      new Map([
        ["t1", pair(strong)],
        ["t2", pair(analysis())],
      ]),
    );
    expect(first!.causes).toEqual({});
    const { causes } = second!;
    expect(causes.loudness).toEqual({ kind: "measure", name: "integratedLoudness", was: 3, is: 0 });
    const tone = causes.tone as Extract<(typeof causes)[string], { kind: "range" }>;
    expect(tone.kind).toBe("range");
    // The bands below 30 of 124 end at about 110 Hz; at equal loudness they were 10 − 3 dB too strong.
    expect(tone.toHz).toBeGreaterThan(80);
    expect(tone.toHz).toBeLessThan(130);
    expect(tone.was).toBeGreaterThan(5.5);
    expect(tone.was).toBeLessThan(7.01);
    expect(tone.is).toBeCloseTo(0, 6);
    expect(causes.kick).toMatchObject({ kind: "measure", is: 0 });
    // What did not move has none.
    expect(Object.keys(causes)).not.toContain("tempo");
  });

  it("do not count elements that are left out", () => {
    // The lowest bands differ, so the kick's level and tone do.
    const differing = new Map(analyses).set("t2", pair(analysis({ powers: (b) => (b < 30 ? 0.01 : 0.001) })));
    const counted = scoresOfVersions(study([element("kick")]), differing)[1]!;
    const leftOut = scoresOfVersions(study([element("kick", { state: "left out" })]), differing)[1]!;
    expect(counted.elements.kick).toBeLessThan(100);
    expect(leftOut.elements.kick).toBeUndefined();
    expect(leftOut.match!).toBeGreaterThan(counted.match!);
  });

  it("have no match before the two are lined up", () => {
    const [first] = scoresOfVersions(study([element("kick")]), new Map());
    expect(first!.match).toBeNull();
    expect(first!.elements).toEqual({});
  });

  it("forgive what is intended: another tempo, another key", () => {
    const apart = new Map([["t1", pair(analysis({ bpm: 124 }), 3)]]);
    const strict = scoresOfVersions(study([], [track(1)]), apart)[0]!;
    expect(strict.aspects.tempo).toBeLessThan(5);
    expect(strict.aspects.harmony).toBeCloseTo(100 * 2 ** -2.9, 6);
    const intended = { ...study([], [track(1)]), intended: { bpm: 124, semitones: 3 } };
    expect(scoresOfVersions(intended, apart)[0]!.aspects).toMatchObject({ tempo: 100, harmony: 100 });
    // An octave apart is the same key.
    const octave = { ...intended, intended: { bpm: 124, semitones: -9 } };
    expect(scoresOfVersions(octave, apart)[0]!.aspects.harmony).toBe(100);
    const unpitched = new Map([["t1", pair(analysis(), null)]]);
    expect(scoresOfVersions(study([], [track(1)]), unpitched)[0]!.aspects.harmony).toBeNull();
  });
});

describe("what of both is compared", () => {
  const steady = (bpm: number, start: number, bars: number): Grid => ({
    beats: Array.from({ length: 4 * bars + 1 }, (_, k) => start + (k * 60) / bpm),
    barOne: 0,
    beatsPerBar: 4,
    steady: true,
    bpm,
  });
  // A bar is 2 s in the reference, 2.4 s in the version, whose bars 1 to 4 answer bars 5 to 8.
  const lined = {
    reference: steady(120, 0.5, 16),
    version: steady(100, 1, 4),
    spans: [{ referenceFirst: 5, versionFirst: 1, bars: 4 }],
  };

  it("is all that is recreated, where nothing is selected", () => {
    const { reference, version } = coveredSpans(null, lined);
    expect(reference).toEqual([{ from: 8.5, to: 16.5 }]);
    expect(version[0]!.from).toBeCloseTo(1, 9);
    expect(version[0]!.to).toBeCloseTo(1 + 9.6, 9);
  });

  it("is what of the selection is recreated, beat for beat at each tempo", () => {
    const { reference, version } = coveredSpans({ from: 4.5, to: 10.5 }, lined);
    expect(reference).toEqual([{ from: 8.5, to: 10.5 }]);
    expect(version[0]!.to - version[0]!.from).toBeCloseTo(2.4, 9);
  });

  it("is nothing where the selection is not recreated", () => {
    expect(coveredSpans({ from: 0.5, to: 8.5 }, lined)).toEqual({ reference: [], version: [] });
  });

  it.each([
    ["nothing selected", null, 90, 90, { reference: null, version: null }],
    [
      "a version of full length",
      { from: 10, to: 20 },
      90,
      90,
      { reference: [{ from: 10, to: 20 }], version: [{ from: 10, to: 20 }] },
    ],
    ["a short loop", { from: 40, to: 56 }, 90, 16, { reference: [{ from: 40, to: 56 }], version: null }],
    ["a click", { from: 10, to: 10.2 }, 90, 90, { reference: null, version: null }],
    [
      "past the end",
      { from: 80, to: 200 },
      90,
      95,
      { reference: [{ from: 80, to: 90 }], version: [{ from: 80, to: 90 }] },
    ],
  ])("goes by seconds without bars: %s", (_name, selection, referenceSeconds, versionSeconds, expected) => {
    expect(sameSeconds(selection, referenceSeconds, versionSeconds)).toEqual(expected);
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

describe("the document of a study", () => {
  const whole = study([element("kick"), element("bass")]);

  it("holds what can be edited, and makes the same study again", () => {
    const document = documentOf(whole);
    expect(studyDocumentSchema.safeParse(document).success).toBe(true);
    expect(withDocument(whole, document)).toEqual({ ...whole, intended: { ...whole.intended, drums: [] } });
  });

  it("puts versions where they were put, by their numbers else", () => {
    const versions = [1, 2, 3, 4].map((number) => ({
      id: `v${number}`,
      number,
      place: null as number | null,
    }));
    const after = (id: string, by: -1 | 1) => {
      const place = movedPlace(inOrder(versions), id, by);
      return inOrder(versions.map((own) => (own.id === id ? { ...own, place: place ?? own.place } : own)));
    };
    const numbers = (list: { number: number }[]) => list.map(({ number }) => number).join("");
    expect(numbers(inOrder([...versions].reverse()))).toBe("1234");
    expect(numbers(after("v2", 1))).toBe("1324");
    expect(numbers(after("v3", 1))).toBe("1243");
    expect(numbers(after("v2", -1))).toBe("2134");
    // As often as one likes, there and back.
    let list = [...versions];
    for (const by of [-1, -1, -1, 1, 1, 1, 1, -1, -1, -1] as const)
      list = list.map((own) =>
        own.id === "v4" ? { ...own, place: movedPlace(inOrder(list), "v4", by) ?? own.place } : own,
      );
    expect(numbers(inOrder(list))).toBe("4123");
    expect([
      movedPlace(versions, "v4", 1),
      movedPlace(versions, "v1", -1),
      movedPlace(versions, "x", 1),
    ]).toEqual([null, null, null]);
  });

  it("leaves out what it removes and orders what it orders", () => {
    const document = documentOf(whole);
    const changed = withDocument(whole, {
      ...document,
      study: { ...document.study, title: "Renamed" },
      elementOrder: ["bass"],
      items: {
        ...document.items,
        t1: { ...document.items.t1!, removed: true },
        t2: { ...document.items.t2!, note: "n" },
      },
    });
    expect(changed.title).toBe("Renamed");
    expect(changed.elements.map(({ id }) => id)).toEqual(["bass"]);
    expect(changed.versions.map(({ number, note }) => [number, note])).toEqual([[2, "n"]]);
  });

  it.each<[string, (document: ReturnType<typeof documentOf>) => unknown]>([
    ["an element named twice", (d) => ({ ...d, elementOrder: ["kick", "kick"] })],
    ["an element of nowhere", (d) => ({ ...d, elementOrder: ["kick", "nowhere"] })],
    ["an empty title", (d) => ({ ...d, study: { ...d.study, title: "  " } })],
    [
      "a weight below 0",
      (d) => ({ ...d, study: { ...d.study, aspectWeights: { ...d.study.aspectWeights, tempo: -1 } } }),
    ],
    [
      "a range that ends before it begins",
      (d) => ({ ...d, elements: { ...d.elements, kick: { ...d.elements.kick, toHz: 20 } } }),
    ],
    [
      "bars answered twice",
      (d) => ({
        ...d,
        items: {
          ...d.items,
          t1: {
            ...d.items.t1,
            coverage: [
              { referenceFirst: 1, versionFirst: 1, bars: 4 },
              { referenceFirst: 4, versionFirst: 9, bars: 1 },
            ],
          },
        },
      }),
    ],
  ])("refuses %s", (_name, change) => {
    expect(studyDocumentSchema.safeParse(change(documentOf(whole))).success).toBe(false);
  });
});
