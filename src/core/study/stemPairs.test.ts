/** Elements by their stems: levels, tone and bars of stems that are known, wherever these begin in their tracks. */
import { loadFft } from "../dsp/fft";
import { partLevels } from "../lens/presence";
import { compareElements } from "../match";
import { madeUpAnalysis } from "../testing/study";
import { steadyGrid } from "../testing/drums";
import { whiteNoise } from "../testing/signals";
import { fractionalOctaveSpectrogram } from "../tone/fractionalOctaveSpectrogram";
import { offsetOf } from "./results";
import { countedStems, measuredStems, type StemSound } from "./stemPairs";
import { measuresOfWhole, timesOf } from "./spans";

beforeAll(loadFft);

const rate = 8000;
const bars = 8;
// Bars of two seconds from the first sample on.
const grid = steadyGrid(120, bars, 0);
const grids = { reference: grid, version: grid };
const whole = [{ referenceFirst: 1, versionFirst: 1, bars }];
const noise = whiteNoise(-20, 2 * bars, rate, 3);

/** A stem of noise that sounds in some bars, from a time of its track on. */
function stem(
  plays: (bar: number) => number = () => 1,
  { offsetSeconds = 0, elementId = "kick", gainDb = 0 } = {},
): StemSound {
  const track = noise.map((x, i) => x * plays(Math.floor(i / (2 * rate)) + 1));
  const samples = track.subarray(Math.round(offsetSeconds * rate));
  return {
    elementId,
    offsetSeconds,
    gainDb,
    bands: fractionalOctaveSpectrogram([samples, samples], rate),
    levels: partLevels([samples, samples], rate),
  };
}
const compare = (ours: StemSound[], theirs: StemSound[], coverage = whole) => {
  const times = coverage.map((span) => timesOf(span, grids));
  const stored = measuredStems([ours, theirs], grids, coverage, {
    reference: times.map(({ reference }) => reference),
    version: times.map(({ version }) => version),
  });
  const pair = (set = { reference: [], version: [] } as Parameters<typeof countedStems>[3]) =>
    countedStems(stored.kick!, coverage, null, set);
  return { stored, pair };
};

describe("elements with stems on both sides", () => {
  it("alone are compared", () => {
    expect(Object.keys(compare([stem()], [stem(undefined, { elementId: "bass" })]).stored)).toEqual([]);
    expect(Object.keys(compare([stem()], [stem()]).stored)).toEqual(["kick"]);
  });

  it("are as far apart in level as their stems are, and not at all in tone", () => {
    const { level, tone, presence } = compare([stem()], [stem(() => 0.5)]).pair().bars!;
    expect(level!.gap).toBeCloseTo(-6.02, 1);
    expect(Math.max(...tone!.gap.map(Math.abs))).toBeLessThan(0.05);
    expect(presence).toEqual({ share: 1, missing: [], extra: [] });
  });

  it("count as loud as they are in their tracks, not in their files", () => {
    const { level, tone } = compare([stem()], [stem(() => 0.5, { gainDb: 6.02 })]).pair().bars!;
    expect(level!.gap).toBeCloseTo(0, 1);
    expect(Math.max(...tone!.gap.map(Math.abs))).toBeLessThan(0.05);
    const { stored } = compare([stem()], [stem(() => 0.5, { gainDb: 6.02 })]);
    expect(stored.kick!.version.mid[60]! / stored.kick!.reference.mid[60]!).toBeCloseTo(1, 2);
  });

  it("rest where a stem is silent, a single bar too, unless it is said otherwise", () => {
    const { pair } = compare([stem()], [stem((bar) => (bar === 3 || bar > 6 ? 0 : 1))]);
    expect(pair().bars!.presence).toEqual({ share: 5 / 8, missing: [3, 7, 8], extra: [] });
    const said = { reference: [], version: [{ first: 7, last: 8, plays: true }] };
    expect(pair(said).bars!.presence.missing).toEqual([3]);
  });

  it("lie where their stems begin in the track", () => {
    const rests = (bar: number) => (bar > 4 ? 1 : 0);
    const late = stem(rests, { offsetSeconds: 6 });
    const { pair } = compare([stem(rests)], [late]);
    expect(pair().bars!.presence).toEqual({ share: 1, missing: [], extra: [] });
    expect(Math.abs(pair().bars!.level!.gap)).toBeLessThan(0.1);
    // Taken as if it began with the track, it plays three bars too early.
    const wrong = compare([stem(rests)], [{ ...late, offsetSeconds: 0 }]).pair().bars!.presence;
    expect(wrong.extra).toEqual([2, 3, 4]);
  });

  it("have the powers of all stems that are tied to them", () => {
    const one = compare([stem()], [stem()]).stored.kick!;
    const two = compare([stem(), stem()], [stem()]).stored.kick!;
    const sum = (powers: number[]) => powers.reduce((a, b) => a + b, 0);
    expect(sum(two.reference.mid) / sum(one.reference.mid)).toBeCloseTo(2, 3);
    expect(two.levels.reference[4]! - one.levels.reference[4]!).toBeCloseTo(3, 1);
  });

  it("are compared over the bars that answer each other", () => {
    // The version is the last four bars of the reference.
    const last = stem((bar) => (bar <= 4 ? 1 : 0));
    const { pair } = compare(
      [stem((bar) => (bar > 4 ? 1 : 0))],
      [last],
      [{ referenceFirst: 5, versionFirst: 1, bars: 4 }],
    );
    expect(pair().bars!.presence).toEqual({ share: 1, missing: [], extra: [] });
    expect(
      countedStems(compare([stem()], [stem()]).stored.kick!, [], null, { reference: [], version: [] }).bars,
    ).toBeNull();
  });

  it("have figures or none where a stem is silent or lies outside of its track, never one that is no number", () => {
    const nothing = () => 0;
    const own = measuresOfWhole(madeUpAnalysis());
    const scored = (ours: StemSound, theirs: StemSound) => {
      const stems = new Map([["kick", compare([ours], [theirs]).pair()]]);
      const focus = { id: "kick", lens: "kick" as const, fromHz: 40, toHz: 110 };
      return compareElements(own, own, [focus], null, undefined, stems)[0]!;
    };
    const away = { ...stem(), offsetSeconds: 900 };
    for (const [ours, theirs] of [
      [stem(nothing), stem(nothing)],
      [stem(), stem(nothing)],
      [stem(nothing), stem()],
      [stem(), away],
    ] as const) {
      const { aspects, score } = scored(ours, theirs);
      const figures = aspects.flatMap(({ measures }) => measures.flatMap((one) => [one.gap, one.score]));
      expect([...figures, score].every((x) => x === null || Number.isFinite(x))).toBe(true);
    }
    expect(scored(stem(), stem(nothing)).aspects.find(({ name }) => name === "presence")!.score).toBe(0);
    expect(scored(stem(), stem()).score).toBe(100);
  });

  it("begin where the producer says, else where that was found", () => {
    const found = { offsetSeconds: null, measuredOffset: { seconds: 2, confidence: 1 } };
    const of = (own: Partial<Parameters<typeof offsetOf>[0]>) => offsetOf({ ...found, ...own });
    expect([of({}), of({ offsetSeconds: -1 }), of({ measuredOffset: null })]).toEqual([2, -1, null]);
  });
});
