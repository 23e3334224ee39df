/** Edits of chords and sections made at random: whatever is pressed, the lists stay whole. */
import { chordName, readChord } from "../harmony/chords";
import type { PlacedChord } from "../harmony/harmonyEstimate";
import {
  changedSection,
  joinedChord,
  joinedSection,
  movedChord,
  movedSection,
  renamedChord,
  splitChord,
  splitSection,
  transposedChords,
} from "./edits";
import { formCorrectionSchema, harmonyCorrectionSchema, type CountedSection } from "./trackPlan";

/** A repeatable source of numbers in [0, 1). */
function source(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return state / 4294967296;
  };
}

const chords: PlacedChord[] = ["Am", "F", "C", "G"].map((name, i) => ({
  startBeat: 4 * i,
  endBeat: 4 * i + 4,
  chord: readChord(name)!,
  confidence: 0.8,
}));
const sections: CountedSection[] = [
  { firstBar: 1, lastBar: 8, name: "intro", letter: "A" },
  { firstBar: 9, lastBar: 16, name: "verse", letter: "B" },
  { firstBar: 17, lastBar: 24, name: "chorus", letter: "C" },
];

describe("chords under any edits", () => {
  it.each(Array.from({ length: 12 }, (_, seed) => seed))("stay whole and without gaps (%i)", (seed) => {
    const random = source(seed);
    const whole = (limit: number) => Math.floor(random() * limit);
    let now = chords;
    for (let i = 0; i < 200; i++) {
      const place = whole(now.length + 2) - 1;
      const beat = whole(24) - 4;
      const kind = whole(5);
      now =
        kind === 0
          ? splitChord(now, place, beat)
          : kind === 1 && now.length > 2
            ? joinedChord(now, place)
            : kind === 2 && place > 0
              ? movedChord(now, place, beat)
              : kind === 3
                ? renamedChord(now, place, readChord("Em7")!)
                : transposedChords(now, whole(25) - 12);
      expect([now[0]!.startBeat, now.at(-1)!.endBeat]).toEqual([0, 16]);
      now.slice(1).forEach((own, k) => expect(own.startBeat).toBe(now[k]!.endBeat));
      now.forEach(({ startBeat, endBeat }) => expect(endBeat - startBeat).toBeGreaterThanOrEqual(1));
      expect(harmonyCorrectionSchema.safeParse({ chords: now }).success).toBe(true);
    }
  });

  it("leave the list that they were given as it was", () => {
    const before = JSON.stringify(chords);
    splitChord(chords, 1, 6);
    joinedChord(chords, 1);
    movedChord(chords, 1, 6);
    transposedChords(chords, 3);
    expect(JSON.stringify(chords)).toBe(before);
  });

  it("transposed there and back are the same", () => {
    for (let by = -11; by <= 11; by++) {
      const back = transposedChords(transposedChords(chords, by), -by);
      expect(back.map(({ chord }) => chordName(chord))).toEqual(["Am", "F", "C", "G"]);
    }
  });

  it("what was joined and split again has its old edges", () => {
    const again = splitChord(joinedChord(chords, 1), 1, 8);
    expect(again.map(({ startBeat, endBeat }) => [startBeat, endBeat])).toEqual(
      chords.map(({ startBeat, endBeat }) => [startBeat, endBeat]),
    );
  });
});

describe("sections under any edits", () => {
  it.each(Array.from({ length: 12 }, (_, seed) => seed))("stay whole and without gaps (%i)", (seed) => {
    const random = source(100 + seed);
    const whole = (limit: number) => Math.floor(random() * limit);
    let now = sections;
    for (let i = 0; i < 200; i++) {
      const place = whole(now.length + 2) - 1;
      const bar = whole(32) - 3;
      const kind = whole(4);
      now =
        kind === 0
          ? splitSection(now, place, bar)
          : kind === 1 && now.length > 2
            ? joinedSection(now, place)
            : kind === 2 && place > 0
              ? movedSection(now, place, bar)
              : changedSection(now, place, { name: `part ${i}` });
      expect([now[0]!.firstBar, now.at(-1)!.lastBar]).toEqual([1, 24]);
      now.slice(1).forEach((own, k) => expect(own.firstBar).toBe(now[k]!.lastBar + 1));
      now.forEach(({ firstBar, lastBar }) => expect(lastBar).toBeGreaterThanOrEqual(firstBar));
      expect(formCorrectionSchema.safeParse({ sections: now }).success).toBe(true);
    }
  });

  it("keep name and letter where they are split, the first's where they are joined", () => {
    expect(splitSection(sections, 1, 13).map(({ name }) => name)).toEqual([
      "intro",
      "verse",
      "verse",
      "chorus",
    ]);
    expect(joinedSection(sections, 0)[0]).toMatchObject({ name: "intro", firstBar: 1, lastBar: 16 });
  });

  it("are not changed by what lies outside", () => {
    expect(splitSection(sections, 0, 1)).toEqual(sections);
    expect(splitSection(sections, 0, 9)).toEqual(sections);
    expect(joinedSection(sections, 2)).toEqual(sections);
    expect(movedSection(sections, 7, 3)).toEqual(sections);
  });
});
