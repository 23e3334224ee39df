import type { Interplay } from "@/core/lens/interplay";
import { element } from "@/core/testing/records";
import { interplayWords } from "./interplay";

const own = { first: 32, second: 32, both: 0, turns: 7, turnBeats: 8 };
const mixed = { ...own, second: 64, both: 32 };
const pair: Interplay = {
  parts: ["bass", "music"],
  kind: "apart",
  side: "reference",
  reference: own,
  version: mixed,
  bars: [3, 4, 9, 10, 11, 20, 30],
};
const elements = [{ ...element("b", "Sub", 40, 100), lens: "bass" as const }];
const words = (changes: Partial<Interplay>) => interplayWords({ ...pair, ...changes }, elements, 4);

describe("what never sounds together", () => {
  it("is called by its elements, with where the other side has both, the longest first", () => {
    expect(words({})).toEqual({
      title: "Sub and Chords and lead never sound together",
      detail: "In the reference. In yours both sound in bars 9–11, bars 3–4, bar 20 and more.",
    });
    expect(words({ side: "version", reference: mixed, version: own, bars: [2] }).detail).toBe(
      "In yours. In the reference both sound in bar 2.",
    );
    expect(words({ side: "both", bars: [] }).detail).toBe("On both sides.");
  });

  it.each([
    [8, "2 bars each"],
    [4, "a bar each"],
    [2, "2 beats each"],
    [1, "a beat each"],
  ])("and answers is told with how long a turn is: %i beats", (turnBeats, each) => {
    expect(words({ kind: "answers", reference: { ...own, turnBeats } }).title).toBe(
      `Sub and Chords and lead answer one another, ${each}`,
    );
  });
});
