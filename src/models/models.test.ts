/** What views show, made from a study whose numbers are known. */
import { compareAll, versionOf, type StudyRecord, type StudyResults } from "@/core/study";
import { madeUpStudy } from "@/core/testing/study";
import { answeredBars, answersTo, barWords, coverageWords } from "./coverage";
import { correctedDrums, drumModel, drumScore } from "./drums";
import { drumsShown, typicalOf } from "./drumsShown";
import { elementsModel, laneOf, standing, throughWords } from "./elements";
import {
  axisFrequency,
  clock,
  day,
  fixed,
  frequency,
  megabytes,
  nominalFrequency,
  points,
  signed,
} from "./format";
import { frameModel } from "./frame";
import { correctedGrids, gridModel } from "./grid";
import { keyOf, overviewMatch, overviewModel, referenceNumbers } from "./overview";
import { comparedSpectra, spectrumCurve } from "./spectra";
import { countedPlans, planModel } from "./plan";

const nothingToUndo = { sequence: 0, undo: null, redo: null };

function overviewOf(results: StudyResults, number: number | null = null) {
  const { study } = results;
  const version = versionOf(study, number)!;
  const { measures } = results.alignments.get(version.id)!.value;
  const compared = compareAll(
    measures.reference,
    measures.version,
    study,
    0,
    results.comparisons.get(version.id)!.value,
  );
  const model = overviewModel(measures.reference, measures.version, compared, {
    nothingRecreated: false,
    outdated: false,
    keys: { reference: keyOf(results, study.reference), version: keyOf(results, version) },
  });
  return { model, compared, measures };
}

describe("the overview", () => {
  const results = madeUpStudy();

  it("has the same match as the scores of the version", () => {
    for (const { number, match } of results.scores) {
      expect(overviewMatch(overviewOf(results, number).model, results.study)).toBeCloseTo(match!, 9);
    }
  });

  it("weighs with the weights that count now, and leaves out what is left out", () => {
    const { model } = overviewOf(results);
    const scoreOf = (name: string) => model.aspects.find((own) => own.name === name)!.score!;
    const only = (name: string): Pick<StudyRecord, "elements" | "aspectWeights"> => ({
      aspectWeights: Object.fromEntries(
        Object.keys(results.study.aspectWeights).map((own) => [own, own === name ? 1 : 0]),
      ) as StudyRecord["aspectWeights"],
      elements: results.study.elements.map((element) => ({ ...element, weight: 0 })),
    });
    expect(overviewMatch(model, only("loudness"))).toBeCloseTo(scoreOf("loudness"), 9);
    expect(overviewMatch(model, only("none"))).toBeNull();
    const leftOut = results.study.elements.map((own) => ({ ...own, state: "left out" as const }));
    const without = overviewMatch(model, { ...results.study, elements: leftOut });
    const aspects = model.aspects.filter(({ score }) => score !== null);
    const weights = aspects.reduce((sum, { weight }) => sum + weight, 0);
    expect(without).toBeCloseTo(
      aspects.reduce((sum, { score, weight }) => sum + score! * weight, 0) / weights,
      9,
    );
    expect(overviewMatch({ ...model, nothingRecreated: true }, results.study)).toBeNull();
  });

  it("makes of the spectra that it sends the curve that is compared", () => {
    const { model, measures } = overviewOf(results);
    const spectra = comparedSpectra(measures.reference, measures.version, model.gainToReference);
    const curve = spectrumCurve(spectra, "whole", 3);
    expect(curve).toHaveLength(31);
    // 3 dB more from the 46th to the 54th twelfth, 3 dB down for equal loudness everywhere.
    const gapAt = (hertz: number) => curve.find(({ low, high }) => hertz >= low && hertz < high)!.gap;
    expect(gapAt(3000)).toBeCloseTo(-3, 3);
    expect(gapAt(330)).toBeCloseTo(10 * Math.log10(2) - 3, 1);
    expect(model.gainToReference).toBeCloseTo(
      measures.reference.loudness.integratedLufs! - measures.version.loudness.integratedLufs!,
      9,
    );
  });

  it("gives the numbers of the reference alone, and none before it is analysed", () => {
    expect(referenceNumbers(results)).toMatchObject({ bpm: 120, key: { tonic: 9, mode: "minor" } });
    expect(referenceNumbers({ ...results, analyses: new Map() })).toBeNull();
    expect(referenceNumbers(madeUpStudy({ empty: true }))).toBeNull();
  });

  it("finds what is wrong in the order of what it is worth", () => {
    const { findings } = overviewOf(results).model;
    expect(findings[0]).toMatchObject({
      title: "3.0 LU too loud",
      detail: "Turn the whole mix down by 3.0 dB.",
      place: { kind: "aspect", aspect: "loudness" },
    });
    const worth = findings.filter((own) => own.points !== null).map((own) => own.points!);
    expect(worth).toEqual([...worth].sort((a, b) => b - a));
    expect(findings.at(-1)).toMatchObject({ key: "peak", points: null });
  });
});

describe("elements", () => {
  it("are compared each by its own range, relative to the loudness of the whole", () => {
    const results = madeUpStudy();
    const { compared } = overviewOf(results);
    const model = elementsModel(results, versionOf(results.study, null)!, compared);
    const level = (id: string) =>
      model.elements[id]!.aspects.find(({ name }) => name === "level")!.measures[0]!;
    expect(level("kick").gap).toBeCloseTo(-3, 6);
    expect(level("body").gap!).toBeGreaterThan(-3);
    expect(Object.keys(model.elements)).toEqual(["kick", "body", "hats"]);
    expect(model.lanes).toEqual({});
  });

  it("that are lifted out have a lane each, as tall as they are loud, empty where nothing answers", () => {
    const bars = { reference: [-20, -26, -90, -20], version: [-20, -20, -32] };
    const coverage = [{ referenceFirst: 2, versionFirst: 1, bars: 2 }];
    const lane = laneOf({ levels: bars, own: null }, coverage, 12);
    expect(lane.reference).toEqual([1, 0.75, 0, 1]);
    // The version's bars 1 and 2 answer bars 2 and 3; the others are not recreated.
    expect(lane.version).toEqual([null, 1, 1, null]);
    // Of bass and music what others left in a rest is not drawn.
    const left = { reference: [-20, -20, -20, -20], version: [-20, -20, -29, -20] };
    const own = { reference: [0.7, 0.7, 0.7, 0.7], version: [0.7, 0.7, 0.2, 0.7] };
    const all = [{ referenceFirst: 1, versionFirst: 1, bars: 4 }];
    expect(laneOf({ levels: left, own }, all, 2).version).toEqual([1, 1, 0, 1]);
  });

  it("say how they are measured", () => {
    expect(throughWords({ kind: "stems" })).toBe("Measured on its stems, which both sides have.");
    expect(throughWords({ kind: "lens", freeDb: 8 })).toBe(
      "Through the lens it stands free of the others by 8 dB.",
    );
    expect(throughWords({ kind: "range" })).toMatch(/^Not lifted out of both mixes yet/);
  });

  it("are told in words by how free they stand", () => {
    expect(standing(14)).toMatchObject({ words: "free by 14 dB", isFree: true });
    expect(standing(3).sentence).toMatch(/counts less/);
    expect(standing(-2)).toMatchObject({ words: "hardly free", isFree: false });
  });
});

describe("the frame", () => {
  it("knows of each track tempo, loudness, key, sections and a grid that can be unpacked", () => {
    const model = frameModel(madeUpStudy(), nothingToUndo, 7);
    expect(model.facts.track0).toMatchObject({ bpm: 120, integratedLufs: -14, planCurrent: true });
    expect(model.facts.track0!.sections.map(({ name }) => name)).toEqual(["intro", "verse", "chorus"]);
    expect(model.alignments.track1).toMatchObject({ current: true });
    expect(model.revision).toBe(7);
  });

  it("has nothing of a track that is not analysed, and says that work is under way", () => {
    const results = madeUpStudy();
    const analyses = new Map(results.analyses);
    analyses.delete("hash2");
    const comparisons = new Map(results.comparisons);
    comparisons.set("track1", { ...comparisons.get("track1")!, current: false });
    const model = frameModel({ ...results, analyses, comparisons }, nothingToUndo, 1);
    expect(model.facts.track2).toBeUndefined();
    expect(model.alignments.track1!.current).toBe(false);
  });
});

describe("grids", () => {
  const results = madeUpStudy();

  it("are those of both sides and their stems, by the version that is asked for", () => {
    const model = gridModel(results, 1);
    expect([model.reference!.name, model.version!.name]).toEqual(["Reference", "Version 1"]);
    expect(model.stems.map(({ name }) => name)).toEqual(["hats only.wav, of the reference"]);
    expect(gridModel(results, 99).version!.name).toBe("Version 2");
    expect(gridModel(madeUpStudy({ empty: true }), null)).toEqual({
      reference: null,
      version: null,
      stems: [],
    });
  });

  it("follow a correction before the server has answered", () => {
    const model = gridModel(results, null);
    const nudged = {
      ...results.study.reference!,
      corrections: { ...results.study.reference!.corrections, grid: { nudgeSeconds: 0.1 } },
    };
    const now = correctedGrids(model, (id) => (id === "track0" ? nudged : undefined));
    expect(now.reference!.grid!.beats[0]).toBeCloseTo(0.6, 9);
    expect(now.version).toBe(model.version);
  });

  it("of beats that are to follow a player anew wait for the server", () => {
    const model = gridModel(results, null);
    const following = {
      ...results.study.reference!,
      corrections: {
        ...results.study.reference!.corrections,
        grid: { manner: "following" as const, bpm: 90 },
      },
    };
    const now = correctedGrids(model, (id) => (id === "track0" ? following : undefined));
    expect(now.reference!.grid).toBe(model.reference!.grid);
    expect(now.reference!.correction).toBe(following.corrections.grid);
  });
});

describe("plans", () => {
  const results = madeUpStudy();
  const { spans } = results.alignments.get("track1")!.value.alignment!;
  const counted = (corrections: Parameters<typeof countedPlans>[1] = () => undefined) =>
    countedPlans(planModel(results, 1), corrections, spans, 0);

  it("are compared beat by beat over what is recreated", () => {
    const { beats, chordOverlap } = counted();
    expect(beats).toHaveLength(64);
    expect(chordOverlap).toBeCloseTo(0.75, 9);
    expect(beats.filter(({ agrees }) => !agrees).map(({ beat }) => Math.floor(beat / 4) + 1)).toEqual(
      [3, 7, 11, 15].flatMap((bar) => [bar, bar, bar, bar]),
    );
  });

  it("of a version moved by semitones agree where that is intended", () => {
    const moved = countedPlans(planModel(results, 1), () => undefined, spans, 2);
    expect(moved.chordOverlap).toBeLessThan(0.3);
  });

  it("name a version's sections as the reference's, unless they were named by hand", () => {
    expect(counted().version!.plan.sections.map(({ name }) => name)).toEqual(["intro", "verse"]);
    const own = results.study.versions[0]!;
    const form = { sections: [{ firstBar: 1, lastBar: 16, name: "loop", letter: "L" }] };
    const byHand = counted((id) => (id === own.id ? { ...own.corrections, form } : undefined));
    expect(byHand.version!.plan.sections.map(({ name }) => name)).toEqual(["loop"]);
  });

  it("are not compared where nothing answers", () => {
    const apart = countedPlans(planModel(results, 1), () => undefined, [], 0);
    expect([apart.beats, apart.chordOverlap]).toEqual([[], null]);
  });
});

describe("drums", () => {
  const results = madeUpStudy();
  const model = drumModel(results, null);

  it("take a voice from its stem, at its place", () => {
    expect(model.reference!.sources).toEqual({ hat: "Hats", openHat: "Hats" });
    const hats = drumsShown(model)!.reference.hits.filter(({ voice }) => voice === "hat");
    // The stem's hits are 12 ms early in its file, which begins 12 ms into the track.
    expect(hats[0]!.time).toBeCloseTo(0.5, 3);
  });

  it("follow a correction before the server has answered", () => {
    const removed = { removed: [{ time: 0.5, voice: "kick" as const }] };
    const kicks = (own: typeof model) =>
      drumsShown(own)!.reference.hits.filter(({ voice }) => voice === "kick").length;
    expect(kicks(correctedDrums(model, (id) => (id === "track0" ? removed : undefined)))).toBe(
      kicks(model) - 1,
    );
  });

  it("have a typical bar of each section, and say which bars depart from it", () => {
    const shown = { ...drumsShown(model)!, compared: null };
    expect(typicalOf(model, shown, [], shown.sections[1]!)).toMatchObject({ bars: 1 });
    expect(typicalOf(model, shown, [], shown.sections[1]!).hits).toHaveLength(14);
    expect(new Set(shown.described.map(({ kind }) => kind))).toEqual(new Set(["typical"]));
    expect(new Set(shown.described.map(({ letter }) => letter))).toEqual(new Set(["A"]));
  });

  it("are one number of those aspects that apply", () => {
    expect(drumScore({ pattern: 80, timing: null, swing: null, accents: null })).toBe(80);
    expect(drumScore({})).toBeNull();
  });

  it("are not there without bars", () => {
    expect(drumsShown(drumModel(madeUpStudy({ empty: true }), null))).toBeNull();
  });
});

describe("coverage in words", () => {
  const { grids } = madeUpStudy();
  const aligned = (spans: [number, number, number][]) => ({
    reference: grids.get("track0")!,
    version: grids.get("track2")!,
    spans: spans.map(([referenceFirst, versionFirst, bars]) => ({ referenceFirst, versionFirst, bars })),
  });

  it.each<[[number, number, number][], string]>([
    [[[1, 1, 24]], "All 24 bars of the reference against v."],
    [
      [
        [1, 1, 4],
        [5, 9, 4],
      ],
      "8 of 24 bars are recreated: bars 1–8.",
    ],
    [
      [
        [9, 1, 1],
        [1, 2, 2],
      ],
      "3 of 24 bars are recreated: bars 1–2, bar 9.",
    ],
    [
      [1, 3, 5, 7, 9].map((bar): [number, number, number] => [bar, bar, 1]),
      "5 of 24 bars are recreated: bar 1, bar 3, bar 5, bar 7 and more.",
    ],
  ])("%j", (spans, words) => {
    expect(coverageWords(aligned(spans), "v")).toBe(words);
  });

  it("bars that follow each other are one range, in either order", () => {
    expect(
      answeredBars(
        aligned([
          [5, 1, 4],
          [1, 5, 4],
        ]),
      ),
    ).toEqual([{ first: 1, last: 8 }]);
  });

  it("a selection is answered by the version's bars, as far as they go", () => {
    const own = aligned([
      [1, 9, 4],
      [5, 1, 4],
    ]);
    expect(answersTo(own, { first: 3, last: 6 })).toEqual([
      { first: 11, last: 12 },
      { first: 1, last: 2 },
    ]);
    expect(answersTo(own, { first: 20, last: 21 })).toEqual([]);
    expect([barWords({ first: 3, last: 3 }), barWords({ first: 3, last: 4 })]).toEqual(["bar 3", "bars 3–4"]);
  });
});

describe("numbers as people read them", () => {
  it.each<[string, string]>([
    [fixed(-0.04), "0.0"],
    [fixed(-3.25, 2), "−3.25"],
    [fixed(null), "–"],
    [fixed(Infinity), "–"],
    [signed(0.04), "0.0"],
    [signed(2), "+2.0"],
    [signed(-2, 0), "−2"],
    [signed(undefined), "–"],
    [frequency(63.4), "63 Hz"],
    [frequency(412), "410 Hz"],
    [frequency(1000), "1 kHz"],
    [frequency(2540), "2.5 kHz"],
    [frequency(15800), "16 kHz"],
    [nominalFrequency(794.3), "800 Hz"],
    [nominalFrequency(1258.9), "1.25 kHz"],
    [nominalFrequency(19953), "20 kHz"],
    [axisFrequency(63), "63"],
    [axisFrequency(2000), "2k"],
    [clock(64.29, true), "1:04.2"],
    [clock(59.9999), "0:59"],
    [clock(3599.96, true), "59:59.9"],
    [clock(0), "0:00"],
    [points(99.7), "99"],
    [points(99.96), "100"],
    [points(100), "100"],
    [points(0.4), "0"],
    [points(null), "–"],
    [megabytes(300), "1 kB"],
    [megabytes(1048576 * 2.25), "2.3 MB"],
    [day(Date.UTC(2026, 0, 5, 12)), "5 Jan 2026"],
  ])("%s is %s", (text, expected) => {
    expect(text).toBe(expected);
  });
});
