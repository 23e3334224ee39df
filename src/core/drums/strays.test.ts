import { leastConfidence, type DrumHit } from "./hits";
import { withoutStrays } from "./strays";
import type { DrumVoice } from "./voices";

/** Hits a beat apart of these confidences. */
const hitsOf = (voice: DrumVoice, confidences: readonly number[]): DrumHit[] =>
  confidences.map((confidence, i) => ({ voice, time: i / 2, velocity: 0.7, confidence }));
const many = (count: number, confidence: number) => new Array<number>(count).fill(confidence);
const counted = (hits: readonly DrumHit[], voice: DrumVoice) =>
  withoutStrays(hits).filter((hit) => hit.voice === voice && hit.confidence >= leastConfidence).length;
const hats = hitsOf("hat", many(60, 0.98));

describe("voices that are never heard surely", () => {
  it("do not count, however many hits they have", () => {
    expect(counted([...hats, ...hitsOf("snare", [...many(30, 0.7), ...many(3, 0.9)])], "snare")).toBe(0);
    expect(counted(hitsOf("kick", many(12, 0.66)), "kick")).toBe(0);
    // The hits are kept as a hint, and the other voices as they are.
    const left = withoutStrays([...hats, ...hitsOf("snare", many(30, 0.7))]);
    expect(left).toHaveLength(90);
    expect(left.slice(0, 60)).toEqual(hats);
  });

  it("count where a tenth of their strokes are sure, as accents over ghost notes are", () => {
    expect(counted(hitsOf("snare", [...many(26, 0.62), ...many(6, 0.97)]), "snare")).toBe(32);
  });

  it("count where they are fairly sure throughout, as in a dull recording", () => {
    expect(counted(hitsOf("hat", many(40, 0.8)), "hat")).toBe(40);
    expect(counted(hitsOf("kick", many(40, 0.78)), "kick")).toBe(40);
  });

  it("may be toms and cymbals all the same: those are heard faintly where they play", () => {
    expect(counted([...hats, ...hitsOf("cymbal", many(5, 0.6))], "cymbal")).toBe(5);
    expect(counted([...hats, ...hitsOf("tom", many(2, 0.6))], "tom")).toBe(2);
  });
});

describe("voices with a stroke or two", () => {
  it("do not count among many others, unless one of the strokes is certain", () => {
    expect(counted([...hats, ...hitsOf("clap", [0.8, 0.9])], "clap")).toBe(0);
    expect(counted([...hats, ...hitsOf("clap", [0.6, 0.98])], "clap")).toBe(2);
  });

  it("count in a short track", () => {
    expect(counted(hitsOf("clap", [0.8, 0.9]), "clap")).toBe(2);
  });

  it("are none where nothing is heard", () => {
    expect(withoutStrays([])).toEqual([]);
  });
});
