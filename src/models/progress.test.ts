/** What versions changed against one another, and which is the best. */
import { mixAspects, type MeasureName, type MixAspect } from "@/core/match";
import type { VersionScores } from "@/core/study";
import { element } from "@/core/testing/records";
import { bestVersion, causeWords, changesBetween, changesByVersion, changeWords } from "./progress";

const study = { elements: [element("k", "Kick", 40, 110), element("b", "Bass", 50, 250)] };
function scores(
  number: number,
  match: number | null,
  aspects: Partial<Record<MixAspect, number | null>> = {},
  elements: Record<string, number | null> = {},
  causes: VersionScores["causes"] = {},
): VersionScores {
  return {
    trackId: `t${number}`,
    number,
    note: "",
    match,
    aspects: {
      ...(Object.fromEntries(mixAspects.map((name) => [name, null])) as VersionScores["aspects"]),
      ...aspects,
    },
    elements,
    trust: {},
    evidence: 1,
    causes,
  };
}

describe("changes between two versions", () => {
  it("are those of aspects and elements, the largest first, whichever way", () => {
    const changes = changesBetween(
      scores(1, 60, { tone: 40, loudness: 90, tempo: 100 }, { k: 80, b: 50 }),
      scores(
        2,
        70,
        { tone: 52, loudness: 70, tempo: 100 },
        { k: 84, b: 43 },
        {
          tone: { kind: "range", fromHz: 250, toHz: 500, was: 3.14, is: 0.4 },
          b: { kind: "measure", name: "elementLevel", was: 0.4, is: 3.5 },
        },
      ),
      study,
    );
    expect(changes).toEqual([
      { name: "loudness", by: -20, cause: "" },
      { name: "tone", by: 12, cause: "from 250 Hz to 500 Hz +3.1 → +0.4 dB" },
      { name: "bass", by: -7, cause: "level +0.4 → +3.5 dB" },
      { name: "kick", by: 4, cause: "" },
    ]);
    expect(changeWords(changes)).toBe("loudness −20, tone +12, bass −7, kick +4");
    expect(changeWords(changes, 2)).toBe("loudness −20, tone +12");
    expect(changeWords(changes, 4, 2)).toBe(
      "loudness −20, tone +12 (from 250 Hz to 500 Hz +3.1 → +0.4 dB), bass −7, kick +4",
    );
    expect(changeWords([])).toBe("");
  });

  it("say what they moved with in the unit of the measure, said once", () => {
    const words = (name: MeasureName, was: number, is: number) =>
      causeWords({ kind: "measure", name, was, is });
    expect(words("integratedLoudness", 3.94, 1.2)).toBe("integrated +3.9 → +1.2 LU");
    expect(words("drumHits", -25, -2)).toBe("hits in common −25 → −2 %");
    expect(words("chords", -100, -24)).toBe("chords in common −100 → −24 %");
    expect(words("width", 3, 5.4)).toBe("average gap 3.0 → 5.4 dB");
    expect(words("bassLength", -1, 0)).toBe("length of the notes ×0.50 → ×1.00");
    expect(words("elementTone", 3, 0.5)).toBe("tone 3.0 → 0.5 dB");
    expect(words("transposition", 2, 0)).toBe("transposition +2 → 0 semitones");
  });

  it("leave out what hardly moved, and what one of them has no score of", () => {
    const before = scores(1, 60, { tone: 50, bass: null, width: 80 }, { k: 80 });
    const after = scores(2, 60, { tone: 52.9, bass: 90, width: null }, { k: null, b: 40 });
    expect(changesBetween(before, after, study)).toEqual([]);
  });

  it("leave out elements that are gone", () => {
    const gone = changesBetween(scores(1, 1, {}, { x: 10 }), scores(2, 1, {}, { x: 90 }), study);
    expect(gone).toEqual([]);
  });

  it("are told of each version against the one before that has a match", () => {
    const all = [
      scores(1, 50, { tone: 40 }),
      scores(2, null),
      scores(3, 60, { tone: 60 }),
      scores(4, 55, { tone: 45 }),
    ];
    const changes = changesByVersion(all, study);
    expect([...changes.keys()]).toEqual(["t3", "t4"]);
    expect(changeWords(changes.get("t3")!)).toBe("tone +20");
    expect(changeWords(changes.get("t4")!)).toBe("tone −15");
  });
});

describe("the best version", () => {
  const all = [scores(1, 70, {}, { k: 90 }), scores(2, 85, {}, { k: 60 }), scores(3, 85), scores(4, null)];

  it("is that with the highest score, the newest of equals", () => {
    expect(bestVersion(all, ({ match }) => match)!.number).toBe(3);
    expect(bestVersion(all, ({ elements }) => elements.k)!.number).toBe(1);
  });

  it("is none where nothing has a score", () => {
    expect(bestVersion(all, ({ elements }) => elements.b)).toBeNull();
    expect(bestVersion([], ({ match }) => match)).toBeNull();
  });
});
