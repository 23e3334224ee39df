/** What is said of a study beside the tracks of its style, on made-up figures. */
import { file, done } from "@/core/testing/records";
import { madeUpStudy } from "@/core/testing/study";
import { trackFigures, type FigureName, type TrackFigures } from "@/core/yardstick";
import { isEnough, rangeWords, yardstickModel } from "./yardstick";

const results = madeUpStudy();
const own = new Map([...results.analyses].map(([hash, analysis]) => [hash, trackFigures(analysis)] as const));
const base = own.get("hash0")!;
/** A track that is as the reference is but for some figures. */
const like = (
  values: Partial<Record<FigureName, number | null>>,
  tone: (level: number, band: number) => number = (level) => level,
): TrackFigures => ({ ...base, values: { ...base.values, ...values }, tone: base.tone.map(tone) });

/** The study with tracks of a style, the last of which may still wait for their analysis. */
function model(tracks: readonly TrackFigures[], waiting = 0) {
  const figures = new Map<string, TrackFigures>(own);
  tracks.forEach((track, i) => figures.set(`style${i}`, track));
  const yardstick = Array.from({ length: tracks.length + waiting }, (_, i) => ({
    id: `y${i}`,
    fileName: `${i}.wav`,
    file: file(`style${i}`, 60),
    job: done,
  }));
  return yardstickModel({ ...results, study: { ...results.study, yardstick } }, figures, 1);
}

describe("a yardstick", () => {
  it("says nothing before three tracks are measured", () => {
    const two = model([base, base], 3);
    expect([isEnough(two), two.measured, two.tracks]).toEqual([false, 2, 5]);
    expect(two.rows.every(({ range }) => range === null)).toBe(true);
    expect(two.unusual.reference).toEqual([]);
    expect(isEnough(model([base, base, base]))).toBe(true);
  });

  it("finds nothing unusual about a track among its like", () => {
    const { unusual, within } = model([base, base, base, base]);
    expect(unusual.reference).toEqual([]);
    expect(within.reference.count).toBe(within.reference.of);
  });

  it("says what is unusual, the most unusual first, with value and range", () => {
    const loudness = base.values.loudness!;
    const others = [0, 1, 2, 3].map((i) => like({ tempo: 126 + i, loudness: loudness + 1 + i / 10 }));
    const { unusual, rows, within } = model(others);
    expect(unusual.reference).toHaveLength(2);
    expect(unusual.reference[1]).toMatch(/^Quieter than is typical: −?[\d.]+ LUFS; most have/);
    expect(unusual.reference[0]).toBe("Slower than is typical: 120.0 BPM; most have 126.3 to 128.7 BPM.");
    expect(within.reference.count).toBe(within.reference.of - 2);
    const tempo = rows.find(({ name }) => name === "tempo")!;
    expect(rangeWords("tempo", tempo.range!)).toBe("126.3 to 128.7 BPM");
  });

  it("knows half and double time from another tempo, and says how many tracks were counted so", () => {
    const length = 2 * base.values.length!;
    const loudness = base.values.loudness! + 3;
    const others = [238, 240, 243].map((tempo) => like({ tempo, length, loudness }));
    const { unusual, recounted } = model([...others, { ...others[0]!, countedAs: 2 }]);
    // First, and for its length as well.
    expect(unusual.reference[0]).toBe(
      "Counted half as fast as is typical: 120.0 BPM; most have 238.0 to 242.1 BPM. Its bars, sections and swing are counted so, too.",
    );
    expect(unusual.reference).toHaveLength(2);
    expect(unusual.reference[1]).toMatch(/^Quieter/);
    expect(recounted).toBe(1);
  });

  it("lets differences pass that nobody hears", () => {
    const others = [0, 1, 2].map((i) =>
      like({ tempo: 120.3 + i / 100, truePeak: base.values.truePeak! + 0.2 }),
    );
    expect(model(others).unusual.reference).toEqual([]);
  });

  it("names where the tone curve leaves the range, in runs of bands", () => {
    const others = [0, 1, 2].map(() =>
      like({}, (level, band) => (band >= 10 && band < 14 ? level - 4 : level)),
    );
    const { unusual, tone } = model(others);
    expect(unusual.reference).toHaveLength(1);
    expect(unusual.reference[0]).toMatch(
      /^More from [\d.]+ k?Hz to [\d.]+ k?Hz: up to 4\.0 dB above the range\.$/,
    );
    expect(tone![10]!.reference! - tone![10]!.high).toBeCloseTo(4, 3);
    // A single band is no region.
    const single = [0, 1, 2].map(() => like({}, (level, band) => (band === 10 ? level - 4 : level)));
    expect(model(single).unusual.reference).toEqual([]);
  });

  it("tells which side has a pattern that recurs", () => {
    const others = [base, base, { ...base, patterns: { ...base.patterns, kick: "x..............." } }];
    const { patterns } = model(others);
    const kick = patterns.find(({ group }) => group === "kick")!;
    expect(kick).toMatchObject({ steps: base.patterns.kick, count: 2, of: 3, reference: true });
  });
});
