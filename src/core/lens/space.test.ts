/** The space of parts: how far they fall within their beats, and by how much otherwise on the other side. */
import type { BarRange } from "../grid/grid";
import { whiteNoise } from "../testing/signals";
import { partLevels } from "./presence";
import { compareSpace, gapDepths, type PartDepths } from "./space";

const rate = 8000;
const bars = 8;
/** 100 BPM: no whole number of levels a beat. */
const beat = 0.6;
const beats = Array.from({ length: 4 * bars + 1 }, (_, i) => i * beat);
const seconds = Math.ceil(4 * bars * beat);
const noise = whiteNoise(-12, seconds, rate, 7);

/** Strokes on every beat that fall by 60 dB in some seconds, as a room of so much reverberation time lets them. */
const struck = (reverberation: number, plays = (_beat: number): boolean => true) => {
  const samples = noise.map((x, i) => {
    const time = i / rate;
    const own = Math.floor(time / beat);
    return plays(own) ? x * 10 ** ((-3 * (time - own * beat)) / reverberation) : 0;
  });
  return partLevels([samples, samples], rate);
};
const depths = (levels: Float32Array) => gapDepths(levels, beats, 4);

describe("how far a part falls within its beats", () => {
  it.each([
    // 60 dB · (0.6 − 0.1 s) ÷ reverberation time, less what one level of a tenth of a second holds at either end.
    [1.2, -25],
    [2.4, -12.5],
  ])("follows from the decay: %f s", (reverberation, expected) => {
    for (const depth of depths(struck(reverberation))) expect(Math.abs(depth! - expected)).toBeLessThan(4);
  });

  it("is nothing where it is held, and not told where it is silent", () => {
    const held = depths(partLevels([noise, noise], rate));
    for (const depth of held) expect(depth!).toBeGreaterThan(-1.5);
    const half = depths(struck(1.2, (own) => own < 16));
    expect(half.slice(0, 4).every((depth) => depth !== null)).toBe(true);
    // The first of them may hold the end of the last stroke.
    expect(half.slice(5)).toEqual([null, null, null]);
  });

  it("is not told by beats that are shorter than three levels", () => {
    const quick = Array.from({ length: 33 }, (_, i) => 0.2 * i);
    expect(gapDepths(struck(1.2), quick, 4)).toEqual(Array.from({ length: 8 }, () => null));
  });
});

describe("the space of a part on both sides", () => {
  const levels = {
    reference: Array.from({ length: bars }, () => -20),
    version: Array.from({ length: bars }, () => -20),
  };
  const part = { levels, own: null };
  const whole = [{ referenceFirst: 1, versionFirst: 1, bars }];
  const of = (version: PartDepths["version"], freeDb: number | null = 10, chosen: BarRange | null = null) =>
    compareSpace({ reference: depths(struck(1.2)), version }, part, whole, chosen, freeDb);

  it("differs by what its gaps are fuller", () => {
    expect(of(depths(struck(2.4)))!).toBeGreaterThan(8);
    expect(of(depths(struck(0.8)))!).toBeLessThan(-8);
    expect(of(depths(struck(1.2)))).toBe(0);
  });

  it("does not where only some bars stand in another room: that is movement", () => {
    const some = depths(struck(2.4)).map((depth, bar) => (bar < 3 ? depth : depths(struck(1.2))[bar]!));
    expect(of(some)).toBe(0);
  });

  it("is not told of what hardly stands free, or in too few bars", () => {
    expect(of(depths(struck(2.4)), -6)).toBeNull();
    expect(of(depths(struck(2.4)), null)).toBeNull();
    expect(of(depths(struck(2.4)), 10, { first: 2, last: 4 })).toBeNull();
  });
});
