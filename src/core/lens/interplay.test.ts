/** What never sounds together, what answers what, and on which side. */
import { interplay, soundingBeats, together, type PartBeats } from "./interplay";
import { ofLensParts, type LensPart } from "./parts";

const bars = 16;
const whole = [{ referenceFirst: 1, versionFirst: 1, bars }];
/** Beats by a rule, four to the bar. */
const beats = (sounds: (bar: number, beat: number) => boolean): string =>
  Array.from({ length: 4 * bars }, (_, i) => (sounds(Math.floor(i / 4) + 1, (i % 4) + 1) ? "1" : "0")).join(
    "",
  );
const alike = (own: string): PartBeats => ({ reference: own, version: own });
const none = beats(() => false);
const always = beats(() => true);

const found = (
  parts: Partial<Record<LensPart, PartBeats>>,
  { freeDb = 9 as number | null, spans = whole, chosen = (_: number): boolean => true } = {},
) =>
  interplay(
    ofLensParts((part) => parts[part] ?? alike(none)),
    ofLensParts(() => freeDb),
    spans,
    4,
    chosen,
  );

const first = beats((bar) => bar <= 8);
const second = beats((bar) => bar > 8);

describe("beats that a part sounds in", () => {
  it("are those near its loud ones", () => {
    const levels = Float32Array.from({ length: 40 }, (_, i) => (i < 20 ? 0.01 : i < 30 ? 0.0001 : 0));
    expect(soundingBeats(levels, [0, 1, 2, 3, 4])).toBe("1100");
    expect(soundingBeats(new Float32Array(40), [0, 1, 2, 3, 4])).toBe("0000");
  });
});

describe("two parts", () => {
  it("that share no beat are never together, on both sides or on one", () => {
    const [pair] = found({ bass: alike(first), music: alike(second) });
    expect(pair).toMatchObject({ parts: ["bass", "music"], kind: "apart", side: "both", bars: [] });
    const one = found({ bass: alike(first), music: { reference: second, version: always } });
    expect(one).toMatchObject([{ kind: "apart", side: "reference" }]);
    expect(one[0]!.bars).toEqual([1, 2, 3, 4, 5, 6, 7, 8]);
    const other = found({ bass: alike(first), music: { reference: always, version: second } });
    expect(other).toMatchObject([{ side: "version" }]);
    expect(other[0]!.bars).toEqual(one[0]!.bars);
  });

  it.each([
    [1, 4],
    [2, 8],
  ])("that take turns of %i bars answer one another", (length, turnBeats) => {
    const call = beats((bar) => Math.floor((bar - 1) / length) % 2 === 0);
    const response = beats((bar) => Math.floor((bar - 1) / length) % 2 === 1);
    const [pair] = found({ percussion: alike(call), music: alike(response) });
    expect(pair).toMatchObject({
      kind: "answers",
      side: "both",
      reference: { turns: bars / length - 1, turnBeats },
    });
  });

  it("that take turns within the bar answer one another too", () => {
    const [pair] = found({
      bass: alike(beats((_, beat) => beat <= 2)),
      music: alike(beats((_, beat) => beat > 2)),
    });
    expect(pair).toMatchObject({ kind: "answers", reference: { turnBeats: 2 } });
  });

  it("are not told where they share some beats, hardly sound, hardly stand free, or are both drums", () => {
    const some = beats((bar, beat) => bar > 8 || (bar === 3 && beat <= 2));
    expect(found({ bass: alike(first), music: { reference: second, version: some } })).toEqual([]);
    expect(found({ bass: alike(beats((bar) => bar === 1)), music: alike(second) })).toEqual([]);
    const pair = { bass: alike(first), music: alike(second) };
    expect(found(pair, { freeDb: -9 })).toEqual([]);
    expect(found(pair, { freeDb: null })).toEqual([]);
    expect(found({ kick: alike(first), snare: alike(second) })).toEqual([]);
  });

  it("are counted over the bars that answer each other and are chosen", () => {
    const parts = { bass: alike(first), music: { reference: second, version: always } };
    expect(found(parts, { chosen: (bar) => bar > 8 })).toEqual([]);
    // The version begins with bar 5 of the reference.
    const moved = [{ referenceFirst: 5, versionFirst: 1, bars: 8 }];
    const shifted = (own: string) => own.slice(16) + "0".repeat(16);
    const [pair] = found(
      { bass: { reference: first, version: shifted(first) }, music: { reference: second, version: always } },
      { spans: moved },
    );
    expect(pair).toMatchObject({ side: "reference", bars: [5, 6, 7, 8] });
  });

  it("change places with their sides", () => {
    const [a, b] = [first, always].map((own) => [...own].map((sign) => sign === "1"));
    expect(together(a!, b!)).toMatchObject({ first: 32, second: 64, both: 32 });
    expect(together(b!, a!)).toMatchObject({ first: 64, second: 32, both: 32 });
  });
});
