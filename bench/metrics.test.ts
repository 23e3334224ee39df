import { reliability, tempoAccuracy1, tempoAccuracy2 } from "./metrics";

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
