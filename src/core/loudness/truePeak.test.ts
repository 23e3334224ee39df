/** True peaks against band-limited signals whose peak between the samples is known. */
import { seeded, whiteNoise } from "../testing/signals";
import { truePeaks } from "./truePeak";

const { abs, cos, log10, max, PI, sin } = Math;
const peaks = (samples: Float32Array, rate = 48000) =>
  truePeaks({ sampleRate: rate, channels: [samples], layout: ["mono"] });
const peakOf = (samples: Float32Array, rate?: number) => max(...peaks(samples, rate));
const decibels = (x: number) => 20 * log10(x);

/** A signal of a few sines, at any time. */
const sines =
  (parts: readonly { hz: number; amplitude: number; phase: number }[], rate: number) =>
  (sample: number): number =>
    parts.reduce(
      (sum, { hz, amplitude, phase }) => sum + amplitude * cos((2 * PI * hz * sample) / rate + phase),
      0,
    );
const sampled = (at: (sample: number) => number, length: number) =>
  Float32Array.from({ length }, (_, i) => at(i));
/** Its largest value at the four places of each sample that four-fold oversampling sees. */
function atQuarters(at: (sample: number) => number, length: number): number {
  let largest = 0;
  for (let i = 12; i < length - 12; i++)
    for (let quarter = 0; quarter < 4; quarter++) largest = max(largest, abs(at(i + quarter / 4)));
  return largest;
}

describe("the true peak", () => {
  it.each([44100, 48000, 96000])(
    "of a sine a quarter of the rate, between its samples, is its amplitude (%d Hz)",
    (rate) => {
      // Sampled at ±45°, all samples lie 3 dB below the peak.
      const own = sampled(sines([{ hz: rate / 4, amplitude: 0.8, phase: PI / 4 }], rate), rate / 2);
      expect(max(...own.map(abs))).toBeCloseTo(0.8 * Math.SQRT1_2, 5);
      expect(decibels(peakOf(own, rate))).toBeCloseTo(decibels(0.8), 1);
    },
  );

  it("is what four-fold oversampling of the ideal signal finds, for any mixture of sines", () => {
    const random = seeded(5);
    for (let trial = 0; trial < 12; trial++) {
      const parts = Array.from({ length: 5 }, () => ({
        hz: 100 + 17000 * random(),
        amplitude: 0.05 + 0.15 * random(),
        phase: 2 * PI * random(),
      }));
      const at = sines(parts, 48000);
      const length = 9600;
      expect(abs(decibels(peakOf(sampled(at, length))) - decibels(atQuarters(at, length)))).toBeLessThan(0.1);
    }
  });

  it("is never below the largest sample, and at most a little above it where the signal is slow", () => {
    const slow = sampled(sines([{ hz: 40, amplitude: 0.5, phase: 1 }], 48000), 24000);
    expect(peakOf(slow)).toBeGreaterThanOrEqual(max(...slow.map(abs)));
    expect(decibels(peakOf(slow) / max(...slow.map(abs)))).toBeLessThan(0.01);
    const noise = whiteNoise(-12, 0.7, 48000, 4);
    expect(peakOf(noise)).toBeGreaterThanOrEqual(max(...noise.map(abs)));
  });

  it("scales with the signal and does not mind its sign", () => {
    const noise = whiteNoise(-12, 1.05, 48000, 6);
    const plain = peaks(noise);
    peaks(noise.map((x) => 0.25 * x)).forEach((peak, i) => expect(peak).toBeCloseTo(0.25 * plain[i]!, 6));
    peaks(noise.map((x) => -x)).forEach((peak, i) => expect(peak).toBeCloseTo(plain[i]!, 6));
  });

  it("is the same however much quiet surrounds it: what is left out changes nothing", () => {
    // The same burst, once alone and once under steady noise that is far too soft to matter.
    const burst = sampled(
      (i) => (i > 2000 && i < 2400 ? 0.7 * sin((2 * PI * 11025 * i) / 44100 + 0.6) : 0),
      6000,
    );
    const hiss = whiteNoise(-80, 6000 / 44100, 44100, 2);
    const under = burst.map((x, i) => x + (i > 1900 && i < 2500 ? 0 : hiss[i]!));
    expect(peakOf(under, 44100)).toBeCloseTo(peakOf(burst, 44100), 6);
  });

  it("is told of each tenth of a second, the last one shorter, and of the louder channel", () => {
    const rate = 44100;
    // Each rises and falls slowly: an edge would have a peak of its own.
    const swell = (i: number, from: number, to: number) =>
      Math.min(1, max(0, (i - from) / 800), max(0, (to - i) / 800)) ** 2;
    const sine = (i: number) => sin((2 * PI * 997 * i) / rate);
    const left = sampled((i) => 0.2 * swell(i, 0, 4200) * sine(i), 12000);
    const right = sampled((i) => 0.6 * swell(i, 4500, 1e9) * sine(i), 12000);
    const both = truePeaks({ sampleRate: rate, channels: [left, right], layout: ["left", "right"] });
    expect(both).toHaveLength(3);
    expect(both[0]).toBeCloseTo(0.2, 2);
    expect(both[1]).toBeCloseTo(0.6, 2);
    expect(both[2]).toBeCloseTo(0.6, 2);
  });

  it("is nothing in silence and in files shorter than what interpolation needs", () => {
    expect([...peaks(new Float32Array(9600))]).toEqual([0, 0]);
    expect([...peaks(Float32Array.from([0.1, -0.4, 0.2]))]).toEqual([Math.fround(0.4)]);
    expect(peaks(new Float32Array(0))).toHaveLength(0);
  });
});
