/** Plans edited, compared and brought to a grid; hand-worked examples. */
import type { Grid } from "../grid/grid";
import { chordName, readChord } from "../harmony/chords";
import type { PlacedChord } from "../harmony/harmonyEstimate";
import {
  answeredSections,
  changedSection,
  chordLoop,
  chordsOnGrid,
  comparePlans,
  formCorrectionSchema,
  harmonyCorrectionSchema,
  joinedChord,
  joinedSection,
  mainLoop,
  movedChord,
  movedSection,
  namedAsReference,
  renamedChord,
  sectionsOnGrid,
  splitChord,
  splitSection,
  transposedChords,
  type CountedSection,
  type PlanSide,
} from ".";

const grid = (bpm: number, start: number, bars: number): Grid => ({
  beats: Array.from({ length: 4 * bars + 1 }, (_, k) => start + (k * 60) / bpm),
  barOne: 0,
  beatsPerBar: 4,
  steady: true,
  bpm,
});

/** Chords of four beats each, from bar 1 on. */
const chords = (...names: string[]): PlacedChord[] =>
  names.map((name, i) => ({
    startBeat: 4 * i,
    endBeat: 4 * i + 4,
    chord: readChord(name) ?? null,
    confidence: 0.8,
  }));

const inWords = (list: readonly PlacedChord[]) =>
  list.map(({ startBeat, endBeat, chord }) => `${startBeat}-${endBeat} ${chordName(chord)}`).join(", ");

const sections = (...spans: [number, number, string][]): CountedSection[] =>
  spans.map(([firstBar, lastBar, name], i) => ({ firstBar, lastBar, name, letter: "ABCDEF"[i]! }));

const spansOf = (list: readonly CountedSection[]) =>
  list.map(({ firstBar, lastBar, name }) => `${name} ${firstBar}-${lastBar}`).join(", ");

describe("chords by hand", () => {
  const loop = chords("F#m", "D", "A", "E");

  it("are renamed, and certain then", () => {
    const renamed = renamedChord(loop, 1, readChord("Bm7")!);
    expect(inWords(renamed)).toBe("0-4 F♯m, 4-8 Bm7, 8-12 A, 12-16 E");
    expect(renamed[1]!.confidence).toBe(1);
    expect(loop[1]!.confidence).toBe(0.8);
  });

  it("are split within and joined with the next", () => {
    const split = splitChord(loop, 2, 10);
    expect(inWords(split)).toBe("0-4 F♯m, 4-8 D, 8-10 A, 10-12 A, 12-16 E");
    expect(inWords(joinedChord(split, 2))).toBe(inWords(loop));
    expect(splitChord(loop, 2, 8)).toEqual(loop);
    expect(joinedChord(loop, 3)).toEqual(loop);
  });

  it("are moved, and neither they nor those before become shorter than a beat", () => {
    expect(inWords(movedChord(loop, 1, 3))).toBe("0-3 F♯m, 3-8 D, 8-12 A, 12-16 E");
    expect(inWords(movedChord(loop, 1, -9))).toBe("0-1 F♯m, 1-8 D, 8-12 A, 12-16 E");
    expect(inWords(movedChord(loop, 1, 99))).toBe("0-7 F♯m, 7-8 D, 8-12 A, 12-16 E");
  });

  it("are transposed together", () => {
    expect(inWords(transposedChords(loop, 3))).toBe("0-4 Am, 4-8 F, 8-12 C, 12-16 G");
  });

  it("must follow one another", () => {
    expect(harmonyCorrectionSchema.safeParse({ chords: loop }).success).toBe(true);
    const overlapping = [loop[0]!, { ...loop[1]!, startBeat: 2 }];
    expect(harmonyCorrectionSchema.safeParse({ chords: overlapping }).success).toBe(false);
  });
});

describe("sections by hand", () => {
  const plan = sections([1, 4, "intro"], [5, 12, "verse"], [13, 20, "chorus"]);

  it("are moved, split, joined and named", () => {
    expect(spansOf(movedSection(plan, 1, 7))).toBe("intro 1-6, verse 7-12, chorus 13-20");
    expect(spansOf(movedSection(plan, 1, 0))).toBe("intro 1-1, verse 2-12, chorus 13-20");
    expect(spansOf(splitSection(plan, 1, 9))).toBe("intro 1-4, verse 5-8, verse 9-12, chorus 13-20");
    expect(spansOf(joinedSection(plan, 1))).toBe("intro 1-4, verse 5-20");
    expect(spansOf(changedSection(plan, 2, { name: "drop" }))).toBe("intro 1-4, verse 5-12, drop 13-20");
    expect(splitSection(plan, 1, 5)).toEqual(plan);
  });

  it("must follow one another and have a name", () => {
    expect(formCorrectionSchema.safeParse({ sections: plan }).success).toBe(true);
    expect(formCorrectionSchema.safeParse({ sections: sections([1, 8, "a"], [8, 9, "b"]) }).success).toBe(
      false,
    );
    expect(formCorrectionSchema.safeParse({ sections: sections([1, 8, " "]) }).success).toBe(false);
  });
});

describe("the loop of chords", () => {
  it.each([
    [["F#m", "D", "A", "E", "F#m", "D", "A", "E"], "F♯m 4, D 4, A 4, E 4"],
    [["F#m", "F#m", "D", "D", "F#m", "F#m", "D", "D"], "F♯m 8, D 8"],
    [["Am", "Am", "Am", "Am"], "Am 4"],
    // One odd chord in sixteen bars is no other loop.
    [
      ["C", "G", "Am", "F", "C", "G", "Am", "F", "C", "G", "Am", "F", "C", "G", "Am", "Fm"],
      "C 4, G 4, Am 4, F 4",
    ],
  ])("of %j is %s", (names, expected) => {
    const loop = chordLoop(chords(...names), 0, 4 * names.length, 4)!;
    expect(loop.chords.map(({ chord, beats }) => `${chordName(chord)} ${beats}`).join(", ")).toBe(expected);
    expect(loop.share).toBeGreaterThan(0.9);
  });

  it("of a track is the one that most of its sections go round in, from where they begin", () => {
    // Two bars of intro, then twice the loop, then another one of half the length.
    const list = chords("Am", "F", ...["F#m", "D", "A", "E"], ...["F#m", "D", "A", "E"], "G", "C", "G", "C");
    const loop = mainLoop(
      list,
      [
        { firstBar: 1, lastBar: 2 },
        { firstBar: 3, lastBar: 10 },
        { firstBar: 11, lastBar: 14 },
      ],
      4,
    )!;
    expect(loop.chords.map(({ chord }) => chordName(chord)).join(" ")).toBe("F♯m D A E");
    expect(loop.share).toBeCloseTo(8 / 14);
  });

  it("is none where nothing goes round", () => {
    expect(chordLoop(chords("C", "F#", "Bb", "E", "Am", "Ebm", "B", "Fm"), 0, 32, 4)).toBeNull();
    expect(chordLoop(chords("N", "N"), 0, 8, 4)).toBeNull();
  });
});

describe("two plans", () => {
  const side = (list: PlacedChord[], own: Grid, plan: CountedSection[] = []): PlanSide => ({
    plan: { chords: list, sections: plan },
    planGrid: own,
    grid: own,
  });
  const reference = side(chords("F#m", "D", "A", "E", "F#m", "D", "A", "E"), grid(120, 0.5, 8));
  const whole = [{ referenceFirst: 1, versionFirst: 1, bars: 8 }];

  it("that are the same agree everywhere", () => {
    expect(comparePlans(reference, reference, whole, 0)).toMatchObject({ chordOverlap: 1, formOverlap: 1 });
  });

  it("agree beat by beat at another tempo, over the bars that answer each other", () => {
    // Bars 3 to 6 at 100 BPM, with one bar of four wrong: 12 of 16 beats.
    const version = side(chords("A", "E", "F#", "D"), grid(100, 2, 4));
    const compared = comparePlans(reference, version, [{ referenceFirst: 3, versionFirst: 1, bars: 4 }], 0);
    expect(compared.chordOverlap).toBeCloseTo(0.75);
    expect(compared.beats.filter(({ agrees }) => !agrees).map(({ beat }) => beat)).toEqual([16, 17, 18, 19]);
  });

  it("agree where a transposition is intended, and do not where it is not said", () => {
    const higher = side(transposedChords(reference.plan.chords, 3), reference.grid);
    expect(comparePlans(reference, higher, whole, 3).chordOverlap).toBe(1);
    expect(comparePlans(reference, higher, whole, 0).chordOverlap).toBeLessThan(0.5);
  });

  it("are compared as major and minor: a seventh more is no other chord", () => {
    const sevenths = side(chords("F#m7", "Dmaj7", "A7", "E", "F#m", "D", "A", "E/B"), reference.grid);
    expect(comparePlans(reference, sevenths, whole, 0).chordOverlap).toBe(1);
  });

  it("agree where one of them leaves the third open", () => {
    const open = side(chords("F#5", "D5", "A5", "E5", "F#m", "D", "A", "E"), reference.grid);
    expect(comparePlans(reference, open, whole, 0).chordOverlap).toBe(1);
  });

  it("say nothing of chords where the version has none", () => {
    const drums = side(chords("N", "N", "N", "N", "N", "N", "N", "N"), reference.grid);
    expect(comparePlans(reference, drums, whole, 0).chordOverlap).toBeNull();
  });

  it("differ in form by what one of them leaves out, whichever it is", () => {
    const spans = [
      { referenceFirst: 1, versionFirst: 1, bars: 2 },
      { referenceFirst: 5, versionFirst: 3, bars: 4 },
    ];
    expect(comparePlans(reference, reference, spans, 0).formOverlap).toBeCloseTo(6 / 8);
    const turned = spans.map((s) => ({
      ...s,
      referenceFirst: s.versionFirst,
      versionFirst: s.referenceFirst,
    }));
    expect(comparePlans(reference, reference, turned, 0).formOverlap).toBeCloseTo(6 / 8);
  });

  it("that are a loop of the other leave out nothing", () => {
    const loop = [{ referenceFirst: 5, versionFirst: 1, bars: 4 }];
    expect(comparePlans(reference, reference, loop, 0).formOverlap).toBe(1);
  });

  it("say section by section what is answered, and by what", () => {
    const own = grid(120, 0.5, 8);
    const plan = sections([1, 2, "intro"], [3, 6, "verse"], [7, 8, "outro"]);
    const theirs = sections([1, 2, "intro"], [3, 4, "part"]);
    const answered = answeredSections(side([], own, plan), side([], grid(120, 0, 4), theirs), [
      { referenceFirst: 1, versionFirst: 1, bars: 4 },
    ]);
    expect(
      answered.map(({ section, answered: bars, bars: of, own: by }) => [
        section.name,
        bars,
        of,
        by?.section.name,
      ]),
    ).toEqual([
      ["intro", 2, 2, "intro"],
      ["verse", 2, 4, "part"],
      ["outro", 0, 2, undefined],
    ]);
  });

  it("call sections of the version as those that they recreate, where most of their bars do", () => {
    const plan = sections([1, 2, "intro"], [3, 6, "verse"], [7, 8, "outro"]);
    const theirs = sections([1, 4, "part"], [5, 8, "break"]);
    const ours = side([], grid(120, 0.5, 8), plan);
    const loop = side([], grid(100, 0, 8), theirs);
    // Bars 1 to 4 are the verse; of bars 5 to 8 only one recreates anything.
    const spans = [
      { referenceFirst: 3, versionFirst: 1, bars: 4 },
      { referenceFirst: 7, versionFirst: 5, bars: 1 },
    ];
    const named = namedAsReference(ours, loop, spans);
    expect(spansOf(named)).toBe("verse 1-4, break 5-8");
    expect(named.map(({ letter }) => letter)).toEqual(["B", "B"]);
    expect(namedAsReference(ours, loop, [])).toEqual(theirs);
  });
});

describe("annotations on a grid", () => {
  const own = grid(120, 0.5, 8);

  it("begin on the nearest beat, with no chord between", () => {
    const placed = chordsOnGrid(
      [
        { start: 0.52, end: 2.49, chord: readChord("C")! },
        { start: 3.5, end: 4.6, chord: readChord("G")! },
        { start: 4.6, end: 4.7, chord: readChord("F")! },
      ],
      own,
    );
    expect(inWords(placed)).toBe("0-4 C, 4-6 –, 6-8 G");
  });

  it("end with the last beat, however long they say they are", () => {
    const placed = chordsOnGrid([{ start: 0.5, end: 1e9, chord: readChord("C")! }], own);
    expect(inWords(placed)).toBe("0-32 C");
  });

  it("begin on the nearest bar, alike by name", () => {
    const placed = sectionsOnGrid(
      [
        { start: 0.4, end: 4.5, name: "Verse 1" },
        { start: 4.5, end: 8.6, name: "Chorus" },
        { start: 8.5, end: 16.5, name: "Verse 2" },
      ],
      own,
    );
    expect(spansOf(placed)).toBe("Verse 1 1-2, Chorus 3-4, Verse 2 5-8");
    expect(placed.map(({ letter }) => letter).join("")).toBe("ABA");
  });
});
