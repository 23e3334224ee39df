/** What a match means, and what of it counts where two tracks hardly have to do with each other. */
import { readFileSync } from "node:fs";
import { compareAll, evidenceOf, matchOf, measuresOfWhole, scoresOfVersions } from "../study";
import { madeUpStudy } from "../testing/study";
import { evidenceShare, matchSituations, situationOf } from "./scale";

describe("the scale", () => {
  it("falls step by step from the same sound to another track, without a gap", () => {
    const levels = matchSituations.map(({ least }) => least);
    expect([...levels].sort((a, b) => b - a)).toEqual(levels);
    expect(levels.at(-1)).toBe(0);
    expect(new Set(matchSituations.map(({ words }) => words)).size).toBe(matchSituations.length);
  });

  it.each([
    [100, "the same sound"],
    [99.5, "the same sound"],
    [99.4, "a careful listener hears a difference side by side"],
    [80, "plainly the same track, with differences to be heard"],
    [79.9, "recognisably rebuilt, with much to do"],
    [34.9, "as alike as two tracks of one style, tempo and key"],
    [19.9, "another track"],
    [0, "another track"],
  ])("says of %d: %s", (match, words) => {
    expect(situationOf(match).words).toBe(words);
  });

  it("is published as it is", () => {
    const page = readFileSync("docs/decisions/0020-match-scale.md", "utf8");
    const table = [...page.matchAll(/^\| (from [\d.]+|below) +\| (.+?) +\|$/gm)].map(([, from, words]) => ({
      least: from === "below" ? 0 : Number(from!.slice(5)),
      words,
    }));
    expect(table).toEqual(matchSituations);
  });
});

const shareOf = (related: number | null, harmony: number | null = null) =>
  evidenceShare({ related, harmony, isSaid: false });

describe("the share that counts", () => {
  it("is all of it where the two are surely related, and a third at most where they surely are not", () => {
    for (const related of [0.5, 0.7, 1]) expect(shareOf(related)).toBe(1);
    for (const related of [0, 0.1, 0.3]) expect(shareOf(related)).toBeLessThan(1 / 3);
  });

  it("is half of it at most where the same bars go through other chords, and all where they are the same", () => {
    for (const harmony of [0, 0.4, 0.62]) expect(shareOf(1, harmony)).toBe(0.5);
    for (const harmony of [0.8, 0.95, 1]) expect(shareOf(1, harmony)).toBe(1);
    // What speaks against it most counts: not both.
    expect(shareOf(0.1, 0.3)).toBe(shareOf(0.1));
  });

  it("never falls as the evidence grows, and has no step in it", () => {
    for (const of of [shareOf, (harmony: number) => shareOf(1, harmony)]) {
      const shares = Array.from({ length: 101 }, (_, i) => of(i / 100));
      for (let i = 1; i < shares.length; i++) {
        expect(shares[i]!).toBeGreaterThanOrEqual(shares[i - 1]!);
        expect(shares[i]! - shares[i - 1]!).toBeLessThan(0.06);
      }
    }
  });

  it("is all of it where the producer has said which bars answer, and where nothing can be told", () => {
    expect(evidenceShare({ related: 0.02, harmony: 0, isSaid: true })).toBe(1);
    expect(shareOf(null)).toBe(1);
  });
});

describe("the match of a version", () => {
  const results = madeUpStudy();
  const { study } = results;
  const known = (related: number) =>
    new Map(
      [...results.alignments].map(([id, { value }]) => [
        id,
        {
          alignment: { ...value, alignment: { ...value.alignment!, related } },
          comparison: results.comparisons.get(id)?.value ?? null,
        },
      ]),
    );

  it("counts by its evidence, and its aspects as they are", () => {
    const [sure, unsure] = [scoresOfVersions(study, known(1)), scoresOfVersions(study, known(0.1))];
    sure.forEach((own, i) => {
      expect(unsure[i]!.match).toBeCloseTo(0.3 * own.match!, 9);
      expect(unsure[i]!.aspects).toEqual(own.aspects);
      expect(unsure[i]!.elements).toEqual(own.elements);
    });
  });

  it("does not count other chords where harmony has no weight: they are intended", () => {
    const alignment = { ...[...results.alignments.values()][0]!.value.alignment!, harmony: 0.3 };
    expect(evidenceOf({ coverage: null }, alignment, study)).toBe(0.5);
    const intended = { aspectWeights: { ...study.aspectWeights, harmony: 0 } };
    expect(evidenceOf({ coverage: null }, alignment, intended)).toBe(1);
  });

  it("is the same when it is worked out again from its scores, as when weights change in the page", () => {
    for (const related of [0.1, 0.4, 1])
      for (const own of scoresOfVersions(study, known(related)))
        expect(matchOf(own, study)).toBeCloseTo(own.match!, 9);
  });

  it("is whole where the bars were set by hand", () => {
    const [version] = study.versions;
    const said = {
      ...study,
      versions: [{ ...version!, coverage: [{ referenceFirst: 1, versionFirst: 1, bars: 4 }] }],
    };
    expect(scoresOfVersions(said, known(0.05))[0]!.evidence).toBe(1);
    expect(evidenceOf({ coverage: null }, null, study)).toBe(1);
  });

  it("of a track with itself is 100, and nothing of it is lost", () => {
    const own = measuresOfWhole(results.analyses.get(study.reference!.file.hash)!);
    expect(compareAll(own, own, study, 0, null, null, shareOf(1)).match).toBeCloseTo(100, 6);
  });
});
