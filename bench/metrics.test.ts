import { eventF, reliability, tempoAccuracy1, tempoAccuracy2 } from "./metrics";

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
