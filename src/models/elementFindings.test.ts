/** What elements lack of a match, aspect by aspect, each in words and points. */
import type { ComparedAspect, ComparedElement, ElementAspect, MeasureName } from "@/core/match";
import type { ElementRecord } from "@/core/study";
import { elementFindings } from "./elementFindings";

const element = (name: string, own: Partial<ElementRecord> = {}): ElementRecord => ({
  id: name,
  name,
  lens: "kick",
  fromHz: 40,
  toHz: 110,
  state: "in work",
  note: "",
  weight: 1,
  target: null,
  hidden: false,
  ...own,
});
const measureOf: Record<ElementAspect, MeasureName> = {
  level: "elementLevel",
  tone: "elementTone",
  width: "elementWidth",
  presence: "presence",
  movement: "toneMovement",
  space: "elementSpace",
  envelope: "strokeLength",
  pattern: "drumHits",
  timing: "hitTiming",
  accents: "accents",
  notes: "bassNotes",
  chords: "chords",
};
const aspect = (
  name: ElementAspect,
  score: number | null,
  gap: number | null,
  weight = 1,
): ComparedAspect<ElementAspect> => ({
  name,
  weight,
  score,
  measures: [{ name: measureOf[name], reference: null, version: null, gap, score }],
});
const compared = (
  aspects: ComparedAspect<ElementAspect>[],
  own: Partial<ComparedElement> = {},
): ComparedElement => ({
  aspects,
  score: 50,
  spread: 0,
  through: { kind: "lens", freeDb: 12 },
  trust: 1,
  bars: null,
  ...own,
});
const bars = ({ missing = [] as number[], extra = [] as number[], moving = [] as number[] }) => ({
  presence: { share: 0.6, missing, extra },
  level: null,
  tone: null,
  movement: { tone: null, level: null, bars: moving },
  space: null,
  coverings: [],
});
const only = (aspects: ComparedAspect<ElementAspect>[], own: Partial<ComparedElement> = {}, total = 10) =>
  elementFindings([{ element: element("Kick"), compared: compared(aspects, own) }], total);

describe("aspects of an element", () => {
  it("are told each by itself, with what they lack of the match", () => {
    const { own } = only([aspect("level", 40, -6), aspect("tone", 80, 4), aspect("presence", 100, 0)]);
    expect(own.map(({ title }) => title)).toEqual([
      "Kick 6.0 dB too quiet",
      "Kick: tone 4.0 dB off, level aside",
    ]);
    // One of ten parts of the match; scores of 40, 80 and 100 come to a softened harmonic mean of 63.6.
    const score = (...all: number[]) => 3 / all.reduce((sum, own) => sum + 1 / (own + 10), 0);
    expect(own[0]!.points).toBeCloseTo((score(100, 80, 100) - score(40, 80, 100)) / 10, 9);
    expect(own[1]!.points).toBeCloseTo((score(40, 100, 100) - score(40, 80, 100)) / 10, 9);
    expect(own.every(({ place }) => place.kind === "element" && place.elementId === "Kick")).toBe(true);
  });

  it("are worth more where the rest is right: the furthest off counts most", () => {
    const worth = (others: number) =>
      only([aspect("level", 40, -6), aspect("tone", others, 4)]).own[0]!.points!;
    expect(worth(100)).toBeGreaterThan(worth(40));
    // With all aspects alike the last one mended brings the most.
    const { own, shared } = only([aspect("level", 40, -6), aspect("timing", 40, 30, 0.5)]);
    expect(own[0]!.points!).toBeGreaterThan(shared.get("timing")!.points);
  });

  it("count by weight and trust, and not at all where the element is left out or has no score", () => {
    const [level] = [aspect("level", 40, 6)];
    const points = (own: Partial<ComparedElement>, weight = 1) =>
      elementFindings([{ element: element("Kick", { weight }), compared: compared([level], own) }], 10)
        .own[0]!.points!;
    expect(points({ trust: 0.25 })).toBeCloseTo(points({}) / 4, 9);
    expect(points({}, 2)).toBeCloseTo(2 * points({}), 9);
    const left = [{ element: element("Kick", { state: "left out" }), compared: compared([level]) }];
    expect(elementFindings(left, 10).own).toEqual([]);
    expect(only([level], { score: null }).own).toEqual([]);
  });

  it("are not told where the element is as close as the producer wants it", () => {
    const told = (target: number | null, score: number) =>
      elementFindings(
        [{ element: element("Kick", { target }), compared: compared([aspect("level", 40, 6)], { score }) }],
        10,
      ).own.length;
    expect(told(85, 85)).toBe(0);
    expect(told(85, 84.9)).toBe(1);
    expect(told(null, 99)).toBe(1);
  });

  it("say where they were measured", () => {
    const range = only([aspect("level", 40, 6), aspect("tone", 40, 6)], { through: { kind: "range" } }).own;
    expect(range[0]).toMatchObject({
      title: "Kick range 6.0 dB too loud",
      detail: "40 Hz to 110 Hz relative to the whole mix.",
    });
    expect(range[1]!.detail).toBe("In its range of the mix.");
    expect(only([aspect("level", 40, 6)]).own[0]!.detail).toMatch(/^Lifted out of both mixes/);
  });
});

describe("how an element moves and where it stands", () => {
  const told = (name: ElementAspect, measure: MeasureName, gap: number, moving: number[] = []) =>
    only(
      [
        {
          ...aspect(name, 60, gap),
          measures: [{ name: measure, reference: null, version: null, gap, score: 60 }],
        },
      ],
      {
        bars: bars({ moving }),
      },
    ).own[0]!;

  it("is told in words of its own", () => {
    expect(told("width", "elementBalance", -3)).toMatchObject({ title: "Kick sits 3.0 dB further right" });
    expect(told("width", "elementWidth", 4)).toMatchObject({ title: "Kick 4.0 dB wider" });
    expect(told("envelope", "strokeLength", 0.8).title).toBe("Kick rings 1.7 times as long");
    expect(told("envelope", "strokeLength", -1).title).toBe("Kick rings 50 % shorter");
    expect(told("timing", "noteTiming", 23).title).toBe("Kick 23 ms late");
    expect(told("timing", "noteTiming", -12).title).toBe("Kick 12 ms early");
    expect(told("movement", "levelMovement", 5).title).toBe("Kick: level moves differently, by 5.0 dB");
  });

  it("names the bars in which it moves otherwise", () => {
    expect(told("movement", "toneMovement", 0.8, [9, 10, 11, 30])).toMatchObject({
      title: "Kick: tone moves differently, by 0.8 dB",
      bars: [9, 10, 11, 30],
    });
    expect(told("movement", "toneMovement", 0.8, [9, 10, 11, 30]).detail).toMatch(
      /^Most in bars 9–11, bar 30\. /,
    );
  });
});

describe("where an element plays", () => {
  const presence = (missing: number[], extra: number[]) =>
    only([aspect("presence", 60, -40)], { bars: bars({ missing, extra }) }).own[0]!;

  it("is told by bars, the longest stretch first", () => {
    expect(presence([3, 9, 10, 11, 12, 20, 21], [30])).toMatchObject({
      title: "Kick missing in 7 bars",
      detail: "Bars 9–12, bars 20–21, bar 3. The reference has it there.",
      bars: [3, 9, 10, 11, 12, 20, 21],
    });
    expect(presence([], [5])).toMatchObject({
      title: "Kick extra in 1 bar",
      detail: "Bar 5. The reference rests there.",
    });
    expect(presence([1, 3, 5, 7], []).detail).toBe(
      "Bar 1, bar 3, bar 5 and more. The reference has it there.",
    );
  });

  it("is told by its share where the bars are not known", () => {
    const [own] = only([aspect("presence", 60, -40)]).own;
    expect(own!.title).toBe("Kick plays elsewhere in 40 % of the bars");
    const [nowhere] = only([aspect("presence", 0, -100)]).own;
    expect(nowhere!.title).toBe("Kick plays on one side alone");
    expect(own!.bars).toBeUndefined();
  });

  it("is told once of elements that are lifted out as one, with what all of them lack", () => {
    const one = (name: string) => ({
      element: element(name, { lens: "music" }),
      compared: compared([aspect("presence", 60, -40)], {
        bars: bars({ missing: [4] }),
      }),
    });
    const { own } = elementFindings([one("Chords"), one("Lead or vocal")], 10);
    expect(own.map(({ title }) => title)).toEqual(["Chords missing in 1 bar"]);
    expect(own[0]!.points).toBeCloseTo(2 * 4, 9);
  });
});

describe("what the whole mix has a finding of", () => {
  it("is added to that, by the element that lacks most", () => {
    const parts = [
      { element: element("Kick"), compared: compared([aspect("pattern", 90, -10)]) },
      {
        element: element("Hats"),
        compared: compared([aspect("pattern", 40, -60), aspect("accents", 70, 3)]),
      },
      { element: element("Bass"), compared: compared([aspect("notes", 80, -20)]) },
    ];
    const { own, shared } = elementFindings(parts, 10);
    expect(own).toEqual([]);
    // Of the hats: from a softened harmonic mean of 40 and 70 to one of 100 and 70.
    const hats = 2 / (1 / 110 + 1 / 80) - 2 / (1 / 50 + 1 / 80);
    expect(shared.get("pattern")).toEqual({
      points: expect.closeTo((10 + hats) / 10, 9) as number,
      most: "Hats",
    });
    expect(shared.get("accents")!.most).toBe("Hats");
    expect(shared.get("bass")).toEqual({ points: expect.closeTo(2, 9) as number, most: "Bass" });
  });

  it("is none where nothing lacks", () => {
    const { own, shared } = only([
      aspect("pattern", 99.6, -1),
      aspect("level", 100, 0),
      aspect("tone", null, null),
    ]);
    expect([own, [...shared]]).toEqual([[], []]);
  });
});
