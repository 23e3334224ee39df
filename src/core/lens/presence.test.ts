/** Where parts play: levels by bar, what counts as playing, and what both sides have in common. */
import { whiteNoise } from "../testing/signals";
import { comparePresence } from "./answeredBars";
import { barLevels, partLevels, playingBars, type PartBars } from "./presence";
import { presenceCorrectionSchema, setIn, withBars, type PresenceCorrection } from "./presenceCorrection";

describe("levels by bar", () => {
  it("are those of the samples, whatever the bars' length", () => {
    const rate = 8000;
    const noise = whiteNoise(-20, 8, rate);
    // Ten dB less from 4 s on, silence from 6 s on.
    const samples = noise.map((x, i) => (i < 4 * rate ? x : i < 6 * rate ? x * 10 ** -0.5 : 0));
    const levels = partLevels([samples, samples], rate);
    expect(levels).toHaveLength(80);
    const bars = barLevels(levels, [0, 1.5, 4, 6, 8]);
    expect(bars[0]).toBeCloseTo(-20, 0);
    expect(bars[1]).toBeCloseTo(-20, 0);
    expect(bars[2]).toBeCloseTo(-30, 0);
    expect(bars[3]).toBe(-120);
  });

  it("are silence where a grid reaches beyond the file", () => {
    expect(barLevels(Float32Array.from([0.01, 0.01]), [0, 0.2, 2, 4])).toEqual([-20, -120, -120]);
  });

  it("are those of one channel where the other is silent, half the power", () => {
    const noise = whiteNoise(-20, 2, 8000);
    const [level] = barLevels(partLevels([noise, new Float32Array(noise.length)], 8000), [0, 2]);
    expect(level).toBeCloseTo(-23, 0);
  });
});

const of = (levels: PartBars, own: PartBars | null = null) => ({ levels, own });
/** As of a part that is told by its level, and nothing is another's. */
const free = (levels: PartBars) =>
  of(levels, { reference: levels.reference.map(() => 1), version: levels.version.map(() => 1) });

describe("bars that a part plays in", () => {
  it.each([
    ["all alike", [-20, -20, -21], [true, true, true]],
    ["a rest with what others left in it", [-20, -45, -20, -20], [true, false, true, true]],
    ["a soft verse and a loud chorus", [-30, -30, -18, -18], [true, true, true, true]],
    ["next to nothing anywhere", [-80, -90, -120], [false, false, false]],
    ["one stroke in a long silence", [-120, -120, -25, -120], [false, false, true, false]],
    ["none", [], []],
  ])("are found: %s", (_, levels, plays) => {
    expect(playingBars(levels)).toEqual(plays);
  });
});

describe("a part that does not stand quite free", () => {
  const levels = [-20, -50, -20, -20, -50, -50, -20, -50];

  it("has single bars that differ from both beside them taken for mishearings", () => {
    expect(playingBars(levels, 1)).toEqual([true, true, true, true, false, false, false, false]);
    expect(playingBars(levels, 9)).toEqual([true, false, true, true, false, false, true, false]);
  });

  it("is not told where it hardly stands free, or is not there", () => {
    const whole = [{ referenceFirst: 1, versionFirst: 1, bars: 8 }];
    const parts = of({ reference: levels, version: levels });
    expect(comparePresence(parts, whole, null, 1).share).toBe(1);
    for (const freeDb of [-4, -9, null]) expect(comparePresence(parts, whole, null, freeDb).share).toBeNull();
  });
});

describe("presence on both sides", () => {
  const on = -20;
  const off = -90;
  const whole = [{ referenceFirst: 1, versionFirst: 1, bars: 4 }];

  it("is shared where both play in the same bars", () => {
    expect(
      comparePresence(free({ reference: [on, on, off, on], version: [on, on, off, on] }), whole, null, 12),
    ).toEqual({
      share: 1,
      missing: [],
      extra: [],
    });
  });

  it("names bars that are missing and extra", () => {
    const found = comparePresence(
      free({ reference: [on, on, off, on], version: [on, off, on, on] }),
      whole,
      null,
      12,
    );
    expect(found).toEqual({ share: 0.5, missing: [2], extra: [3] });
  });

  it("is counted over the bars that answer each other", () => {
    // The version begins with bar 3 of the reference.
    const spans = [{ referenceFirst: 3, versionFirst: 1, bars: 2 }];
    const found = comparePresence(
      free({ reference: [on, on, off, on], version: [off, on] }),
      spans,
      null,
      12,
    );
    expect(found).toEqual({ share: 1, missing: [], extra: [] });
  });

  it("is counted over chosen bars", () => {
    const parts = free({ reference: [on, on, on, on], version: [off, off, on, on] });
    expect(comparePresence(parts, whole, { first: 3, last: 4 }, 12).share).toBe(1);
    expect(comparePresence(parts, whole, { first: 2, last: 3 }, 12)).toEqual({
      share: 0.5,
      missing: [2],
      extra: [],
    });
  });

  it("says nothing where neither plays or nothing answers", () => {
    expect(comparePresence(free({ reference: [off], version: [off] }), whole, null, 12).share).toBeNull();
    expect(comparePresence(free({ reference: [on], version: [on] }), [], null, 12).share).toBeNull();
  });

  it("changes places with its sides", () => {
    const [a, b] = [
      [on, on, off, on],
      [on, off, on, on],
    ];
    const there = comparePresence(free({ reference: a, version: b }), whole, null, 12);
    const back = comparePresence(free({ reference: b, version: a }), whole, null, 12);
    expect(back).toEqual({ share: there.share, missing: there.extra, extra: there.missing });
  });

  it("takes a single bar without a stroke for another pattern, several for a rest", () => {
    const reference = [on, on, on, on, on, on, on, on];
    const version = [on, off, on, on, off, off, on, on];
    const spans = [{ referenceFirst: 1, versionFirst: 1, bars: 8 }];
    expect(comparePresence(of({ reference, version }), spans, null, 12)).toEqual({
      share: 0.75,
      missing: [5, 6],
      extra: [],
    });
    // Of a rest of which one bar is chosen too.
    expect(comparePresence(of({ reference, version }), spans, { first: 6, last: 8 }, 12).missing).toEqual([
      6,
    ]);
    expect(comparePresence(free({ reference, version }), spans, null, 12).missing).toEqual([2, 5, 6]);
  });

  it("is none in bars that hold what others left, softer and hardly its own", () => {
    const levels = { reference: [on, on, on, on], version: [on, on - 9, on - 9, on] };
    const left = of(levels, { reference: [0.6, 0.6, 0.6, 0.6], version: [0.6, 0.2, 0.5, 0.6] });
    expect(comparePresence(left, whole, null, 2)).toEqual({ share: 0.75, missing: [2], extra: [] });
    // As soft in all bars it is turned down, under others that are as loud as before.
    const softer = of(
      { reference: levels.reference, version: levels.reference.map((level) => level - 9) },
      { reference: [0.6, 0.6, 0.6, 0.6], version: [0.2, 0.2, 0.2, 0.2] },
    );
    expect(comparePresence(softer, whole, null, 2).share).toBe(1);
  });
});

describe("bars set by hand", () => {
  const [on, off] = [-20, -90];
  const whole = [{ referenceFirst: 1, versionFirst: 1, bars: 4 }];
  const set = (reference: PresenceCorrection, version: PresenceCorrection = {}) => ({
    reference: reference.kick ?? [],
    version: version.kick ?? [],
  });
  const rest = (first: number, last = first) => withBars({}, "kick", [{ first, last }], false);
  const play = (first: number, last = first) => withBars({}, "kick", [{ first, last }], true);

  it("count in place of what was heard, on either side, a single bar too", () => {
    const heard = of({ reference: [on, on, on, on], version: [on, off, on, off] });
    const gaps = (parts: ReturnType<typeof set>) =>
      comparePresence({ ...heard, set: parts }, whole, null, 12);
    expect(gaps(set(rest(2), play(4)))).toEqual({ share: 1, missing: [], extra: [] });
    expect(gaps(set({}, rest(1)))).toEqual({ share: 0.5, missing: [1, 2], extra: [] });
    expect(gaps(set(rest(4)))).toEqual({ share: 1, missing: [], extra: [] });
  });

  it("are not undone by what others left in a bar", () => {
    const left = of(
      { reference: [on, on, on, on], version: [on, on - 9, on, on] },
      { reference: [0.6, 0.6, 0.6, 0.6], version: [0.6, 0.1, 0.6, 0.6] },
    );
    expect(comparePresence(left, whole, null, 12).missing).toEqual([2]);
    expect(comparePresence({ ...left, set: set({}, play(2)) }, whole, null, 12).missing).toEqual([]);
  });

  it("alone tell where it hardly stands free: those that are set on both sides", () => {
    const heard = of({ reference: [on, on, on, on], version: [on, on, on, on] });
    const parts = { ...heard, set: set(play(1, 4), rest(3, 4)) };
    expect(comparePresence(parts, whole, null, -9)).toEqual({ share: 0, missing: [3, 4], extra: [] });
    expect(comparePresence({ ...heard, set: set(play(1)) }, whole, null, null).share).toBeNull();
  });

  it("take the place of those that were set before, are joined, and are as heard again", () => {
    const first = withBars({}, "kick", [{ first: 5, last: 12 }], true);
    const cut = withBars(first, "kick", [{ first: 8, last: 9 }], false);
    expect(cut.kick).toEqual([
      { first: 5, last: 7, plays: true },
      { first: 8, last: 9, plays: false },
      { first: 10, last: 12, plays: true },
    ]);
    expect([4, 7, 8, 12, 13].map((bar) => setIn(cut.kick!, bar))).toEqual([null, true, false, true, null]);
    expect(withBars(cut, "kick", [{ first: 8, last: 9 }], true)).toEqual(first);
    const both = withBars(
      cut,
      "bass",
      [
        { first: 1, last: 2 },
        { first: 3, last: 3 },
      ],
      false,
    );
    expect(both.bass).toEqual([{ first: 1, last: 3, plays: false }]);
    expect(presenceCorrectionSchema.parse(both)).toEqual(both);
    expect(withBars(both, "kick", [{ first: 1, last: 99 }], null)).toEqual({ bass: both.bass });
    expect(presenceCorrectionSchema.safeParse({ kick: [{ first: 3, last: 2, plays: true }] }).success).toBe(
      false,
    );
    expect(presenceCorrectionSchema.safeParse({ gong: [] }).success).toBe(false);
  });
});
