import { kWeightedStepsPerSecond } from "@/core/loudness";
import { steadyGrid } from "@/core/testing/drums";
import { madeUpStudy } from "@/core/testing/study";
import { compareAll, measuresOfWhole, type AlignedBars } from "@/core/study";
import {
  gainSentence,
  loudnessDistribution,
  loudnessModel,
  quietest,
  referenceTimeOf,
  sectionLoudness,
  stepSentences,
} from "./loudness";

/** A curve whose loudness is given for each second. */
const curve = (lufs: readonly number[]) =>
  Float32Array.from({ length: lufs.length * kWeightedStepsPerSecond }, (_, i) => {
    const level = lufs[Math.floor(i / kWeightedStepsPerSecond)]!;
    return 10 ** ((level + 0.691) / 10);
  });
/** Two seconds a bar; the version begins half a second later and lacks bars 5 and 6. */
const aligned: AlignedBars = {
  reference: steadyGrid(120, 8, 0),
  version: steadyGrid(120, 6, 0.5),
  spans: [
    { referenceFirst: 1, versionFirst: 1, bars: 4 },
    { referenceFirst: 7, versionFirst: 5, bars: 2 },
  ],
};
const section = (firstBar: number, lastBar: number, name: string) => ({
  firstBar,
  lastBar,
  name,
  letter: "A",
});
const sections = [section(1, 4, "verse"), section(5, 6, "break"), section(7, 8, "chorus")];

describe("loudness by section", () => {
  const reference = curve([...new Array<number>(12).fill(-16), ...new Array<number>(4).fill(-12.8)]);
  const version = curve([...new Array<number>(9).fill(-15), ...new Array<number>(4).fill(-13.9)]);
  const found = sectionLoudness(sections, aligned, reference, version);

  it("measures each section and what answers it, and leaves out what is not recreated", () => {
    expect(found.map(({ reference: own }) => own!.toFixed(1))).toEqual(["-16.0", "-16.0", "-12.8"]);
    expect(found[0]!.version).toBeCloseTo(-15, 1);
    expect(found[1]!.version).toBeNull();
    expect(found[2]!.version).toBeCloseTo(-13.9, 0);
  });

  it("says where a step between sections is not the reference's", () => {
    const recreated = [found[0]!, found[2]!];
    expect(stepSentences(recreated)).toEqual([
      expect.stringMatching(/^Chorus: 3\.2 LU above verse; yours 1\.[01] LU above\.$/),
    ]);
    expect(stepSentences(recreated.map((own) => ({ ...own, version: own.reference })))).toEqual([]);
  });
});

it("finds the time of the reference that a place in the version answers", () => {
  expect(referenceTimeOf(aligned, 0.5)).toBeCloseTo(0, 9);
  expect(referenceTimeOf(aligned, 9)).toBeCloseTo(12.5, 9);
  expect(referenceTimeOf({ ...aligned, spans: aligned.spans.slice(0, 1) }, 9)).toBeNull();
});

it("counts how long each loudness lasts, silence left out", () => {
  const shares = loudnessDistribution(Float32Array.from([-14.2, -13.8, -20, -70, -Infinity]));
  expect(shares[-14 - quietest]).toBeCloseTo(2 / 3, 9);
  expect(shares[-20 - quietest]).toBeCloseTo(1 / 3, 9);
  expect(shares.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 9);
});

describe("the model of the Loudness view", () => {
  const results = madeUpStudy();
  const version = results.study.versions.at(-1)!;
  const of = ({ file }: { file: { hash: string } }) => measuresOfWhole(results.analyses.get(file.hash)!);
  const [reference, measured] = [of(results.study.reference!), of(version)];
  const model = loudnessModel(results, {
    version,
    reference,
    measured,
    nothingRecreated: false,
    outdated: false,
    compared: compareAll(reference, measured, results.study),
  });

  it("says by how much to turn the version, and where its peak ends up", () => {
    // 3 LU louder than the reference.
    expect(model.gain).toBeCloseTo(-3, 9);
    expect(model.peakAfterGain).toBeCloseTo(model.version.truePeakDbtp! - 3, 9);
    expect(gainSentence(model)).toMatch(/^Turn it down by 3\.0 dB: its true peak will be at −?\d/);
  });

  it("warns where turning it up leaves no room, and is calm where nothing is to be done", () => {
    expect(gainSentence({ ...model, gain: 4, peakAfterGain: 1.2 })).toMatch(/above −1: a limiter/);
    expect(gainSentence({ ...model, gain: 0.1 })).toBe("As loud as the reference.");
    expect(gainSentence({ ...model, gain: null })).toMatch(/silent/);
  });
});
