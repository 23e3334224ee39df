/** Which work a study asks for, and on what each result depends. */
import {
  summaryOf,
  studySummarySchema,
  type StudyRecord,
  type StudyResults,
  type TrackRecord,
} from "@/core/study";
import { madeUpLens } from "@/core/testing/lens";
import { madeUpStudy } from "@/core/testing/study";
import { alignKey, compareKey, placeKey, planKey } from "../study/keys";
import { desiredJobs } from "./desired";

const wanted = (results: StudyResults) =>
  desiredJobs(results).map(({ kind, subject }) => `${kind} ${subject}`);
const without = <T>(map: ReadonlyMap<string, T>, ...keys: string[]) =>
  new Map([...map].filter(([key]) => !keys.includes(key)));
const outdated = <T extends { current: boolean }>(map: ReadonlyMap<string, T>, ...keys: string[]) =>
  new Map([...map].map(([key, own]) => [key, keys.includes(key) ? { ...own, current: false } : own]));

describe("the work that a study asks for", () => {
  const lens = madeUpLens(24, { kick: {} });
  const results = madeUpStudy({ lens });

  it("is none where everything is there", () => {
    expect(wanted(results)).toEqual([]);
  });

  it("begins with the analysis of every file, each once however often it is used", () => {
    const twice = madeUpStudy({
      change: (study) => ({
        ...study,
        versions: study.versions.map((own) => ({ ...own, file: { ...own.file, hash: "hash1" } })),
      }),
    });
    const nothing = { analyses: new Map(), alignments: new Map(), comparisons: new Map(), plans: new Map() };
    expect(wanted({ ...twice, ...nothing })).toEqual(["analyse hash0", "analyse hash3", "analyse hash1"]);
  });

  it("lets a version wait for its analysis, and for that of the reference", () => {
    const { analyses, alignments } = results;
    expect(
      wanted({ ...results, analyses: without(analyses, "hash2"), alignments: without(alignments, "track2") }),
    ).toEqual(["analyse hash2"]);
    expect(wanted({ ...results, analyses: without(analyses, "hash0"), alignments: new Map() })).toEqual([
      "analyse hash0",
    ]);
  });

  it("aligns before it compares", () => {
    const { alignments, comparisons } = results;
    const neither = {
      ...results,
      alignments: without(alignments, "track1"),
      comparisons: without(comparisons, "track1"),
    };
    expect(wanted(neither)).toEqual(["align track1"]);
    expect(wanted({ ...results, comparisons: outdated(comparisons, "track1") })).toEqual(["compare track1"]);
  });

  it("compares only with plans of the grids that count", () => {
    const changed = {
      ...results,
      plans: outdated(results.plans, "track0"),
      comparisons: outdated(results.comparisons, "track1", "track2"),
    };
    expect(wanted(changed)).toEqual(["plan track0"]);
  });

  it("takes every track apart once it is analysed, and measures those of which both are", () => {
    const { lenses } = results;
    const reference = { ...results, lifted: new Set(["hash1", "hash2"]) };
    expect(wanted(reference)).toEqual(["lift hash0"]);
    expect(wanted({ ...results, lifted: new Set(["hash0", "hash1"]) })).toEqual(["lift hash2"]);
    expect(wanted({ ...results, lenses: outdated(lenses, "track1") })).toEqual(["lens track1"]);
    expect(wanted({ ...results, lenses: new Map() })).toEqual(["lens track1", "lens track2"]);
    // It is measured over the bars that answer: not before they are known.
    const unaligned = { ...results, lenses: new Map(), alignments: without(results.alignments, "track1") };
    expect(wanted(unaligned)).toEqual(["align track1", "lens track2"]);
    // Stems are parts already.
    expect(wanted(results)).not.toContain("lift hash3");
  });

  it("leaves tracks whole until somebody asks, where that is wished", () => {
    const whole = { ...results, lifted: new Set<string>(), lenses: new Map() };
    expect(wanted(whole)).toEqual(["lift hash0", "lift hash1", "lift hash2"]);
    process.env.PLAIN_MIRROR_LENS = "asked";
    try {
      expect(wanted(whole)).toEqual([]);
    } finally {
      delete process.env.PLAIN_MIRROR_LENS;
    }
  });

  it("places a stem once it and its track are analysed", () => {
    const unplaced = madeUpStudy({
      lens,
      change: (study) => ({
        ...study,
        reference: {
          ...study.reference!,
          stems: study.reference!.stems.map((own) => ({ ...own, measuredOffset: null })),
        },
      }),
    });
    expect(wanted(unplaced)).toEqual(["placeStem stem1"]);
    expect(wanted({ ...unplaced, analyses: without(unplaced.analyses, "hash3") })).toEqual(["analyse hash3"]);
  });

  it("of an empty study is none", () => {
    expect(wanted(madeUpStudy({ empty: true }))).toEqual([]);
  });
});

describe("keys", () => {
  const noSums = new Map();
  const { study } = madeUpStudy();
  const reference = study.reference!;
  const version = study.versions[0]!;
  const corrected = (track: TrackRecord, change: Partial<TrackRecord["corrections"]>): TrackRecord => ({
    ...track,
    corrections: { ...track.corrections, ...change },
  });
  const grid = { grid: { nudgeSeconds: 0.005 } };
  const removed = { drums: { removed: [{ time: 1, voice: "kick" as const }] } };

  it("stay the same as long as nothing that counts has changed", () => {
    const renamed = { ...version, note: "other", fileName: "other.wav", number: 9, addedAt: 5 };
    expect(planKey(renamed)).toBe(planKey(version));
    expect(alignKey(reference, renamed)).toBe(alignKey(reference, version));
    expect(compareKey(reference, renamed, study.elements, noSums)).toBe(
      compareKey(reference, version, study.elements, noSums),
    );
  });

  it("of plans follow the grid alone", () => {
    expect(planKey(corrected(version, grid))).not.toBe(planKey(version));
    expect(planKey(corrected(version, removed))).toBe(planKey(version));
  });

  it("of alignments follow the grids and coverage of both sides, not what is corrected of drums", () => {
    const key = alignKey(reference, version);
    expect(alignKey(corrected(reference, grid), version)).not.toBe(key);
    expect(alignKey(reference, corrected(version, grid))).not.toBe(key);
    expect(alignKey(reference, { ...version, coverage: [] })).not.toBe(key);
    expect(alignKey(reference, corrected(version, removed))).toBe(key);
  });

  it("of comparisons follow everything that is compared: corrections, stems, and what they are called", () => {
    const key = (
      own: StudyRecord["reference"],
      other: TrackRecord,
      elements = study.elements,
      sums: Parameters<typeof compareKey>[3] = noSums,
    ) => compareKey(own!, other, elements, sums);
    const usual = key(reference, version);
    expect(key(reference, corrected(version, removed))).not.toBe(usual);
    expect(key(corrected(reference, { form: { sections: [] } }), version)).not.toBe(usual);
    expect(key(corrected(reference, grid), version)).not.toBe(usual);
    const [stem] = reference.stems;
    expect(key({ ...reference, stems: [] }, version)).not.toBe(usual);
    expect(key({ ...reference, stems: [{ ...stem!, offsetSeconds: 0.5 }] }, version)).not.toBe(usual);
    const renamed = study.elements.map((own) => (own.id === "hats" ? { ...own, name: "Kick" } : own));
    expect(key(reference, version, renamed)).not.toBe(usual);
    const weighed = study.elements.map((own) => ({ ...own, weight: 3 }));
    expect(key(reference, version, weighed)).toBe(usual);
  });

  it("of a stem's place follow both files", () => {
    const [stem] = reference.stems;
    expect(placeKey(reference, stem!)).not.toBe(placeKey(version, stem!));
  });
});

describe("the summary for the list of studies", () => {
  it("is what the list shows, and fits the schema that it is stored by", () => {
    const results = madeUpStudy();
    const summary = summaryOf(results);
    expect(studySummarySchema.parse(summary)).toEqual(summary);
    expect(summary).toMatchObject({
      referenceFile: "paper lantern.wav",
      bpm: 120,
      key: { tonic: 9, mode: "minor" },
      versions: 2,
      match: results.scores[1]!.match,
      pending: false,
      referenceState: null,
    });
  });

  it("says how the analysis of the reference stands, and leaves out a match that is not known", () => {
    const waiting = madeUpStudy({
      change: (study) => ({
        ...study,
        reference: {
          ...study.reference!,
          job: { state: "queued", message: "Waiting", done: 0, refusal: null },
        },
      }),
    });
    const scores = waiting.scores.map((own, i) => (i === 1 ? { ...own, match: null } : own));
    expect(summaryOf({ ...waiting, scores })).toMatchObject({
      pending: true,
      referenceState: "Waiting",
      match: scores[0]!.match,
      history: [scores[0]!.match, null],
    });
  });

  it("of an empty study knows nothing", () => {
    expect(summaryOf(madeUpStudy({ empty: true }))).toEqual({
      artist: null,
      referenceFile: null,
      pending: false,
      bpm: null,
      key: null,
      referenceState: null,
      versions: 0,
      match: null,
      history: [],
    });
  });
});
