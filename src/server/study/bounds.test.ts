import { documentOf, noCorrections, type ItemEdits } from "@/core/study";
import { madeUpStudy } from "@/core/testing/study";
import { misfit } from "./bounds";

/** 24 bars of four beats at 120 BPM, 48.5 s. */
const { study, ownGrids } = madeUpStudy();
const version = study.versions[1]!;
const unchanged = documentOf(study).items[version.id]!;
const grid = ownGrids.get(version.id)!;
const referenceGrid = ownGrids.get("track0")!;

const sentenceFor = (change: Partial<ItemEdits>, grids = true): string | null => {
  const refused = misfit(
    { ...unchanged, ...change },
    { item: version, grid: grids ? grid : null, referenceGrid: grids ? referenceGrid : null },
  );
  return refused && !refused.ok ? refused.refusal.sentence : null;
};
const section = (firstBar: number, lastBar: number) => ({ firstBar, lastBar, name: "verse", letter: "A" });
const chord = (startBeat: number, endBeat: number) => ({ startBeat, endBeat, chord: null, confidence: 1 });
const hit = (time: number) => ({ time, voice: "kick" as const, velocity: 0.5 });
const span = (referenceFirst: number, versionFirst: number, bars: number) => ({
  referenceFirst,
  versionFirst,
  bars,
});
const many = (count: number) => Array.from({ length: count }, (_, i) => hit((40 * i) / count));

describe("edits within the track", () => {
  it.each<[string, Partial<ItemEdits>]>([
    ["nothing", {}],
    ["bar 1 at 0:00", { grid: { barOneAt: 0 } }],
    ["bar 1 before the file", { grid: { barOneAt: -3 } }],
    ["a section of all bars", { form: { sections: [section(1, 24)] } }],
    ["a section of a pick-up bar", { form: { sections: [section(0, 3)] } }],
    ["a chord to the end", { harmony: { chords: [chord(92, 96)] } }],
    ["a hit at the very start", { drums: { added: [hit(0)] } }],
    ["a thousand hits", { drums: { added: many(1000) } }],
    ["a stem that begins earlier", { offsetSeconds: -10 }],
    ["a passage moved to another place", { coverage: [span(9, 1, 16)] }],
  ])("%s is taken", (_name, change) => {
    expect(sentenceFor(change)).toBeNull();
  });
});

describe("edits outside the track", () => {
  it.each<[string, Partial<ItemEdits>, string]>([
    ["bar 1 after the end", { grid: { barOneAt: 60 } }, "bar 1"],
    ["a section that never ends", { form: { sections: [section(1, 10_000)] } }, "a section"],
    ["a section long before", { form: { sections: [section(-100, 4)] } }, "a section"],
    ["a chord far behind", { harmony: { chords: [chord(5000, 5004)] } }, "a chord"],
    ["a hit after the end", { drums: { added: [hit(51)] } }, "a hit"],
    ["a hit taken out after the end", { drums: { removed: [{ time: 100, voice: "kick" }] } }, "a hit"],
    [
      "a bass note after the end",
      { bass: { added: [{ start: 100, end: 101, midi: 36, cents: 0, levelDb: -20, sure: 1 }] } },
      "a bass note",
    ],
    [
      "a pattern that begins behind the end",
      { drums: { imported: { name: "x", hits: [], lengthBeats: 4, firstBar: 99, repeats: true } } },
      "the pattern",
    ],
    ["a passage of ten million bars", { coverage: [span(1, 1, 10_000_000)] }, "a recreated passage"],
    ["a passage beyond the reference", { coverage: [span(20, 1, 24)] }, "a recreated passage"],
  ])("%s is refused with what it is", (_name, change, what) => {
    expect(sentenceFor(change)).toBe(`This can't be saved: ${what} lies outside the track.`);
  });

  it("more hits than a track of this length can have are refused, added or taken out", () => {
    const sentence = "This can't be saved: these are more hits than a track of this length can have.";
    expect(sentenceFor({ drums: { added: many(4000) } })).toBe(sentence);
    expect(sentenceFor({ drums: { removed: many(4000) } })).toBe(sentence);
  });

  it("is bounded by the length where there is no grid", () => {
    expect(sentenceFor({ form: { sections: [section(1, 300)] } }, false)).toBeNull();
    expect(sentenceFor({ form: { sections: [section(1, 400)] } }, false)).toMatch(/a section/);
    expect(sentenceFor({ coverage: [span(1, 1, 400)] }, false)).toMatch(/a recreated passage/);
  });

  it("does not depend on what else was corrected", () => {
    expect(sentenceFor({ ...noCorrections, note: "x".repeat(400) })).toBeNull();
  });
});
