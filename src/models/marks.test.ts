/** What is set aside, and what came of what was done, on made-up scores. */
import { mixAspects, type MixAspect } from "@/core/match";
import { defaultAspectWeights } from "@/core/match";
import type { Mark, VersionScores } from "@/core/study";
import type { Finding } from "./findings";
import { effectsOf, sortFindings } from "./marks";

const tone = (fromHz: number, toHz: number, key = `tone-${fromHz}`): Finding => ({
  key,
  title: `+3 dB from ${fromHz} Hz`,
  detail: "",
  points: 4,
  place: { kind: "range", fromHz, toHz },
});
const loud: Finding = {
  key: "loudness",
  title: "2 LU too loud",
  detail: "",
  points: 3,
  place: { kind: "aspect", aspect: "loudness" },
};
const mark = (finding: Finding, own: Mark["mark"], version = 2): Record<string, Mark> => ({
  [finding.key]: { mark: own, title: finding.title, points: finding.points, place: finding.place, version },
});

describe("what is set aside", () => {
  it("leaves the list, and what was done comes back with the next version", () => {
    const marks = { ...mark(loud, "done"), ...mark(tone(200, 800), "not now") };
    const now = sortFindings([tone(200, 800), loud, tone(4000, 8000)], marks, 2);
    expect(now.open.map(({ key }) => key)).toEqual(["tone-4000"]);
    expect(now.aside.map(({ key, mark: own }) => [key, own.mark])).toEqual([
      ["tone-200", "not now"],
      ["loudness", "done"],
    ]);
    const next = sortFindings([tone(200, 800), loud], marks, 3);
    expect(next.open).toEqual([loud]);
    expect(next.aside.map(({ key }) => key)).toEqual(["tone-200"]);
  });

  it("follows a region of the spectrum that has moved a little, and no other", () => {
    const marks = mark(tone(200, 800), "intended");
    expect(sortFindings([tone(250, 900)], marks, 5).open).toEqual([]);
    expect(sortFindings([tone(630, 2500)], marks, 5).open).toHaveLength(1);
    expect(sortFindings([tone(2000, 4000)], marks, 5).open).toHaveLength(1);
    // Another thing of the same key is not about the spectrum at all.
    expect(sortFindings([{ ...loud, key: "tone-200" }], marks, 5).open).toHaveLength(0);
  });
});

describe("what was done", () => {
  const aspects = (own: Partial<Record<MixAspect, number>>) =>
    Object.fromEntries(mixAspects.map((name) => [name, own[name] ?? null])) as VersionScores["aspects"];
  const version = (number: number, own: Partial<Record<MixAspect, number>>, kick: number): VersionScores => ({
    trackId: `t${number}`,
    number,
    note: "",
    match: 50,
    aspects: aspects(own),
    elements: { kick },
    trust: { kick: 1 },
    evidence: 1,
    causes: {},
  });
  const study = {
    aspectWeights: { ...defaultAspectWeights, tone: 2, loudness: 1 },
    elements: [
      {
        id: "kick",
        name: "Kick",
        lens: null,
        fromHz: 40,
        toHz: 110,
        state: "in work" as const,
        note: "",
        weight: 1,
        target: null,
        hidden: false,
      },
    ],
  };
  const kick: Finding = {
    ...loud,
    key: "element-kick",
    points: 5,
    place: { kind: "element", elementId: "kick" },
  };
  const before = version(2, { tone: 40, loudness: 80 }, 60);
  const after = version(3, { tone: 70, loudness: 80 }, 50);
  const all = [version(1, { tone: 10, loudness: 10 }, 10), before, after];

  it("is held against what it was worth: weight of the score over all weights times its change", () => {
    const marks = { ...mark(tone(200, 800), "done"), ...mark(kick, "done"), ...mark(loud, "done") };
    const effects = effectsOf(after, all, { ...study, marks });
    expect(effects.map(({ expected, since }) => [expected, since])).toEqual([
      [4, 2],
      [5, 2],
      [3, 2],
    ]);
    // By hand: weights 2, 1 and 1; tone +30, kick −10, loudness as it was.
    expect(effects.map(({ got }) => got)).toEqual([
      expect.closeTo((2 * 30) / 4, 9),
      expect.closeTo(-10 / 4, 9),
      expect.closeTo(0, 9),
    ]);
  });

  it("says nothing of what was done for other versions, or only set aside", () => {
    const marks = { ...mark(tone(200, 800), "done", 1), ...mark(kick, "not now") };
    expect(effectsOf(after, all, { ...study, marks })).toEqual([]);
    expect(effectsOf(all[0]!, all, { ...study, marks })).toEqual([]);
  });
});
