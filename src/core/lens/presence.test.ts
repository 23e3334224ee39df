/** Where parts play: levels by bar, what counts as playing, and what both sides have in common. */
import { whiteNoise } from "../testing/signals";
import { barLevels, comparePresence, partLevels, playingBars } from "./presence";

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
    const parts = { reference: levels, version: levels };
    expect(comparePresence(parts, whole, null, 1).share).toBe(1);
    for (const free of [-4, -9, null]) expect(comparePresence(parts, whole, null, free).share).toBeNull();
  });
});

describe("presence on both sides", () => {
  const on = -20;
  const off = -90;
  const whole = [{ referenceFirst: 1, versionFirst: 1, bars: 4 }];

  it("is shared where both play in the same bars", () => {
    expect(comparePresence({ reference: [on, on, off, on], version: [on, on, off, on] }, whole)).toEqual({
      share: 1,
      missing: [],
      extra: [],
    });
  });

  it("names bars that are missing and extra", () => {
    const found = comparePresence({ reference: [on, on, off, on], version: [on, off, on, on] }, whole);
    expect(found).toEqual({ share: 0.5, missing: [2], extra: [3] });
  });

  it("is counted over the bars that answer each other", () => {
    // The version begins with bar 3 of the reference.
    const spans = [{ referenceFirst: 3, versionFirst: 1, bars: 2 }];
    const found = comparePresence({ reference: [on, on, off, on], version: [off, on] }, spans);
    expect(found).toEqual({ share: 1, missing: [], extra: [] });
  });

  it("is counted over chosen bars", () => {
    const parts = { reference: [on, on, on, on], version: [off, off, on, on] };
    expect(comparePresence(parts, whole, { first: 3, last: 4 }).share).toBe(1);
    expect(comparePresence(parts, whole, { first: 2, last: 3 })).toEqual({
      share: 0.5,
      missing: [2],
      extra: [],
    });
  });

  it("says nothing where neither plays or nothing answers", () => {
    expect(comparePresence({ reference: [off], version: [off] }, whole).share).toBeNull();
    expect(comparePresence({ reference: [on], version: [on] }, []).share).toBeNull();
  });

  it("changes places with its sides", () => {
    const [a, b] = [
      [on, on, off, on],
      [on, off, on, on],
    ];
    const there = comparePresence({ reference: a, version: b }, whole);
    const back = comparePresence({ reference: b, version: a }, whole);
    expect(back).toEqual({ share: there.share, missing: there.extra, extra: there.missing });
  });
});
