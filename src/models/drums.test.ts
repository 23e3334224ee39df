import { asColumns, compareDrums, straight, type CountedHit, type DrumSide } from "@/core/drums";
import { defaultAspectWeights } from "@/core/match";
import { drumsAsWritten, steadyGrid, type Written } from "@/core/testing/drums";
import {
  agreementByBar,
  drumFindings,
  drumScore,
  placesInWords,
  scoresOfDrums,
  voicesIn,
  type DrumModel,
} from "./drums";
import { comparedOver, hitsInBars, spansWithin, typicalOf, type DrumsShown } from "./drumsShown";
import { placeHits } from "@/core/drums";

const grid = steadyGrid(120, 8);
const written: Written = {
  kick: ["X...X...X...X..."],
  snare: ["....X.......X..."],
  hat: ["x.x.x.x.x.x.x.x."],
};
const reference = drumsAsWritten(written, grid);
const changed = (alter: (hit: CountedHit, beat: number) => CountedHit | null) =>
  drumsAsWritten(written, grid, { alter });
const side = (drums: typeof reference): DrumSide => ({ drums, grid, swing: straight });
const spans = [{ referenceFirst: 1, versionFirst: 1, bars: 8 }];
const against = (version: typeof reference) => compareDrums(side(reference), side(version), spans);

describe("places in words", () => {
  it.each([
    [[6.75, 15.5], "bar 2 beat 3¾, bar 4 beat 4½"],
    [[2, 6, 10], "beat 3 of 3 bars"],
    [[0, 1.25, 2.5, 7, 9.5], "bar 1 beat 1, bar 1 beat 2¼, bar 1 beat 3½ and 2 more"],
  ])("%j", (places, says) => {
    expect(placesInWords(places, 4)).toBe(says);
  });
});

describe("findings", () => {
  const findings = (version: typeof reference, intended: Parameters<typeof drumFindings>[3] = []) =>
    drumFindings(against(version), 4, defaultAspectWeights, intended);

  it("are none where both are the same", () => {
    expect(findings(reference)).toEqual([]);
    expect(drumScore(scoresOfDrums(against(reference)))).toBe(100);
  });

  it("say what is missing and what drags, the most valuable first", () => {
    const version = changed((hit, beat) =>
      hit.voice === "kick" && (beat === 6 || beat === 15)
        ? null
        : hit.voice === "snare"
          ? { ...hit, time: hit.time + 0.03 }
          : hit,
    );
    const found = findings(version);
    expect(found.map(({ title }) => title)).toEqual(["Snare 30 ms late", "Kick: 2 hits missing"]);
    expect(found[0]!.detail).toBe(
      "beat 2 of 8 bars, beat 4 of 8 bars: on the grid in the reference, 30 ms behind the grid in yours",
    );
    expect(found[1]!).toMatchObject({ detail: "bar 2 beat 3, bar 4 beat 4", bar: 2, voice: "kick" });
    expect(found[0]!.points).toBeGreaterThan(found[1]!.points);
    // Mending all of it would give what lacks of 100.
    const lacking = 100 - drumScore(scoresOfDrums(against(version)))!;
    const promised = found.reduce((sum, { points }) => sum + points, 0);
    expect(Math.abs(promised - lacking)).toBeLessThan(0.5);
  });

  it("leave out what is intended", () => {
    const version = changed((hit) => (hit.voice === "snare" ? { ...hit, time: hit.time + 0.03 } : hit));
    expect(findings(version, [{ voice: "snare", kind: "timing" }])).toEqual([]);
  });
});

it("agreement is told bar by bar", () => {
  const version = changed((hit, beat) => (beat >= 4 && beat < 8 && hit.voice !== "kick" ? null : hit));
  const bars = agreementByBar(against(version).hits, 4);
  expect(bars.get(1)).toEqual({ agrees: 28, all: 28 });
  // Four kicks agree, two snares and eight hats lack.
  expect(bars.get(2)).toEqual({ agrees: 8, all: 18 });
});

it("a voice that was heard once among hundreds is not listed, one set by hand is", () => {
  const stray: CountedHit = { time: 3, voice: "tom", velocity: 0.5, confidence: 0.6, origin: "heard" };
  expect(voicesIn([[...reference.hits, stray]])).toEqual(["kick", "snare", "hat"]);
  expect(voicesIn([[...reference.hits, { ...stray, origin: "by hand" }]])).toEqual([
    "kick",
    "snare",
    "hat",
    "tom",
  ]);
});

describe("what is shown", () => {
  const model = (version: typeof reference): DrumModel => {
    const track = (drums: typeof reference, kind: "reference" | "version") => ({
      itemId: kind,
      kind,
      name: kind,
      title: kind,
      estimate: asColumns(drums.hits, []),
      sources: {},
      correction: {},
      ownGrid: grid,
      grid,
      swing: straight,
    });
    return { reference: track(reference, "reference"), version: track(version, "version"), sections: [] };
  };
  const aligned = (answered: typeof spans) => ({ reference: grid, version: grid, spans: answered });
  const loop = [{ referenceFirst: 3, versionFirst: 1, bars: 4 }];
  const shown = (version: typeof reference, answered: typeof spans): DrumsShown => ({
    grid,
    shape: { beatsPerBar: 4, stepsPerBeat: 4 },
    bars: { first: 1, last: 8 },
    reference,
    version,
    placed: placeHits(reference.hits, grid),
    compared: comparedOver(model(version), { reference, version }, aligned(answered), null, []),
    sections: [{ firstBar: 1, lastBar: 8, name: "whole", letter: "A" }],
    described: [],
  });

  it("spans are cut to the bars that are selected", () => {
    expect(spansWithin(loop, { first: 5, last: 9 })).toEqual([
      { referenceFirst: 5, versionFirst: 3, bars: 2 },
    ]);
    expect(spansWithin(loop, { first: 7, last: 9 })).toEqual([]);
  });

  it("bars that are not recreated have the reference's hits alone", () => {
    const own = shown(reference, loop);
    const [outside, inside] = [1, 4].map((bar) => hitsInBars(own, loop, { first: bar, last: bar }));
    expect(outside).toHaveLength(14);
    expect(outside!.every(({ version }) => version === null)).toBe(true);
    expect(inside).toHaveLength(14);
    expect(inside!.every(({ kind, version }) => kind === "agrees" && version !== null)).toBe(true);
  });

  it("typical bars of both sides are held against each other", () => {
    // The version never has the last kick of a bar, and once lacks another.
    const version = changed((hit, beat) =>
      hit.voice === "kick" && (beat % 4 === 3 || beat === 9) ? null : hit,
    );
    const { hits, bars } = typicalOf(model(version), shown(version, spans), spans, {
      firstBar: 1,
      lastBar: 8,
      name: "whole",
      letter: "A",
    });
    expect(bars).toBe(1);
    const lacking = hits.filter(({ kind }) => kind === "missing");
    expect(lacking.map(({ voice, reference: own }) => [voice, own!.quantised])).toEqual([["kick", 3]]);
    expect(hits.filter(({ kind }) => kind === "agrees")).toHaveLength(13);
  });
});
