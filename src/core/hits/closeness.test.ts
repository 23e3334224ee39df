/** How close two hits are, from measures that are written down: each aspect by itself, and all together. */
import { hitBands, thirdOctaveCentres, type HitMeasures } from "./hitMeasures";
import { scoreOf } from "../match/score";
import {
  closenessAspects,
  closenessOf,
  closenessRules,
  closenessWithWaveform,
  withoutOctave,
  type ClosenessAspect,
} from "./closeness";

const { abs, log2 } = Math;

/** A kick as it may be measured. */
function kick(own: Partial<HitMeasures> = {}): HitMeasures {
  return {
    fundamentalHz: 50,
    glideSemitones: -12,
    attackMs: 3,
    decay: { to20: 120, to40: 260 },
    bands: hitBands.map((_, i) => (i < 4 ? { levelDb: -6 * i, to20: 100, to40: 220 } : null)),
    clickDb: -18,
    brightnessHz: 300,
    noisiness: 0.1,
    position: 0,
    sideToMidDb: null,
    tail: "plain",
    peakDb: -6,
    thirdOctaves: thirdOctaveCentres.map((hz) => -3 * abs(log2(hz / 50))),
    ...own,
  };
}
const gaps = (target: HitMeasures, candidate: HitMeasures) =>
  Object.fromEntries(closenessOf(target, candidate).aspects.map(({ name, gap }) => [name, gap])) as Partial<
    Record<ClosenessAspect, number>
  >;

it("is whole where nothing differs, whatever the level", () => {
  const { score, aspects } = closenessOf(kick(), kick({ peakDb: -30 }));
  expect(score).toBe(100);
  expect(aspects.map(({ name }) => name)).toEqual([...closenessAspects]);
  for (const own of aspects) expect(own).toMatchObject({ gap: 0, score: 100 });
});

describe("a gap", () => {
  it.each([
    ["pitch", { fundamentalHz: 50 * 2 ** (3 / 12) }, 3],
    ["pitch", { fundamentalHz: 50 * 2 ** (-5 / 12) }, -5],
    ["glide", { glideSemitones: -20 }, -8],
    ["length", { decay: { to20: 240, to40: 520 } }, 1],
    ["length", { decay: { to20: 60, to40: null } }, -1],
    ["attack", { attackMs: 12 }, 2],
    ["texture", { clickDb: -10 }, 8],
  ] as const)("of %s is told in its unit, and nothing else differs: %j", (name, own, gap) => {
    const all = gaps(kick(), kick(own));
    expect(all[name]).toBeCloseTo(gap, 6);
    for (const other of closenessAspects.filter((one) => one !== name)) expect(all[other]).toBeCloseTo(0, 9);
  });

  it("turns its sign with the sides and costs the same", () => {
    const other = kick({ fundamentalHz: 62, attackMs: 9, decay: { to20: 70, to40: 150 }, clickDb: -8 });
    const [there, back] = [gaps(kick(), other), gaps(other, kick())];
    for (const name of ["pitch", "attack", "length", "texture"] as const)
      expect(back[name]).toBeCloseTo(-there[name]!, 9);
    expect(closenessOf(other, kick()).score).toBeCloseTo(closenessOf(kick(), other).score, 9);
  });

  it("costs what its rule says, by the weight that it has", () => {
    const weights = closenessAspects.reduce((sum, name) => sum + closenessRules[name].weight, 0);
    const own = scoreOf(8, closenessRules.texture);
    const expected = 100 - (closenessRules.texture.weight / weights) * (100 - own);
    expect(closenessOf(kick(), kick({ clickDb: -10 })).score).toBeCloseTo(expected, 9);
  });

  it("is none within what nobody hears", () => {
    const near = kick({ fundamentalHz: 50 * 2 ** (0.2 / 12), attackMs: 4, clickDb: -16.5 });
    expect(closenessOf(kick(), near).score).toBe(100);
    // Attacks of less than two milliseconds are all alike.
    expect(gaps(kick({ attackMs: 0.2 }), kick({ attackMs: 1.9 })).attack).toBe(0);
  });

  it("of an octave in pitch is one of reading", () => {
    expect(gaps(kick(), kick({ fundamentalHz: 100 })).pitch).toBeCloseTo(0, 9);
    expect(gaps(kick(), kick({ fundamentalHz: 25 * 2 ** (0.3 / 12) })).pitch).toBeCloseTo(0.3, 9);
    expect(gaps(kick(), kick({ fundamentalHz: 100 * 2 ** (1 / 12) })).pitch).toBeCloseTo(13, 6);
    expect([12, -12, 11.6, -12.4, 11, 24].map(withoutOctave).map((x) => Number(x.toFixed(3)))).toEqual([
      0, 0, -0.4, -0.4, 11, 24,
    ]);
  });
});

describe("what only one side has", () => {
  it("is a wrong pitch where one of them has none, and no matter where neither has", () => {
    expect(gaps(kick(), kick({ fundamentalHz: null })).pitch).toBe(6);
    expect(gaps(kick({ fundamentalHz: null }), kick()).pitch).toBe(6);
    const neither = closenessOf(kick({ fundamentalHz: null }), kick({ fundamentalHz: null }));
    expect(neither.aspects.map(({ name }) => name)).not.toContain("pitch");
    expect(neither.score).toBe(100);
  });

  it("is left out where it cannot be compared", () => {
    const names = (own: Partial<HitMeasures>) =>
      closenessOf(kick(), kick(own)).aspects.map(({ name }) => name);
    expect(names({ glideSemitones: null })).not.toContain("glide");
    expect(names({ clickDb: null })).not.toContain("texture");
    expect(names({ decay: { to20: null, to40: null } })).not.toContain("length");
    expect(names({ bands: hitBands.map(() => null) })).not.toContain("envelope");
  });
});

describe("the envelope", () => {
  const bands = (factor: number, first = 0) =>
    hitBands.map((_, i) =>
      i < 4
        ? { levelDb: -6 * i, to20: 100 * (i >= first ? factor : 1), to40: 220 * (i >= first ? factor : 1) }
        : null,
    );

  it("differs where bands ring longer, or shorter, alike", () => {
    expect(gaps(kick(), kick({ bands: bands(2) })).envelope).toBeCloseTo(1, 9);
    expect(gaps(kick(), kick({ bands: bands(0.5) })).envelope).toBeCloseTo(1, 9);
    expect(gaps(kick(), kick({ bands: bands(2, 2) })).envelope).toBeCloseTo(0.5, 9);
  });

  it("does not count bands in which one of them hardly sounds", () => {
    const faint = bands(1).map((band, i) =>
      band && i === 3 ? { levelDb: -34, to20: 900, to40: 2000 } : band,
    );
    expect(gaps(kick(), kick({ bands: faint })).envelope).toBeCloseTo(0, 9);
  });
});

describe("tone", () => {
  const tilted = (perBand: number) =>
    kick().thirdOctaves.map((db, i) => db + perBand * (i - (thirdOctaveCentres.length - 1) / 2));

  it("is deaf to level and hears a tilt", () => {
    expect(gaps(kick(), kick({ thirdOctaves: kick().thirdOctaves.map((db) => db - 9) })).tone).toBeCloseTo(
      0,
      6,
    );
    const slight = gaps(kick(), kick({ thirdOctaves: tilted(0.3) })).tone!;
    const strong = gaps(kick(), kick({ thirdOctaves: tilted(0.6) })).tone!;
    expect(slight).toBeGreaterThan(1);
    expect(strong / slight).toBeCloseTo(2, 0);
  });

  it("does not hear what lies far below the loudest on both sides", () => {
    const hidden = kick().thirdOctaves.map((db, i) => (i >= thirdOctaveCentres.length - 4 ? -70 : db));
    const deeper = hidden.map((db) => (db === -70 ? -110 : db));
    expect(gaps(kick({ thirdOctaves: hidden }), kick({ thirdOctaves: deeper })).tone).toBeCloseTo(0, 6);
  });

  it("that is of another kind lowers all that is otherwise alike", () => {
    const strange = closenessOf(kick(), kick({ thirdOctaves: kick().thirdOctaves.map((db) => -40 - db) }));
    const weights = closenessAspects.reduce((sum, name) => sum + closenessRules[name].weight, 0);
    const plainly = (100 * (weights - closenessRules.tone.weight)) / weights;
    expect(strange.score).toBeLessThan(0.7 * plainly);
    expect(strange.score).toBeGreaterThan(0);
  });

  it("falls steadily as the tilt grows", () => {
    const scores = [0, 0.2, 0.4, 0.8, 1.2].map(
      (tilt) => closenessOf(kick(), kick({ thirdOctaves: tilted(tilt) })).score,
    );
    for (let i = 1; i < scores.length; i++) expect(scores[i]!).toBeLessThanOrEqual(scores[i - 1]!);
    expect(scores.at(-1)!).toBeLessThan(scores[1]!);
  });
});

describe("likeness of waveforms", () => {
  const far = { score: 40, aspects: [] };

  it("makes the same recording whole, whatever was added to it", () => {
    expect(closenessWithWaveform(far, 0.99, "kick").score).toBe(100);
    expect(closenessWithWaveform(far, 0.95, "snare").score).toBe(100);
  });

  it("says nothing where two are only of a kind: kicks are nearly sines", () => {
    expect(closenessWithWaveform(far, 0.84, "kick").score).toBe(40);
    expect(closenessWithWaveform(far, 0.84, "tom").score).toBe(40);
    expect(closenessWithWaveform(far, 0.84, "hat").score).toBeGreaterThan(85);
    expect(closenessWithWaveform(far, -0.5, "hat").score).toBe(40);
  });

  it("raises in between in a straight line, and never lowers", () => {
    expect(closenessWithWaveform(far, 0.91, "kick").score).toBeCloseTo(70, 6);
    for (const likeness of [-1, 0, 0.5, 0.9, 1])
      expect(closenessWithWaveform(far, likeness, "perc").score).toBeGreaterThanOrEqual(40);
  });
});
