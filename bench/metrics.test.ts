import { readKey } from "@/core/harmony/keys";
import {
  boundaryF,
  correlation,
  eventF,
  matchedEvents,
  keyScore,
  majorMinorOverlap,
  reliability,
  tempoAccuracy1,
  tempoAccuracy2,
} from "./metrics";
import { matchMoments } from "./moments";

describe("tempo accuracy, by hand", () => {
  it.each([
    [120, 120, true, true],
    [124.8, 120, true, true],
    [124.9, 120, false, false],
    [60, 120, false, true],
    [240, 120, false, true],
    [40, 120, false, true],
    [360, 120, false, true],
    [80, 120, false, false],
    [62.5, 120, false, false],
  ])("%f for %f", (bpm, truth, first, second) => {
    expect(tempoAccuracy1(bpm, truth)).toBe(first);
    expect(tempoAccuracy2(bpm, truth)).toBe(second);
  });

  it("refuses a truth that is no tempo", () => {
    expect(() => tempoAccuracy1(120, 0)).toThrow(/above 0/);
  });
});

it("counts how often answers of a confidence are right", () => {
  const bins = reliability([
    { confidence: 0.85, right: true },
    { confidence: 0.88, right: false },
    { confidence: 1, right: true },
  ]);
  expect(bins).toEqual([
    { range: "0.80–0.90", count: 2, meanConfidence: 0.865, shareRight: 0.5 },
    { range: "0.95–1.00", count: 1, meanConfidence: 1, shareRight: 1 },
  ]);
});

describe("F-measure of times, by hand", () => {
  it.each([
    ["all found", [6, 7, 8], [6.01, 6.95, 8.07], 1],
    ["one too late", [6, 7, 8], [6, 7.08, 8], 2 / 3],
    ["one missed", [6, 7, 8], [6, 8], 0.8],
    ["each counted once", [6], [5.98, 6.02], 2 / 3],
    ["double time", [6, 7, 8, 9], [6, 6.5, 7, 7.5, 8, 8.5, 9], 8 / 11],
    ["the first five seconds left out", [1, 2, 6], [6], 1],
    ["nothing found", [6], [], 0],
  ])("%s", (_name, truth, found, expected) => expect(eventF(truth, found)).toBeCloseTo(expected, 9));

  it("refuses times that do not rise", () => {
    expect(() => eventF([7, 6], [6])).toThrow(/rising/);
  });
});

describe("key score, as in MIREX", () => {
  it.each([
    ["C major", "C major", 1],
    ["C major", "G major", 0.5],
    ["C major", "F major", 0],
    ["C major", "A minor", 0.3],
    ["A minor", "C major", 0.3],
    ["C major", "C minor", 0.2],
    ["C major", "D major", 0],
    ["F# minor", "C# minor", 0.5],
  ])("%s read as %s is %f", (truth, found, score) => {
    expect(keyScore(readKey(truth)!, readKey(found)!)).toBe(score);
  });
});

describe("overlap of chords, by hand", () => {
  const spans = (...rows: [number, number, string][]) =>
    rows.map(([start, end, label]) => ({ start, end, label }));
  const truth = spans([0, 4, "C:maj"], [4, 8, "A:min7"], [8, 12, "N"]);
  it.each([
    ["the same", truth, 1],
    ["sevenths do not matter", spans([0, 4, "C:maj7"], [4, 8, "A:min"], [8, 12, "N"]), 1],
    ["half of one wrong", spans([0, 2, "C:maj"], [2, 8, "A:min"], [8, 12, "N"]), 10 / 12],
    ["no chord where there is none counts, left out or said", spans([0, 4, "C:maj"], [4, 8, "A:min"]), 1],
    ["neither major nor minor meets neither", spans([0, 4, "C:sus4"], [4, 12, "A:min"]), 4 / 12],
  ])("%s", (_name, found, expected) => {
    expect(majorMinorOverlap(truth, found)).toBeCloseTo(expected, 9);
  });

  it("leaves out true chords that are neither", () => {
    expect(majorMinorOverlap(spans([0, 4, "C:sus4"], [4, 8, "G:maj"]), spans([0, 8, "G:maj"]))).toBe(1);
  });
});

it("boundaries are matched within a window, once each", () => {
  expect(boundaryF([10, 20, 30], [10.4, 20.6, 30], 0.5)).toBeCloseTo(2 / 3);
  expect(boundaryF([10, 20, 30], [10.4, 20.6, 30], 3)).toBe(1);
  expect(boundaryF([], [], 3)).toBe(1);
  expect(boundaryF([10], [], 3)).toBe(0);
});

it("moments are matched by kind within a bar, what rises by its end", () => {
  const counted = matchMoments(
    [
      { kind: "stop", start: 10, end: 11 },
      { kind: "riser", start: 12, end: 20 },
      { kind: "crash", start: 20, end: 21 },
    ],
    [
      { kind: "stop", start: 11.5, end: 12 },
      { kind: "riser", start: 16, end: 20 },
      { kind: "crash", start: 24, end: 25 },
      { kind: "crash", start: 20.1, end: 21 },
    ],
    2,
  );
  const of = (kind: string) => counted.find((c) => c.kind === kind);
  expect(of("stop")).toMatchObject({ written: 1, found: 1, right: 1 });
  expect(of("riser")).toMatchObject({ written: 1, found: 1, right: 1 });
  expect(of("crash")).toMatchObject({ written: 1, found: 2, right: 1 });
});

describe("events matched within a window", () => {
  it.each<[number[], number[], number, [number, number][]]>([
    [
      [1, 2, 3],
      [1.02, 2.98],
      0.05,
      [
        [0, 0],
        [2, 1],
      ],
    ],
    // Two near one: only one of them is matched.
    [[1], [0.98, 1.01], 0.05, [[0, 0]]],
    [[1, 1.04], [1.02], 0.05, [[0, 0]]],
    [[], [1], 0.05, []],
  ])("%j against %j", (a, b, window, pairs) => {
    expect(matchedEvents(a, b, window)).toEqual(pairs);
  });
});

it("correlates pairs, by hand", () => {
  // Deviations −1, 0, 1 against −1, 1, 0: 1 ÷ 2.
  const pairs = [
    [1, 2],
    [2, 4],
    [3, 3],
  ] as const;
  expect(correlation(pairs, 3)).toBeCloseTo(0.5, 12);
  expect(
    correlation(
      pairs.map(([a, b]) => [10 * a + 4, -b] as const),
      3,
    ),
  ).toBeCloseTo(-0.5, 12);
  expect(correlation(pairs, 4)).toBeNull();
  expect(
    correlation(
      pairs.map(([a]) => [a, 7] as const),
      3,
    ),
  ).toBeNull();
});
