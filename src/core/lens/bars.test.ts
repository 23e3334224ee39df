/** What parts do from bar to bar: spectra of bars, movement, and what covers what. */
import { throughout } from "./throughout";
import { bands, twelfthCount } from "../tone";
import type { PartInBars } from "./answeredBars";
import { barSpectra } from "./barSpectra";
import { coverings, type PartSpectra } from "./covering";
import { levelInBars } from "./levelInBars";
import { compareMovement } from "./movement";
import { ownOfBars, ownShares } from "./ownShare";
import { ofLensParts, type LensPart } from "./parts";
import type { PartBars } from "./presence";
import { toneInBars } from "./toneInBars";

const bandAt = (hertz: number) => bands(12).findIndex(({ low, high }) => hertz >= low && hertz < high);
/** Power in some bands, elsewhere none. */
const sounding = (fromHz: number, toHz: number, power: number) =>
  bands(12).map(({ centre }) => (centre >= fromHz && centre <= toHz ? power : 0));
const whole = (bars: number) => [{ referenceFirst: 1, versionFirst: 1, bars }];
const both = (reference: number[], version = reference): PartBars => ({ reference, version });
const drum = (levels: PartBars): PartInBars => ({ levels, own: null });

describe("spectra of bars", () => {
  const frames = 40;
  const map = (power: (frame: number) => number) => {
    const mid = new Float32Array(frames * twelfthCount);
    for (let frame = 0; frame < frames; frame++)
      mid.fill(power(frame), frame * twelfthCount, (frame + 1) * twelfthCount);
    return { hopSeconds: 0.5, frames, mid, side: mid.map((x) => 2 * x), cross: mid };
  };

  it("are means of mid and side over the frames inside", () => {
    // One frame each half second: 1 until 8 s, 5 from there on.
    const spectra = barSpectra(
      map((frame) => (frame < 16 ? 1 : 5)),
      [0, 7.9, 8, 12],
    );
    expect(spectra).toHaveLength(3 * twelfthCount);
    expect(spectra[7]).toBe(3);
    expect(spectra[twelfthCount + 7]).toBeCloseTo(15, 5);
    expect(spectra[2 * twelfthCount + 7]).toBeCloseTo(15, 5);
  });

  it("take the last frame where a grid reaches beyond the file", () => {
    expect(
      barSpectra(
        map(() => 1),
        [0, 18, 30, 50],
      )[2 * twelfthCount],
    ).toBe(3);
  });
});

describe("what of a part is its own", () => {
  const frames = 8;
  const map = (low: (frame: number) => number, high = 0) => {
    const mid = new Float32Array(frames * twelfthCount);
    for (let frame = 0; frame < frames; frame++)
      for (const [b, { centre }] of bands(12).entries())
        mid[frame * twelfthCount + b] = centre < 1000 ? low(frame) : high;
    return { hopSeconds: 1, frames, mid, side: new Float32Array(mid.length), cross: mid };
  };
  const silent = map(() => 0);
  const shares = ownShares({
    ...ofLensParts(() => silent),
    bass: map(() => 1),
    // As loud as the bass below until 4 s, three times as loud from there on; alone above.
    music: map((frame) => (frame < 4 ? 1 : 3), 2),
  });

  it("is told by band, weighed by its power", () => {
    expect(shares.music.ofBands[bandAt(2000)]).toBeCloseTo(1, 6);
    // Half of 1 and three quarters of 3.
    expect(shares.music.ofBands[bandAt(500)]).toBeCloseTo((0.5 + 2.25) / 4, 6);
    expect(shares.bass.ofBands[bandAt(500)]).toBeCloseTo((0.5 + 0.25) / 2, 6);
    expect(shares.kick.ofBands[bandAt(500)]).toBe(0);
  });

  it("is told by bar, and none where there is nothing", () => {
    expect(ownOfBars(shares.bass, [0, 3, 4, 7])).toEqual([0.5, expect.closeTo(0.38, 6), 0.25]);
    expect(ownOfBars(shares.kick, [0, 4])).toEqual([0]);
  });
});

describe("tone bar against bar", () => {
  const bars = 12;
  const pairs = Array.from({ length: bars }, (_, i) => ({ reference: i + 1, version: i + 1 }));
  const sound = sounding(200, 3000, 1e-3);
  const track = (gainOf: (bar: number, hertz: number) => number) =>
    Float32Array.from(
      pairs.flatMap(({ reference }) =>
        sound.map((power, b) => power * 10 ** (gainOf(reference, bands(12)[b]!.centre) / 10)),
      ),
    );
  const alone = new Float32Array(twelfthCount).fill(1);
  const shelf = (hertz: number, decibels: number) => (hertz > 800 ? decibels : 0);
  const of = (gainOf: Parameters<typeof track>[0], share = alone) =>
    toneInBars([track(() => 0), track(gainOf)], [alone, share], pairs)!;
  const apart = ({ gap }: ReturnType<typeof of>) => gap[bandAt(2000)]! - gap[bandAt(400)]!;

  it("differs by what all bars share, whatever the level of each", () => {
    const found = of((bar, hertz) => shelf(hertz, 6) + (bar % 3));
    expect(apart(found)).toBeCloseTo(6, 1);
    expect(found.movement).toBeLessThan(0.1);
    expect(found.bars).toEqual([]);
  });

  it("moves, and does not differ, where half of the bars are darker", () => {
    const found = of((bar, hertz) => (bar > 6 ? shelf(hertz, -12) : 0));
    expect(apart(found)).toBeCloseTo(0, 1);
    expect(found.movement).toBeGreaterThan(3);
    expect(found.bars).toEqual([7, 8, 9, 10, 11, 12]);
  });

  it("does not count where others are louder than the part", () => {
    const covered = alone.map((own, b) => (bands(12)[b]!.centre > 800 ? 0.2 : own));
    const found = of((_, hertz) => shelf(hertz, 6), covered);
    expect(found.weight[bandAt(2000)]).toBe(0);
    expect(Math.max(...found.gap.map(Math.abs))).toBeLessThan(0.1);
  });

  it("is not told of too few bars, or where nothing counts", () => {
    expect(toneInBars([track(() => 0), track(() => 0)], [alone, alone], pairs.slice(0, 3))).toBeNull();
    const nothing = new Float32Array(twelfthCount);
    expect(toneInBars([track(() => 0), track(() => 0)], [alone, nothing], pairs)).toBeNull();
  });
});

describe("movement", () => {
  const loud = Array.from({ length: 16 }, () => -20);
  const tone = { gap: [], weight: [], movement: 2.5, bars: [3, 4] };
  const moved = (levels: number[], freeDb: number | null = 12) =>
    compareMovement(drum(both(loud, levels)), null, whole(16), null, freeDb);

  it("is none where the version is softer throughout", () => {
    expect(moved(loud.map(() => -26))).toEqual({ tone: null, level: 0, bars: [] });
  });

  it("is how far bars stray, by the bars in which they do", () => {
    // A fade by 6 dB over the last four bars, two of which are left out with the strays.
    const { level, bars } = moved(loud.map((own, i) => (i < 12 ? own : own - 6)));
    expect(level).toBeCloseTo(6 * Math.sqrt(2 / 14), 9);
    expect(bars).toEqual([13, 14, 15, 16]);
  });

  it("has that of its tone beside it", () => {
    const faded = loud.map((own, i) => (i < 12 ? own : own - 6));
    const found = compareMovement(drum(both(loud, faded)), tone, whole(16), null, 12);
    expect(found).toMatchObject({ tone: 2.5, bars: [3, 4, 13, 14, 15, 16] });
  });

  it("counts only bars that answer each other, play on both sides and are chosen", () => {
    const later = [{ referenceFirst: 5, versionFirst: 1, bars: 8 }];
    const resting = loud.map((own, i) => (i === 0 ? -80 : i === 1 ? own + 6 : own));
    const of = (chosen: { first: number; last: number } | null) =>
      compareMovement(drum(both(loud, resting)), null, later, chosen, 12);
    expect(of(null).bars).toEqual([6]);
    // A single bar is named, but is no movement.
    expect(of(null).level).toBe(0);
    expect(of({ first: 7, last: 12 })).toEqual({ tone: null, level: 0, bars: [] });
    expect(of({ first: 7, last: 9 }).level).toBeNull();
  });

  it("is not told of a part that hardly stands free", () => {
    const nothing = { tone: null, level: null, bars: [] };
    expect(moved(loud, -4)).toEqual(nothing);
    expect(moved(loud, null)).toEqual(nothing);
  });
});

describe("levels bar against bar", () => {
  const ours = [-20, -20, -26, -20, -20, -90, -20, -20];
  const of = (
    theirs: number[],
    freeDb: number | null = 12,
    chosen: { first: number; last: number } | null = null,
    strokes: PartBars | null = null,
  ) => levelInBars(drum(both(ours, theirs)), strokes, whole(8), chosen, freeDb);

  it("of drums go by their strokes: fewer or shorter ones are not softer", () => {
    const struck = both(Array.from({ length: 8 }, () => -8));
    const thinned = ours.map((level) => level - 3);
    expect(of(thinned, 12, null, struck)!.gap).toBe(0);
    // Strokes heard in too few bars of both say nothing.
    const hardly = both(struck.reference, [-8, ...struck.reference.slice(1).map(() => -120)]);
    expect(of(thinned, 12, null, hardly)!.gap).toBe(-3);
  });

  it("are the median over bars in which both play: rests and single bars do not count", () => {
    const resting = ours.map((level, i) => (i > 5 ? -90 : i === 0 ? level + 6 : level - 4));
    expect(of(resting)!.gap).toBe(-4);
    // Power of four bars at −20 dB and one at −26.
    expect(of(resting)!.reference).toBeCloseTo(10 * Math.log10((4 * 0.01 + 10 ** -2.6) / 5), 9);
    expect(of(ours.map((level) => level + 3))!.gap).toBe(3);
  });

  it("are of chosen bars, and not told of too few or of a part that does not stand free", () => {
    expect(
      of(
        ours.map((level, i) => level + (i < 4 ? 1 : 2)),
        12,
        { first: 1, last: 4 },
      )!.gap,
    ).toBe(1);
    expect(of(ours, 12, { first: 6, last: 7 })).toBeNull();
    expect(of(ours, -4)).toBeNull();
    expect(of(ours, null)).toBeNull();
  });
});

describe("what covers what", () => {
  const bars = 8;
  const spectra = (own: Partial<Record<LensPart, number[]>>): PartSpectra =>
    ofLensParts((part) =>
      Float32Array.from({ length: bars * twelfthCount }, (_, i) => own[part]?.[i % twelfthCount] ?? 0),
    );
  const levels = (playing: readonly LensPart[]) =>
    ofLensParts((part) =>
      drum(both(Array.from({ length: bars }, () => (playing.includes(part) ? -20 : -120)))),
    );
  const free = (own: Partial<Record<LensPart, number>>) => ofLensParts((part) => own[part] ?? null);
  const snare = sounding(200, 2000, 1e-3);
  const found = (
    reference: number[],
    version: number[],
    freeDb: Partial<Record<LensPart, number>> = { snare: 9, music: 9 },
  ) =>
    coverings(
      spectra({ snare, music: reference }),
      spectra({ snare, music: version }),
      levels(["snare", "music"]),
      free(freeDb),
      whole(bars),
    );

  it("is found where it is louder than in the reference, in its range and by how much", () => {
    const [one, ...others] = found(sounding(400, 800, 1e-3), sounding(400, 800, 1e-2));
    expect(others).toEqual([]);
    expect(one).toMatchObject({ part: "snare", by: "music", bars: [1, 2, 3, 4, 5, 6, 7, 8] });
    expect(one!.fromHz).toBeGreaterThan(300);
    expect(one!.fromHz).toBeLessThan(460);
    expect(one!.toHz).toBeGreaterThan(800);
    expect(one!.version).toBeGreaterThan(6);
    expect(one!.version - one!.reference).toBeGreaterThan(6);
    expect(one!.version - one!.reference).toBeLessThanOrEqual(10.1);
  });

  it("is nothing where the reference covers as much, or the version does not cover at all", () => {
    expect(found(sounding(400, 800, 1e-2), sounding(400, 800, 1e-2))).toEqual([]);
    expect(found(sounding(400, 800, 1e-6), sounding(400, 800, 1e-4))).toEqual([]);
  });

  it("reaches further up than down", () => {
    const [one] = found(sounding(400, 800, 1e-5), sounding(400, 800, 1));
    const octaves = (a: number, b: number) => Math.log2(a / b);
    expect(octaves(one!.toHz, 800)).toBeGreaterThan(octaves(400, one!.fromHz));
  });

  it("says nothing of ranges that the part itself hardly has, nor of parts that do not stand free", () => {
    expect(
      found(sounding(4000, 8000, 1e-5), sounding(4000, 8000, 1e-1)).filter(({ fromHz }) => fromHz > 2500),
    ).toEqual([]);
    expect(found(sounding(400, 800, 1e-3), sounding(400, 800, 1e-2), { snare: 9, music: -4 })).toEqual([]);
  });

  it("names the bars in which it does", () => {
    const version = spectra({ snare, music: sounding(400, 800, 1e-2) });
    version.music.subarray(0, 2 * twelfthCount).forEach((x, i, own) => (own[i] = x / 10));
    const [one] = coverings(
      spectra({ snare, music: sounding(400, 800, 1e-3) }),
      version,
      levels(["snare", "music"]),
      free({ snare: 9, music: 9 }),
      whole(bars),
    );
    expect(one!.bars).toEqual([3, 4, 5, 6, 7, 8]);
  });
});

describe("what two sides differ in throughout", () => {
  it("is what most bars share, and nothing where half of them agree", () => {
    expect(throughout([-6, -6, -6, -6, -6])).toBe(-6);
    expect(throughout([-6, -6, -6, -6, 0])).toBe(-6);
    expect(throughout([-6, -6, -6, 0, 0, 0])).toBe(0);
    expect(throughout([4, 4, 4, 5, 0, 0])).toBe(4);
    expect(throughout([-0.2, 0.1, -0.1, 0.3, 0.2])).toBeLessThan(0.15);
    expect(throughout([3])).toBe(3);
  });
});
