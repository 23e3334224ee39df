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

describe("music without a kit", () => {
  const faint = [
    ...hitsOf("snare", [...many(30, 0.7), ...many(3, 0.9)]),
    ...hitsOf("cymbal", many(40, 0.75)),
  ];

  it("has no drums, however many faint hits are heard", () => {
    expect(counted(faint, "snare")).toBe(0);
    expect(counted(faint, "cymbal")).toBe(0);
    expect(counted(hitsOf("kick", many(12, 0.66)), "kick")).toBe(0);
    // They are kept as a hint.
    expect(withoutStrays(faint)).toHaveLength(faint.length);
  });

  it("may have percussion that is heard surely, or in its accents", () => {
    const congas = hitsOf("perc", many(30, 0.95));
    expect(counted([...faint, ...congas], "perc")).toBe(30);
    expect(counted([...faint, ...congas], "snare")).toBe(0);
    expect(counted(hitsOf("snare", [...many(26, 0.62), ...many(6, 0.98)]), "snare")).toBe(32);
  });
});

describe("music with a kit", () => {
  it("has no voices that are as faint as what only resembles them", () => {
    for (const voice of ["kick", "snare", "rim", "cymbal"] as const)
      expect(counted([...hats, ...hitsOf(voice, many(12, 0.62))], voice)).toBe(0);
    const snares = hitsOf("snare", many(30, 0.9));
    const openHats = hitsOf("openHat", many(8, 0.55));
    expect(counted([...snares, ...openHats, ...hitsOf("hat", many(40, 0.62))], "openHat")).toBe(0);
  });

  it("keeps faint voices of which some strokes are clear, percussion and toms, and hats that open now and then", () => {
    for (const voice of ["perc", "tom"] as const)
      expect(counted([...hats, ...hitsOf(voice, many(12, 0.62))], voice)).toBe(12);
    const accents = hitsOf("snare", [...many(12, 0.62), ...many(3, 0.9)]);
    expect(counted([...hats, ...accents], "snare")).toBe(15);
    expect(counted([...hats, ...hitsOf("openHat", many(8, 0.55))], "openHat")).toBe(8);
  });

  it("is not told by a few strokes", () => {
    const few = [...hitsOf("hat", many(5, 0.98)), ...hitsOf("snare", many(30, 0.7))];
    expect(counted(few, "snare")).toBe(0);
    expect(counted(few, "hat")).toBe(5);
  });

  it("may have toms and cymbals that are struck once or twice", () => {
    expect(counted([...hats, ...hitsOf("tom", many(2, 0.6))], "tom")).toBe(2);
  });
});

describe("voices with a stroke or two", () => {
  it("do not count among many others, unless one of the strokes is certain", () => {
    expect(counted([...hats, ...hitsOf("clap", [0.8, 0.9])], "clap")).toBe(0);
    expect(counted([...hats, ...hitsOf("clap", [0.6, 0.98])], "clap")).toBe(2);
  });

  it("count in a short track", () => {
    expect(counted(hitsOf("clap", [0.85, 0.9]), "clap")).toBe(2);
  });

  it("are none where nothing is heard", () => {
    expect(withoutStrays([])).toEqual([]);
  });
});
