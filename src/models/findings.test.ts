import { clock, fixed, frequency, nominalFrequency, points, signed } from "./format";
import { defaultAspectWeights, nothingIntended, type StyleTarget, type TrackMeasures } from "@/core/match";
import { compareAll, type ElementRecord } from "@/core/study";
import { madeUpEnvelopes } from "@/core/testing/envelopes";
import { figuresOfMix } from "@/core/testing/yardstick";
import { gapCurve, wholeOf } from "@/core/tone";
import { yardstickOf } from "@/core/yardstick";
import { findingsOf, rangeInWords, toneRegions } from "./findings";

const measures = (
  changes: { bpm?: number; lufs?: number; peak?: number; powers?: (b: number) => number } = {},
): TrackMeasures => {
  const lufs = changes.lufs ?? -14;
  const peak = changes.peak ?? -1.5;
  return {
    bpm: changes.bpm ?? 118,
    loudness: {
      integratedLufs: lufs,
      loudnessRangeLu: 5,
      truePeakDbtp: peak,
      maxMomentaryLufs: -10,
      maxShortTermLufs: -12,
      peakToLoudnessLu: peak - lufs,
      crestFactorDb: 15,
      measuredSeconds: 90,
    },
    spectrum: {
      mid: Float32Array.from({ length: 124 }, (_, b) => (changes.powers ?? (() => 0.001))(b)),
      side: new Float32Array(124),
      cross: new Float32Array(124),
    },
    envelopes: madeUpEnvelopes(),
  };
};
const kick: ElementRecord = {
  id: "k",
  name: "Kick",
  lens: null,
  fromHz: 40,
  toHz: 110,
  state: "in work",
  note: "",
  weight: 1,
  target: null,
  hidden: false,
};
const findings = (version: TrackMeasures, elements = [kick]) => {
  const reference = measures();
  const compared = compareAll(reference, version, {
    elements,
    aspectWeights: defaultAspectWeights,
    intended: { bpm: null, semitones: 0 },
  });
  return { found: findingsOf(compared, reference, version), match: compared.match! };
};

it("finds nothing where nothing differs", () => {
  expect(findings(measures()).found).toEqual([]);
});

it("names tempo and loudness with what to do", () => {
  const { found } = findings(measures({ bpm: 120, lufs: -10.5, peak: 2 }));
  const tempo = found.find((f) => f.key === "tempo")!;
  expect(tempo.title).toBe("Too fast");
  expect(tempo.detail).toContain("118.00 BPM");
  const loudness = found.find((f) => f.key === "loudness")!;
  expect(loudness.title).toBe("3.5 LU too loud");
  expect(loudness.detail).toContain("down by 3.5 dB");
  expect(found.at(-1)!.key).toBe("peak");
  expect(found.at(-1)!.points).toBeNull();
});

it("warns that turning up needs a limiter where peaks would pass the ceiling", () => {
  const loudness = findings(measures({ lufs: -20, peak: -3 })).found.find((f) => f.key === "loudness")!;
  expect(loudness.detail).toMatch(/up by 6\.0 dB; its peaks would reach \+3\.0 dBTP/);
});

it("orders by points, and the points of one flaw alone are what the match lacks", () => {
  const { found, match } = findings(measures({ bpm: 120 }));
  expect(found).toHaveLength(1);
  expect(found[0]!.points).toBeCloseTo(100 - match, 6);
  const many = findings(
    measures({ bpm: 119, lufs: -12, peak: 0.5, powers: (b) => (b < 40 ? 0.004 : 0.001) }),
  ).found.filter((f) => f.points !== null);
  many.slice(1).forEach((f, i) => expect(f.points!).toBeLessThanOrEqual(many[i]!.points!));
});

it("takes a top that one side lacks for a cut-off, and asks for no boost that could not help", () => {
  // From 16.2 kHz on, which is inside the third octave that begins at 14.1 kHz.
  const bare = measures({ powers: (b) => (b >= 116 ? 1e-7 : 0.001) });
  const tone = findings(bare).found.find(({ key }) => key.startsWith("tone-"))!;
  expect(tone.title).toMatch(/^Cut off above 14 kHz$/);
  expect(tone.detail).toMatch(/no boost brings back/);
  // A few decibels up there are a matter of balance.
  const soft = findings(measures({ powers: (b) => (b >= 100 ? 0.0003 : 0.001) })).found;
  expect(soft.find(({ key }) => key.startsWith("tone-"))!.detail).toMatch(/Boost by about \d\.\d dB\.$/);
});

it("says that the reference ends where the version goes on above it", () => {
  const full = measures();
  const bare = measures({ powers: (b) => (b >= 116 ? 1e-7 : 0.001) });
  const compared = compareAll(bare, full, {
    elements: [],
    aspectWeights: defaultAspectWeights,
    intended: { bpm: null, semitones: 0 },
  });
  const tone = findingsOf(compared, bare, full).find(({ key }) => key.startsWith("tone-"))!;
  expect(tone.title).toMatch(/^The reference ends at 14 kHz$/);
  expect(tone.place).toMatchObject({ kind: "range" });
});

it("gathers neighbouring bands to one region and names the range", () => {
  const version = measures({ powers: (b) => (b >= 96 ? 0.004 : 0.001) });
  const curve = gapCurve(wholeOf(measures().spectrum), wholeOf(version.spectrum), 0, 3);
  const regions = toneRegions(curve, 1);
  expect(regions).toHaveLength(1);
  expect(regions[0]!.gap).toBeCloseTo(6.02, 1);
  expect(rangeInWords(regions[0]!)).toBe("above 4.5 kHz");
  expect(rangeInWords({ fromHz: 224, toHz: 282, centre: 250 })).toBe("around 250 Hz");
});

it("does not speak of elements that are left out", () => {
  const low = measures({ powers: (b) => (b < 32 ? 0.01 : 0.001) });
  expect(findings(low).found.some((f) => f.key === "element-k")).toBe(true);
  expect(findings(low, [{ ...kick, state: "left out" }]).found.some((f) => f.key === "element-k")).toBe(
    false,
  );
});

describe("numbers as people read them", () => {
  it.each([
    [fixed(-0.04), "0.0"],
    [fixed(-12.34), "−12.3"],
    [fixed(null), "–"],
    [signed(2), "+2.0"],
    [signed(0.001), "0.0"],
    [signed(-1.5), "−1.5"],
    [frequency(63.1), "63 Hz"],
    [frequency(251.2), "250 Hz"],
    [frequency(2512), "2.5 kHz"],
    [frequency(16000), "16 kHz"],
    [nominalFrequency(794.3), "800 Hz"],
    [nominalFrequency(3162.3), "3.15 kHz"],
    [nominalFrequency(89.1), "90 Hz"],
    [clock(64.25, true), "1:04.2"],
    [clock(59.99), "0:59"],
    [points(99.7), "99"],
    [points(100), "100"],
    [points(null), "–"],
  ])("%s is %s", (got, expected) => expect(got).toBe(expected));
});

it("speaks of punch, pumping and space, each with what to do, and only of what differs", () => {
  const { found } = findings({
    ...measures(),
    envelopes: madeUpEnvelopes({ attackDb: 4, dipDb: 6, gapDb: -10 }),
  });
  const of = (key: string) => found.find((own) => own.key === key);
  expect(of("attack")).toMatchObject({ title: "Hits stand out 5.0 dB less", place: { aspect: "punch" } });
  expect(of("pumping")!.title).toMatch(/^Dips \d\.\d dB more at each kick$/);
  expect(of("reverberance")).toMatchObject({
    title: "Gaps 8.0 dB fuller",
    detail: "Less room, or shorter notes. See where in the Stereo view.",
  });
  expect(of("sustain")).toBeUndefined();
  // What each is worth is part of what the match lacks.
  expect(found.every(({ points }) => points === null || (points > 0 && points < 10))).toBe(true);
});

it("says what lies outside of the style where that is the target, and nothing of what lies within", () => {
  const version = measures({ lufs: -10, peak: -1.5, powers: (b) => (b >= 96 ? 0.02 : 0.001) });
  const tracks = [-12, -11.5, -11].map((lufs, i) =>
    figuresOfMix(measures({ lufs, peak: -1.5 + i / 10, powers: () => 0.001 })),
  );
  const said = (aspects: StyleTarget["aspects"]) => {
    const study = { elements: [], aspectWeights: defaultAspectWeights, intended: nothingIntended };
    const style = { yardstick: yardstickOf(tracks), aspects };
    const compared = compareAll(measures(), version, study, null, null, null, 1, style);
    return findingsOf(compared, measures(), version).map(({ key, title, detail }) => ({
      key,
      title,
      detail,
    }));
  };
  const plain = said([]);
  expect(plain.find(({ key }) => key === "loudness")!.title).toBe("4.0 LU too loud");
  const styled = said(["loudness", "tone", "width"]);
  // A tenth below the loudest of the three.
  expect(styled.find(({ key }) => key === "loudness")!.title).toBe("1.1 LU too loud");
  const tone = styled.find(({ key, title }) => key.startsWith("tone-") && title.startsWith("+"))!;
  expect(tone.detail).toMatch(/^Outside of what is typical of the style\. Cut by about \d+\.\d dB\.$/);
  expect(said(["dynamics"]).find(({ key }) => key === "peakToLoudness")!.detail).toMatch(
    /^8\.5 LU; [\d.]+ to [\d.]+ LU is typical of the style\.$/,
  );
});
