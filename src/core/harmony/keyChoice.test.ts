/** What speaks for a key, against counts by hand and against the published profiles. */
import { noChord } from "./chordModel";
import { chooseKey, keyFeatures, type HeardChords } from "./keyChoice";
import { keyModel } from "./keyModel";
import { allKeys, keyName, scaleIntervals } from "./keys";

/** Columns of the features, in their order. */
const column = {
  outside: 3,
  inKey: 4,
  tonicShare: 5,
  tonicAtStarts: 6,
  first: 7,
  last: 8,
  fromFifth: 9,
  fromFourth: 10,
  minor: 11,
} as const;

/** Chords by state: root + 12 for minor, four beats each. */
function chordsOf(states: readonly number[], beats = 4): HeardChords {
  const own = Int8Array.from(states.flatMap((state) => Array.from({ length: beats }, () => state)));
  return { states: own, places: Array.from(own, (_, i) => i % 4), phraseBeats: 16, barOne: 0 };
}
const scale = (tonic: number, mode: "major" | "minor", loudTonic = 2) => {
  const chroma = new Float32Array(12);
  for (const step of scaleIntervals[mode])
    chroma[(tonic + step) % 12] = step === 0 || step === 7 ? loudTonic : 1;
  return chroma;
};
const indexOf = (name: string) => allKeys.findIndex((key) => keyName(key) === name);
const featuresOf = (chroma: Float32Array, chords: HeardChords, from = 0, to = chords.states.length) =>
  keyFeatures(chroma, chords, from, to);

// C, A minor, F, G: I vi IV V.
const loop = [0, 12 + 9, 5, 7];
const inC = chordsOf([...loop, ...loop]);

describe("features of a key", () => {
  const rows = featuresOf(scale(0, "major"), inC);
  const of = (name: string) => rows[indexOf(name)]!;

  it("are there for all keys", () => {
    expect(rows).toHaveLength(24);
    for (const row of rows) {
      expect(row).toHaveLength(keyModel.means.length);
      expect(row.every(Number.isFinite)).toBe(true);
    }
  });

  it("correlate with published profiles as Pearson says", () => {
    // Krumhansl and Kessler's profile for C major, from the tonic up.
    const profile = [6.35, 2.23, 3.48, 2.33, 4.38, 4.09, 2.52, 5.19, 2.39, 3.66, 2.29, 2.88];
    // Something that sounds just like the profile correlates wholly, and turned by a fifth as the profile does.
    const own = featuresOf(Float32Array.from(profile), inC);
    expect(own[indexOf("C major")]![0]).toBeCloseTo(1, 6);
    const mean = profile.reduce((a, b) => a + b, 0) / 12;
    const product = (shift: number) =>
      profile.reduce((sum, x, i) => sum + (x - mean) * (profile[(i + shift) % 12]! - mean), 0);
    expect(own[indexOf("G major")]![0]).toBeCloseTo(product(7) / product(0), 6);
    // And does not depend on level.
    const louder = featuresOf(
      Float32Array.from(profile, (x) => 40 * x),
      inC,
    );
    louder.forEach((row, i) => expect(row[1]).toBeCloseTo(own[i]![1]!, 5));
  });

  it("tell how much sounds outside the scale", () => {
    expect(of("C major")[column.outside]).toBe(0);
    expect(of("A minor")[column.outside]).toBe(0);
    // G major lacks F: one of nine parts; F♯ major shares only B and F with C.
    expect(of("G major")[column.outside]).toBeCloseTo(1 / 9, 6);
    expect(of("F♯ major")[column.outside]).toBeCloseTo(7 / 9, 6);
  });

  it("count chords that belong to it, and its own", () => {
    expect(of("C major")[column.inKey]).toBe(1);
    expect(of("C major")[column.tonicShare]).toBe(1 / 4);
    expect(of("A minor")[column.inKey]).toBe(1);
    expect(of("A minor")[column.tonicShare]).toBe(1 / 4);
    // F is not in G major.
    expect(of("G major")[column.inKey]).toBe(3 / 4);
    expect(of("E major")[column.tonicShare]).toBe(0);
  });

  it("see which chord phrases begin with, and the first and last of all", () => {
    expect(of("C major")[column.tonicAtStarts]).toBe(1);
    expect(of("A minor")[column.tonicAtStarts]).toBe(0);
    expect(rows.map((row) => row[column.first]).reduce((a, b) => a! + b!, 0)).toBe(1);
    expect(of("C major")[column.first]).toBe(1);
    expect(of("G major")[column.last]).toBe(1);
    // Bar 1 may begin later: then phrases begin on another chord.
    const moved = featuresOf(scale(0, "major"), { ...inC, barOne: 4 });
    expect(moved[indexOf("A minor")]![column.tonicAtStarts]).toBe(1);
    expect(moved[indexOf("C major")]![column.tonicAtStarts]).toBe(0);
  });

  it("see how the tonic is come to", () => {
    // Seven changes in two rounds, one of them from G to C, none from F to C.
    expect(of("C major")[column.fromFifth]).toBeCloseTo(1 / 7, 6);
    expect(of("C major")[column.fromFourth]).toBe(0);
    // C to F twice: to F from its fifth.
    expect(of("F major")[column.fromFifth]).toBe(0);
    const plagal = featuresOf(scale(0, "major"), chordsOf([5, 0, 5, 0]));
    expect(plagal[indexOf("C major")]![column.fromFourth]).toBeCloseTo(2 / 3, 6);
    expect(plagal[indexOf("F major")]![column.fromFifth]).toBeCloseTo(1 / 3, 6);
  });

  it("look at the beats asked for only, and past what has no chord", () => {
    const part = featuresOf(scale(0, "major"), inC, 4, 8);
    expect(part[indexOf("A minor")]![column.tonicShare]).toBe(1);
    const gaps = chordsOf([noChord, 0, noChord, 7, noChord]);
    const own = featuresOf(scale(0, "major"), gaps);
    expect(own[indexOf("C major")]![column.tonicShare]).toBe(1 / 2);
    expect(own[indexOf("C major")]![column.first]).toBe(1);
    expect(own[indexOf("G major")]![column.last]).toBe(1);
    const none = featuresOf(scale(0, "major"), chordsOf([noChord, noChord]));
    expect(none.every((row) => row[column.inKey] === 0 && row[column.first] === 0)).toBe(true);
  });

  it("know minor from major", () => {
    allKeys.forEach(({ mode }, i) => expect(rows[i]![column.minor]).toBe(mode === "minor" ? 1 : 0));
  });
});

describe("the choice of a key", () => {
  it("turns with everything else: transposed by any interval it is the same, so much higher", () => {
    const plain = chooseKey(keyModel, featuresOf(scale(0, "major"), inC))!;
    expect(keyName(plain.options[0]!.key)).toBe("C major");
    for (let up = 1; up < 12; up++) {
      const chroma = Float32Array.from({ length: 12 }, (_, i) => scale(0, "major")[(i - up + 12) % 12]!);
      const states = [...loop, ...loop].map((state) => (state >= 12 ? 12 : 0) + (((state % 12) + up) % 12));
      const own = chooseKey(keyModel, featuresOf(chroma, chordsOf(states)))!;
      expect(own.options[0]!.key).toEqual({ tonic: up, mode: "major" });
      expect(own.options[0]!.confidence).toBeCloseTo(plain.options[0]!.confidence, 4);
    }
  });

  it("offers the likeliest five, best first, as probabilities", () => {
    const { options } = chooseKey(
      keyModel,
      featuresOf(scale(9, "minor"), chordsOf([21, 5, 0, 7, 21, 5, 0, 7])),
    )!;
    expect(options).toHaveLength(5);
    for (let i = 1; i < 5; i++)
      expect(options[i]!.confidence).toBeLessThanOrEqual(options[i - 1]!.confidence);
    expect(options.reduce((sum, own) => sum + own.confidence, 0)).toBeLessThanOrEqual(1 + 1e-9);
    expect(options.slice(0, 2).map(({ key }) => keyName(key))).toContain("A minor");
  });

  it("keeps the opinion of the notes and that of the chords apart", () => {
    // Notes of E major under chords of C: somebody is wrong, and both are said.
    const { opinions } = chooseKey(keyModel, featuresOf(scale(4, "major"), inC))!;
    expect(keyName(opinions.notes!)).toBe("E major");
    expect(["C major", "A minor"]).toContain(keyName(opinions.chords!));
    const without = chooseKey(keyModel, featuresOf(scale(4, "major"), chordsOf([noChord, noChord])))!;
    expect(without.opinions.chords).toBeNull();
    expect(keyName(without.opinions.notes!)).toBe("E major");
  });

  it("is none where nothing is pitched", () => {
    expect(chooseKey(keyModel, featuresOf(new Float32Array(12), inC))).toBeNull();
    expect(chooseKey(keyModel, featuresOf(new Float32Array(12).fill(3), inC))).toBeNull();
  });
});
