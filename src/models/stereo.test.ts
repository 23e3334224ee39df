import { compareAll, measuresOfWhole } from "@/core/study";
import { madeUpStudy } from "@/core/testing/study";
import { bands } from "@/core/tone";
import type { TrackMeasures } from "@/core/match";
import { stereoModel } from "./stereo";

const results = madeUpStudy();
const version = results.study.versions.at(-1)!;
const plain = measuresOfWhole(results.analyses.get(results.study.reference!.file.hash)!);

/** The reference with another side, or something in common between mid and side, in some bands. */
function changed(side: (hertz: number) => number, cross: (hertz: number) => number = () => 0): TrackMeasures {
  const middles = bands(12).map(({ centre }) => centre);
  const mid = plain.spectrum.mid;
  return {
    ...plain,
    spectrum: {
      mid,
      side: Float32Array.from(middles, (hertz, b) => mid[b]! * side(hertz)),
      cross: Float32Array.from(middles, (hertz, b) => mid[b]! * cross(hertz)),
    },
  };
}
const modelOf = (reference: TrackMeasures, measured: TrackMeasures) =>
  stereoModel(results, {
    version,
    reference,
    measured,
    nothingRecreated: false,
    outdated: false,
    compared: compareAll(reference, measured, results.study),
  });
const narrow = changed(() => 0.01);
const titles = (model: ReturnType<typeof modelOf>) => model.findings.map(({ title }) => title);

describe("the model of the Stereo view", () => {
  it("has nothing to say where both are alike", () => {
    const model = modelOf(narrow, narrow);
    expect(model.findings).toEqual([]);
    expect(model.score).toBe(100);
    expect(model.bands).toHaveLength(10);
  });

  it("names octaves that are too wide, with by how much", () => {
    const model = modelOf(
      narrow,
      changed((hertz) => (hertz > 2818 && hertz < 5623 ? 0.04 : 0.01)),
    );
    expect(titles(model)).toEqual(["2.8 kHz to 5.6 kHz: 6.0 dB too wide"]);
    expect(model.score).toBeLessThan(100);
    const both = modelOf(
      narrow,
      changed((hertz) => (hertz > 1410 && hertz < 5623 ? 0.04 : 0.01)),
    );
    expect(titles(both)).toEqual(["1.4 kHz to 5.6 kHz: 6.0 dB too wide"]);
  });

  it("warns of a low end that is not mono, first of all", () => {
    const model = modelOf(
      narrow,
      changed((hertz) => (hertz < 130 ? 0.3 : 0.01)),
    );
    expect(model.findings[0]).toMatchObject({ title: "The low end is not mono", isWarning: true });
    // Where the reference is like that, too, it is no fault.
    const alike = changed((hertz) => (hertz < 130 ? 0.3 : 0.01));
    expect(modelOf(alike, alike).findings.every(({ isWarning }) => !isWarning)).toBe(true);
  });

  it("says which way a band leans", () => {
    const leaning = changed(
      () => 0.04,
      (hertz) => (hertz > 90 && hertz < 180 ? 0.15 : 0),
    );
    const [first] = modelOf(
      changed(() => 0.04),
      leaning,
    ).findings;
    expect(first!.title).toMatch(/^90 Hz to 180 Hz: \d\.\d dB to the left$/);
    expect(first!.detail).toMatch(/kick and bass belong in the middle/);
  });

  it("has the width of every bar, and none where nothing is recreated", () => {
    const { overBars } = modelOf(narrow, narrow);
    expect(overBars.length).toBeGreaterThan(10);
    expect(overBars.some(({ version: own }) => own !== null)).toBe(true);
  });
});
