/**
 * The test signals of the loudness standards, synthesised. Signals and expected values after
 * EBU Tech 3341 (2016) table 1, EBU Tech 3342 (2016) table 1 and ITU-R BS.1770-5 (2023), from
 * memory; the authentic programme excerpts of both tables are recordings and not included.
 */
import { channelTones, toneSequence, type Tone } from "../testing/signals";
import {
  integratedLoudness,
  levelCurves,
  loudnessRange,
  maxMomentary,
  maxShortTerm,
  momentaryLoudness,
  shortTermLoudness,
  sweepLevels,
  truePeaks,
} from ".";
import { kWeighting } from "./kWeighting";

const tone = (level: number, seconds: number): Tone => ({ level, seconds });
const silence = (seconds: number): Tone => ({ level: -Infinity, seconds });
const meanSquaresOf = (tones: Tone[]) => sweepLevels(toneSequence(tones)).kWeightedMeanSquares;
const repeated = (count: number, tones: Tone[]) => Array.from({ length: count }, () => tones).flat();

describe("ITU-R BS.1770-5", () => {
  it("reads a 997 Hz sine at 0 dBFS on one channel as −3.01 LKFS", () => {
    const signal = channelTones([0, -Infinity], ["left", "right"], 10, 997);
    expect(integratedLoudness(sweepLevels(signal).kWeightedMeanSquares)).toBeCloseTo(-3.01, 2);
  });

  it("gives back the filter table of 48 kHz", () => {
    const { shelf, highPass } = kWeighting(48000);
    expect(shelf.b0).toBeCloseTo(1.53512485958697, 8);
    expect(shelf.b1).toBeCloseTo(-2.69169618940638, 8);
    expect(shelf.b2).toBeCloseTo(1.19839281085285, 8);
    expect(shelf.a1).toBeCloseTo(-1.69065929318241, 8);
    expect(shelf.a2).toBeCloseTo(0.73248077421585, 8);
    expect(highPass.a1).toBeCloseTo(-1.99004745483398, 8);
    expect(highPass.a2).toBeCloseTo(0.99007225036621, 8);
  });

  it.each([8000, 22050, 44100, 88200, 96000, 192000])("reads the same loudness at %i Hz", (sampleRate) => {
    const signal = toneSequence([tone(-23, 5)], 997, sampleRate);
    expect(integratedLoudness(sweepLevels(signal).kWeightedMeanSquares)).toBeCloseTo(-23, 1);
  });
});

describe("EBU Tech 3341, integrated loudness (±0.1 LU)", () => {
  it.each<[string, Tone[], number]>([
    ["1: −23 dBFS", [tone(-23, 20)], -23],
    ["2: −33 dBFS", [tone(-33, 20)], -33],
    ["3: relative gate", [tone(-36, 10), tone(-23, 60), tone(-36, 10)], -23],
    ["4: absolute gate", [tone(-72, 10), tone(-36, 10), tone(-23, 60), tone(-36, 10), tone(-72, 10)], -23],
    ["5: levels near each other", [tone(-26, 20), tone(-20, 20.1), tone(-26, 20)], -23],
  ])("signal %s", (_name, tones, expected) => {
    expect(Math.abs(integratedLoudness(meanSquaresOf(tones))! - expected)).toBeLessThanOrEqual(0.1);
  });

  it("signal 6: five channels", () => {
    const signal = channelTones(
      [-28, -28, -24, -30, -30],
      ["left", "right", "centre", "leftSurround", "rightSurround"],
      20,
    );
    expect(Math.abs(integratedLoudness(sweepLevels(signal).kWeightedMeanSquares)! + 23)).toBeLessThanOrEqual(
      0.1,
    );
  });

  it("signals 1 and 2: momentary and short-term agree with integrated on a steady tone", () => {
    for (const level of [-23, -33]) {
      const kWeightedMeanSquares = meanSquaresOf([tone(level, 20)]);
      expect(Math.abs(maxMomentary(kWeightedMeanSquares)! - level)).toBeLessThanOrEqual(0.1);
      expect(Math.abs(maxShortTerm(kWeightedMeanSquares)! - level)).toBeLessThanOrEqual(0.1);
    }
  });
});

describe("EBU Tech 3341, short-term loudness (±0.1 LU)", () => {
  it("signal 9: constant at −23 LUFS from 3 s on", () => {
    const curve = shortTermLoudness(meanSquaresOf(repeated(5, [tone(-20, 1.34), tone(-30, 1.66)])));
    for (const value of curve) expect(Math.abs(value + 23)).toBeLessThanOrEqual(0.1);
  });

  it.each(Array.from({ length: 20 }, (_, k) => k))("signal 10, part %i: largest value −23 LUFS", (k) => {
    const kWeightedMeanSquares = meanSquaresOf([silence(k * 0.15), tone(-23, 3), silence(1)]);
    expect(Math.abs(maxShortTerm(kWeightedMeanSquares)! + 23)).toBeLessThanOrEqual(0.1);
  });

  it.each(Array.from({ length: 20 }, (_, k) => k))(
    "signal 11, part %i: largest value follows the tone",
    (k) => {
      const kWeightedMeanSquares = meanSquaresOf([
        silence(k * 0.15),
        tone(-38 + k, 3),
        silence(3 - k * 0.15),
      ]);
      expect(Math.abs(maxShortTerm(kWeightedMeanSquares)! - (-38 + k))).toBeLessThanOrEqual(0.1);
    },
  );
});

describe("EBU Tech 3341, momentary loudness (±0.1 LU)", () => {
  it("signal 12: constant at −23 LUFS from 1 s on", () => {
    const curve = momentaryLoudness(meanSquaresOf(repeated(25, [tone(-20, 0.18), tone(-30, 0.22)])));
    for (const value of curve.subarray(6)) expect(Math.abs(value + 23)).toBeLessThanOrEqual(0.1);
  });

  it.each(Array.from({ length: 20 }, (_, k) => k))("signals 13 and 14, part %i", (k) => {
    const steady = meanSquaresOf([silence(k * 0.02), tone(-23, 0.4), silence(1)]);
    expect(Math.abs(maxMomentary(steady)! + 23)).toBeLessThanOrEqual(0.1);
    const rising = meanSquaresOf([silence(k * 0.02), tone(-38 + k, 0.4), silence(0.4 - k * 0.02)]);
    expect(Math.abs(maxMomentary(rising)! - (-38 + k))).toBeLessThanOrEqual(0.1);
  });
});

describe("EBU Tech 3341, true peak (+0.2 / −0.4 dB)", () => {
  const rate = 48000;
  const peakOf = (samples: Float32Array, sampleRate = rate) =>
    20 * Math.log10(Math.max(...truePeaks({ sampleRate, channels: [samples], layout: ["mono"] })));
  const expectPeak = (samples: Float32Array, expected: number) => {
    expect(peakOf(samples)).toBeLessThanOrEqual(expected + 0.2);
    expect(peakOf(samples)).toBeGreaterThanOrEqual(expected - 0.4);
  };

  it.each<[number, number, number, number, number]>([
    [15, 4, 0, 0.5, -6],
    [16, 4, 45, 0.5, -6],
    [17, 6, 60, 0.5, -6],
    [18, 8, 67.5, 0.5, -6],
    [19, 4, 45, 1.41, 3],
  ])("signal %i: sine at fs/%i, phase %f°", (_number, divisor, phase, amplitude, expected) => {
    // Faded in and out, so that the edges do not overshoot.
    const samples = Float32Array.from({ length: rate }, (_, i) => {
      const fade = Math.min(1, i / 2000, (rate - 1 - i) / 2000);
      return fade * amplitude * Math.sin((2 * Math.PI * i) / divisor + (phase * Math.PI) / 180);
    });
    expectPeak(samples, expected);
  });

  it.each([0, 1, 2, 3])(
    "an own burst at full scale whose top falls %i quarters between samples",
    (quarter) => {
      // A band-limited burst, known in closed form between the samples too: 0 dBTP at its top.
      const samples = Float32Array.from({ length: 4800 }, (_, i) => {
        const t = i - 2400 + quarter / 4;
        return Math.exp(-((t / 40) ** 2)) * Math.cos((2 * Math.PI * t) / 6);
      });
      expectPeak(samples, 0);
    },
  );

  it.each([88200, 96000, 176400, 192000])(
    "reads the top of a burst between samples at %i Hz too",
    (sampleRate) => {
      // The same burst in seconds: at a higher rate its top lies nearer to a sample.
      const samples = Float32Array.from({ length: sampleRate / 10 }, (_, i) => {
        const t = (i + 0.5) / sampleRate - 0.05;
        return Math.exp(-((t / 0.001) ** 2)) * Math.cos(2 * Math.PI * 7000 * t);
      });
      const peak = peakOf(samples, sampleRate);
      expect(peak).toBeGreaterThanOrEqual(-0.4);
      expect(peak).toBeLessThanOrEqual(0.2);
    },
  );

  it("counts a peak on the first and on the last sample", () => {
    for (const place of [0, 4799]) {
      const samples = new Float32Array(4800);
      samples[place] = 0.5;
      expect(peakOf(samples)).toBeGreaterThanOrEqual(20 * Math.log10(0.5) - 0.01);
    }
  });

  it("finds the peak of a dense chord of sines that is known at every place between samples", () => {
    const { sin, PI, max, abs } = Math;
    const sines = Array.from({ length: 30 }, (_, k) => ({
      frequency: 0.01 + k * 0.0137,
      phase: k * k * 0.77,
    }));
    const valueAt = (t: number) =>
      sines.reduce((sum, { frequency, phase }) => sum + sin(2 * PI * frequency * t + phase), 0) / 30;
    const samples = Float32Array.from({ length: 3000 }, (_, i) => valueAt(i));
    let largest = 0;
    for (let t = 0; t < 2999; t += 1 / 16) largest = max(largest, abs(valueAt(t)));
    expect(abs(peakOf(samples) - 20 * Math.log10(largest))).toBeLessThan(0.1);
  });
});

describe("channels (ITU-R BS.1770-5, table 3)", () => {
  const loudness = (levels: number[], layout: Parameters<typeof channelTones>[1]) =>
    integratedLoudness(sweepLevels(channelTones(levels, layout, 10, 997)).kWeightedMeanSquares)!;

  it("the same tone on two channels is 3.01 LU louder than on one", () => {
    const one = loudness([-23, -Infinity], ["left", "right"]);
    expect(loudness([-23, -23], ["left", "right"]) - one).toBeCloseTo(3.01, 2);
  });

  it("surrounds count 1.5 dB more than the front, the low-frequency channel not at all", () => {
    const layout = ["left", "right", "centre", "lfe", "leftSurround", "rightSurround"] as const;
    const only = (place: number) =>
      loudness(
        layout.map((_, i) => (i === place ? -20 : -Infinity)),
        [...layout],
      );
    expect(only(2)).toBeCloseTo(only(0), 6);
    expect(only(4) - only(0)).toBeCloseTo(10 * Math.log10(1.41), 2);
    expect(only(5)).toBeCloseTo(only(4), 6);
    expect(only(3)).toBeNull();
  });
});

describe("EBU Tech 3342, loudness range (±1 LU)", () => {
  it.each<[string, Tone[], number]>([
    ["1", [tone(-20, 20), tone(-30, 20)], 10],
    ["2", [tone(-20, 20), tone(-15, 20)], 5],
    ["3", [tone(-40, 20), tone(-20, 20)], 20],
    ["4", [tone(-50, 20), tone(-35, 20), tone(-20, 20), tone(-35, 20), tone(-50, 20)], 15],
  ])("signal %s", (_name, tones, expected) => {
    expect(Math.abs(loudnessRange(meanSquaresOf(tones))! - expected)).toBeLessThanOrEqual(1);
  });
});

describe("what has no meaning is null", () => {
  it("in silence", () => {
    const curves = levelCurves(toneSequence([silence(5)]));
    expect(integratedLoudness(curves.kWeightedMeanSquares)).toBeNull();
    expect(loudnessRange(curves.kWeightedMeanSquares)).toBeNull();
    expect(maxMomentary(curves.kWeightedMeanSquares)).toBeNull();
    expect(maxShortTerm(curves.kWeightedMeanSquares)).toBeNull();
  });

  it("counts clipped runs and the offset", () => {
    const samples = new Float32Array(48000).fill(0.25);
    samples.fill(1, 100, 103);
    samples.fill(-1, 500, 510);
    samples.fill(1, 700, 702);
    const sweep = sweepLevels({ sampleRate: 48000, channels: [samples], layout: ["mono"] });
    expect(sweep.clippedRuns).toBe(2);
    expect(sweep.clippedPlaces).toEqual([
      { start: 100 / 48000, samples: 3 },
      { start: 500 / 48000, samples: 10 },
    ]);
    expect(sweep.dcOffsets[0]).toBeCloseTo(0.25, 3);
    expect(sweep.samplePeak).toBe(1);
  });
});
