import { steadyGrid } from "@/core/testing/drums";
import { madeUpEnvelopes } from "@/core/testing/envelopes";
import { madeUpStudy } from "@/core/testing/study";
import { compareAll, measuresOfWhole } from "@/core/study";
import { kWeightedStepsPerSecond, levelStepsPerSecond } from "@/core/loudness";
import { dynamicsModel, peaksOverBars, pumpingSentences, punchSentences } from "./dynamics";

const results = madeUpStudy();
const plain = measuresOfWhole(results.analyses.get(results.study.reference!.file.hash)!);
const having = (changes: Parameters<typeof madeUpEnvelopes>[0]) => ({
  ...plain,
  envelopes: madeUpEnvelopes(changes),
});
const modelOf = (reference: typeof plain, version: typeof plain) =>
  dynamicsModel(reference, version, compareAll(reference, version, results.study).mix.aspects);

describe("pumping in words", () => {
  it("is told with depth and return, either way round, and where only one side does it", () => {
    const more = modelOf(having({}), having({ dipDb: 6 }));
    expect(pumpingSentences(more)[0]).toMatch(
      /^Everything above 150 Hz dips 6\.0 dB deeper at each kick than in the reference and is back after 1[6-9]0 ms, 0\.3\d of a beat\.$/,
    );
    expect(pumpingSentences(more)[1]).toBe("Held sounds dip 6.0 dB for 180 ms (0.35 of a beat) in yours.");
    expect(more.scores.pumping).toBeLessThan(60);
    const less = modelOf(having({ dipDb: 6 }), having({}));
    expect(pumpingSentences(less)[0]).toMatch(/^Everything above 150 Hz dips 6\.0 dB less at each kick/);
    expect(less.scores.pumping).toBeCloseTo(more.scores.pumping!, 9);
  });

  it("is calm where both are alike, and says where it can't be told", () => {
    const alike = modelOf(having({ dipDb: 1 }), having({ dipDb: 1 }));
    expect(pumpingSentences(alike)).toEqual([
      "Above 150 Hz nothing dips more at the kicks than in the reference, nor less.",
    ]);
    expect(alike.scores.pumping).toBe(100);
    const without = { ...plain, envelopes: { ...madeUpEnvelopes(), pumping: null } };
    const unknown = modelOf(plain, without);
    expect(unknown.pumping).toBeNull();
    expect(unknown.scores.pumping).toBeNull();
    expect(pumpingSentences(unknown)[0]).toMatch(/too few kicks/);
  });

  it("has a curve of both sides from before the kick on", () => {
    const { pumping } = modelOf(having({}), having({ dipDb: 6 }));
    const at = (ms: number) => pumping!.curves.high.find((own) => own.at === ms)!;
    expect([at(-50).reference, at(-50).version, at(0).reference]).toEqual([0, 0, expect.closeTo(0, 9)]);
    expect(at(0).version).toBe(-6);
    expect(at(100).version).toBeCloseTo(-3, 9);
  });
});

it("says what to do about hits that stand out less, or more", () => {
  const buried = modelOf(having({ attackDb: 9 }), having({ attackDb: 5 }));
  expect(punchSentences(buried)).toEqual([
    expect.stringMatching(/^Kicks and back-beats stand out 4\.0 dB less: /),
  ]);
  expect(punchSentences(modelOf(plain, plain))).toEqual(["Hits stand out and ring on as in the reference."]);
});

it("measures how far the peaks of each bar stand above its loudness", () => {
  const grid = steadyGrid(120, 4, 0);
  const steps = (perSecond: number, value: (bar: number) => number) =>
    Float32Array.from({ length: 8 * perSecond }, (_, i) => value(Math.floor(i / perSecond / 2)));
  const side = {
    kWeighted: steps(kWeightedStepsPerSecond, () => 10 ** ((-14 + 0.691) / 10)),
    truePeaks: steps(levelStepsPerSecond, (bar) => 10 ** ((bar - 4) / 20)),
  };
  const aligned = {
    reference: grid,
    version: grid,
    spans: [{ referenceFirst: 1, versionFirst: 3, bars: 2 }],
  };
  const rows = peaksOverBars({ first: 1, last: 3 }, aligned, { reference: side, version: side });
  expect(rows.map(({ reference }) => Math.round(10 * reference!) / 10)).toEqual([10, 11, 12]);
  expect(rows.map(({ version }) => version && Math.round(10 * version) / 10)).toEqual([12, 13, null]);
});
