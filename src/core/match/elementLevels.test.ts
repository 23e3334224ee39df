/** Elements that the lens has lifted out of both sides: their levels beside one another, and how sure they are. */
import { countedLens, measuresOfWhole } from "../study";
import { madeUpLens } from "../testing/lens";
import { madeUpAnalysis } from "../testing/study";
import { besideVocal, compareElements, measureRules, partAspects, scoreOf, type ComparedElement } from ".";

describe("levels of elements that are lifted out", () => {
  const bars = 16;
  const parts = ["kick", "snare", "hats", "bass"] as const;
  /** The whole is louder by so much, its parts by so much each. */
  const gaps = (
    louder: number,
    changes: Partial<Record<(typeof parts)[number], object>>,
    told: readonly string[] = parts,
  ) => {
    const stored = madeUpLens(
      bars,
      Object.fromEntries(told.map((part) => [part, changes[part as "kick"] ?? {}])),
    );
    const lens = countedLens(stored, [{ referenceFirst: 1, versionFirst: 1, bars }]);
    const [ours, theirs] = [
      measuresOfWhole(madeUpAnalysis()),
      measuresOfWhole(madeUpAnalysis({ lufs: -14 + louder })),
    ];
    const compared = compareElements(
      ours,
      theirs,
      told.map((lens) => ({ lens: lens as "kick", fromHz: 20, toHz: 20_000 })),
      lens,
    );
    return Object.fromEntries(
      compared.map(({ aspects }, i) => [
        told[i]!,
        aspects.find(({ name }) => name === "level")!.measures[0]!.gap!,
      ]),
    );
  };

  it("of one that is turned up leave the others where they are, though the whole is louder", () => {
    const found = gaps(2, { kick: { gainDb: 6 } });
    expect(found.kick).toBeCloseTo(6, 9);
    for (const part of ["snare", "hats", "bass"]) expect(found[part]).toBeCloseTo(0, 9);
  });

  it("are none where all is louder, or one rests where the reference has it", () => {
    const all = Object.fromEntries(parts.map((part) => [part, { gainDb: 4 }]));
    for (const gap of Object.values(gaps(4, all))) expect(gap).toBeCloseTo(0, 9);
    const resting = gaps(-0.5, { snare: { plays: (bar: number) => bar < 9 } });
    expect(resting.snare).toBeCloseTo(0, 9);
  });

  it("of few parts go by the loudness of the whole", () => {
    const found = gaps(2, { kick: { gainDb: 6 } }, ["kick", "bass"]);
    expect(found.kick).toBeCloseTo(4, 9);
    expect(found.bass).toBeCloseTo(-2, 9);
  });

  it("of layers that are heard through one part are told apart by their ranges", () => {
    const lens = countedLens(madeUpLens(bars, { kick: { gainDb: -6 } }), [
      { referenceFirst: 1, versionFirst: 1, bars },
    ]);
    const own = measuresOfWhole(madeUpAnalysis());
    // The part fills an octave from the twelfth twelfth on, 36 to 71 Hz.
    const [low, high] = compareElements(
      own,
      own,
      [
        { lens: "kick", fromHz: 30, toHz: 100 },
        { lens: "kick", fromHz: 1000, toHz: 8000 },
      ],
      lens,
    );
    const gapOf = (of: typeof low) => of!.aspects.find(({ name }) => name === "level")!.measures[0]!.gap;
    expect(gapOf(low)).toBeCloseTo(-6, 1);
    expect(gapOf(high)).toBeNull();
  });

  it("change sign with the sides", () => {
    const there = gaps(1, { kick: { gainDb: 5 }, hats: { gainDb: -3 } });
    const back = gaps(-1, { kick: { gainDb: -5 }, hats: { gainDb: 3 } });
    for (const part of parts) expect(back[part]).toBeCloseTo(-there[part]!, 9);
  });

  it("count as none within what the lens measures by, and say how far the score may be off", () => {
    const of = (gainDb: number, freeDb: number) => {
      const stored = madeUpLens(bars, { kick: { gainDb, freeDb }, snare: {}, hats: {}, bass: {} });
      const lens = countedLens(stored, [{ referenceFirst: 1, versionFirst: 1, bars }]);
      const own = measuresOfWhole(madeUpAnalysis());
      const [kick] = compareElements(own, own, [{ lens: "kick", fromHz: 20, toHz: 20_000 }], lens);
      const { measures, score } = kick!.aspects.find(({ name }) => name === "level")!;
      return { error: measures[0]!.error!, score: score!, spread: kick!.spread! };
    };
    const [free, hardly] = [of(3, 20), of(3, 3.2)];
    // The less free, the less is known, and the less a gap counts.
    expect(hardly.error).toBeGreaterThan(free.error);
    expect(hardly.score).toBeGreaterThan(free.score);
    expect(of(free.error - 0.01, 20).score).toBe(100);
    expect(free.score).toBeCloseTo(scoreOf(3, measureRules.elementLevel), 6);
    expect(free.spread).toBeGreaterThan(0.5);
    expect(hardly.spread).toBeGreaterThan(free.spread);
    // A range of the mix is taken as it is.
    const own = measuresOfWhole(madeUpAnalysis());
    expect(compareElements(own, own, [{ fromHz: 40, toHz: 110 }])[0]!.spread).toBe(0);
  });

  it("are not read from the range of a part that one side alone has", () => {
    const lens = countedLens(madeUpLens(bars, { kick: {}, snare: {}, bass: {} }), [
      { referenceFirst: 1, versionFirst: 1, bars },
    ])!;
    const own = measuresOfWhole(madeUpAnalysis());
    const scoresOf = (part: "snare" | "bass", freeDb: number, pattern: number | null) => {
      const there = { ...lens.reference[part], freeDb };
      const [one] = compareElements(
        own,
        own,
        [{ lens: part, fromHz: 40, toHz: 8000 }],
        {
          ...lens,
          reference: { ...lens.reference, [part]: there },
          version: { ...lens.version, [part]: { ...there, freeDb: null } },
        },
        () => [{ name: "pattern", weight: 1, score: pattern, measures: [] }],
      );
      return Object.fromEntries(one!.aspects.map(({ name, score }) => [name, score]));
    };
    // Strokes too soft to be lifted out tell of themselves what is there.
    expect(scoresOf("snare", 8, 90)).toEqual({ level: null, tone: null, presence: null, pattern: 90 });
    expect(scoresOf("bass", 8, null)).toMatchObject({ level: null, tone: null, presence: 0 });
    // What hardly stands free may be nothing on either side.
    expect(scoresOf("bass", -4, null)).toMatchObject({ level: 100 });
  });

  it("have chords beside them where they reach down to these, less what is misheard of the same sound", () => {
    const lens = countedLens(madeUpLens(bars, { music: {} }), [{ referenceFirst: 1, versionFirst: 1, bars }]);
    const own = measuresOfWhole(madeUpAnalysis());
    const chordsOf = (fromHz: number, overlap: number | null) => {
      const focus = { lens: "music" as const, fromHz, toHz: 16_000 };
      const [one] = compareElements(own, own, [focus], lens, partAspects(null, null, overlap));
      return one!.aspects.find(({ name }) => name === "chords")?.score;
    };
    expect(chordsOf(200, 1)).toBe(100);
    expect(chordsOf(200, 0.95)).toBe(100);
    expect(chordsOf(200, 0.5)).toBeCloseTo(56, 6);
    expect(chordsOf(200, null)).toBeNull();
    expect(chordsOf(300, 0.5)).toBeUndefined();
  });

  it("are of the whole part where another that is heard through it is left out", () => {
    const lens = countedLens(madeUpLens(bars, { kick: { gainDb: -6 } }), [
      { referenceFirst: 1, versionFirst: 1, bars },
    ]);
    const own = measuresOfWhole(madeUpAnalysis());
    const gapWith = (state: string) =>
      compareElements(
        own,
        own,
        [
          { lens: "kick", fromHz: 1000, toHz: 8000, state: "in work" },
          { lens: "kick", fromHz: 30, toHz: 100, state },
        ],
        lens,
      )[0]!.aspects.find(({ name }) => name === "level")!.measures[0]!.gap;
    expect(gapWith("in work")).toBeNull();
    expect(gapWith("left out")).toBeCloseTo(-6, 1);
  });
});

describe("the level beside the vocal", () => {
  const leveled = (reference: number, version: number | null): ComparedElement => ({
    aspects: [
      {
        name: "level",
        weight: 1,
        score: null,
        measures: [{ name: "elementLevel", reference, version, gap: null, score: null }],
      },
    ],
    score: null,
    spread: null,
    through: { kind: "range" },
    trust: 1,
    bars: null,
  });
  const element = (name: string, compared: ComparedElement, state = "in work") => ({
    element: { id: name, name, state },
    compared,
  });

  it("is told of all that have one, but the vocal itself", () => {
    const beside = besideVocal([
      element("Pad", leveled(-20, -17)),
      element("Lead vocal", leveled(-14, -15)),
      element("Hats", leveled(-30, null)),
    ]);
    expect(beside.Pad).toEqual({ vocal: "Lead vocal", reference: -6, version: -2, gap: 4 });
    expect(beside["Lead vocal"]).toBeNull();
    expect(beside.Hats).toBeNull();
  });

  it("is not told where nothing is sung", () => {
    const pad = element("Pad", leveled(-20, -17));
    expect(besideVocal([pad, element("Voicing", leveled(-14, -15))]).Pad).toBeNull();
    expect(besideVocal([pad, element("Vocal", leveled(-14, -15), "left out")]).Pad).toBeNull();
  });
});
