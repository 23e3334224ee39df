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
  ...own,
});
const measureOf: Record<ElementAspect, MeasureName> = {
  level: "elementLevel",
  tone: "elementTone",
  presence: "presence",
  pattern: "drumHits",
  timing: "hitTiming",
  accents: "accents",
  notes: "bassNotes",
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
  through: { kind: "lens", freeDb: 12 },
  trust: 1,
  presence: null,
  ...own,
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
    // One of ten parts of the match, a third of it each.
    expect(own[0]!.points).toBeCloseTo(60 / 30, 9);
    expect(own[1]!.points).toBeCloseTo(20 / 30, 9);
    expect(own.every(({ place }) => place.kind === "element" && place.elementId === "Kick")).toBe(true);
  });

  it("add up to what the element lacks", () => {
    const aspects = [aspect("level", 40, -6), aspect("tone", 80, 4), aspect("timing", 10, 30, 0.5)];
    const { own, shared } = only(aspects);
    const score = (40 + 80 + 0.5 * 10) / 2.5;
    const all = own.reduce((sum, { points }) => sum + points!, 0) + shared.get("timing")!.points;
    expect(all).toBeCloseTo((100 - score) / 10, 9);
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

describe("where an element plays", () => {
  const presence = (missing: number[], extra: number[]) =>
    only([aspect("presence", 60, -40)], { presence: { share: 0.6, missing, extra } }).own[0]!;

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
    expect(own!.bars).toBeUndefined();
  });

  it("is told once of elements that are lifted out as one, with what all of them lack", () => {
    const one = (name: string) => ({
      element: element(name, { lens: "music" }),
      compared: compared([aspect("presence", 60, -40)], {
        presence: { share: 0.6, missing: [4], extra: [] },
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
    expect(shared.get("pattern")).toEqual({ points: expect.closeTo(1 + 3, 9) as number, most: "Hats" });
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
