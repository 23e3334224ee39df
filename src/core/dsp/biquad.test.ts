/**
 * Filters against the analogue prototypes that the cookbook (Robert Bristow-Johnson, "Cookbook
 * formulae for audio equalizer biquad filter coefficients") transforms, from memory.
 */
import { applyBiquad, biquadMagnitude, designBiquad, type BiquadShape } from "./biquad";
import { loadFft, realFft } from "./fft";

const rate = 48000;
const decibels = (ratio: number) => 20 * Math.log10(ratio);
const levelAt = (
  shape: BiquadShape,
  corner: number,
  q: number,
  gain: number,
  frequency: number,
  sampleRate = rate,
) => decibels(biquadMagnitude(designBiquad(shape, sampleRate, corner, q, gain), sampleRate, frequency));

/** Magnitude of the analogue prototype at s = j·x, where the bilinear transform maps a frequency. */
function prototype(shape: BiquadShape, q: number, gain: number, x: number): number {
  const a = 10 ** (gain / 40);
  const size = (real: number, imaginary: number) => Math.hypot(real, imaginary);
  switch (shape) {
    case "lowPass":
      return 1 / size(1 - x * x, x / q);
    case "highPass":
      return (x * x) / size(1 - x * x, x / q);
    case "peak":
      return size(1 - x * x, (x * a) / q) / size(1 - x * x, x / (a * q));
    case "lowShelf":
      return (a * size(a - x * x, (Math.sqrt(a) / q) * x)) / size(1 - a * x * x, (Math.sqrt(a) / q) * x);
    case "highShelf":
      return (a * size(1 - a * x * x, (Math.sqrt(a) / q) * x)) / size(a - x * x, (Math.sqrt(a) / q) * x);
  }
}

const shapes: readonly BiquadShape[] = ["lowPass", "highPass", "peak", "lowShelf", "highShelf"];

describe("the response of a filter", () => {
  it.each(shapes)("%s is that of its analogue prototype, at every frequency", (shape) => {
    for (const corner of [50, 1000, 9000]) {
      for (const q of [0.5, 0.7071, 4]) {
        for (const gain of shape === "lowPass" || shape === "highPass" ? [0] : [-9, 6]) {
          for (const frequency of [20, 49, 200, 1000, 3333, 9000, 20000]) {
            const x = Math.tan((Math.PI * frequency) / rate) / Math.tan((Math.PI * corner) / rate);
            expect(levelAt(shape, corner, q, gain, frequency)).toBeCloseTo(
              decibels(prototype(shape, q, gain, x)),
              6,
            );
          }
        }
      }
    }
  });

  it("is 3 dB down at the corner of a Butterworth, and falls by 12 dB an octave", () => {
    const q = Math.SQRT1_2;
    expect(levelAt("lowPass", 1000, q, 0, 1000)).toBeCloseTo(-3.0103, 4);
    expect(levelAt("highPass", 1000, q, 0, 1000)).toBeCloseTo(-3.0103, 4);
    expect(levelAt("highPass", 1000, q, 0, 60) - levelAt("highPass", 1000, q, 0, 30)).toBeCloseTo(12.04, 1);
  });

  it("has the gain that was asked for at the peak, and on the flat of a shelf", () => {
    expect(levelAt("peak", 2500, 3, 4.5, 2500)).toBeCloseTo(4.5, 6);
    expect(levelAt("peak", 2500, 3, 4.5, 20)).toBeCloseTo(0, 2);
    expect(levelAt("lowShelf", 200, 0.7071, -6, 1)).toBeCloseTo(-6, 3);
    expect(levelAt("lowShelf", 200, 0.7071, -6, 20000)).toBeCloseTo(0, 3);
    expect(levelAt("highShelf", 5000, 0.7071, 8, 23900)).toBeCloseTo(8, 2);
    expect(levelAt("highShelf", 5000, 0.7071, 8, 20)).toBeCloseTo(0, 3);
  });

  it("of a peak and of the same peak the other way round cancel", () => {
    for (const frequency of [100, 900, 1000, 1100, 8000]) {
      const both = levelAt("peak", 1000, 2, 6, frequency) + levelAt("peak", 1000, 2, -6, frequency);
      expect(both).toBeCloseTo(0, 9);
    }
  });
});

describe("filtered samples", () => {
  beforeAll(loadFft);

  it.each(shapes)("%s have the response that is calculated", (shape) => {
    const filter = designBiquad(shape, rate, 2000, 0.9, 5);
    const size = 4096;
    const transform = realFft(size);
    const impulse = transform.input();
    impulse.fill(0);
    impulse[0] = 1;
    applyBiquad(filter, impulse);
    const spectrum = transform.forward();
    for (const bin of [8, 100, 171, 400, 1500]) {
      const measured = Math.hypot(spectrum[2 * bin]!, spectrum[2 * bin + 1]!);
      expect(decibels(measured)).toBeCloseTo(decibels(biquadMagnitude(filter, rate, (bin * rate) / size)), 3);
    }
  });

  it("die away: filters are stable at any corner and quality", () => {
    for (const shape of shapes) {
      for (const corner of [10, 1000, 23000]) {
        for (const q of [0.3, 1, 30]) {
          const samples = new Float32Array(rate);
          samples[0] = 1;
          applyBiquad(designBiquad(shape, rate, corner, q, 12), samples);
          const tail = samples.slice(-1000).reduce((most, x) => Math.max(most, Math.abs(x)), 0);
          expect(tail).toBeLessThan(0.02);
        }
      }
    }
  });

  it("of silence are silent", () => {
    const samples = new Float32Array(64);
    applyBiquad(designBiquad("peak", rate, 1000, 1, 12), samples);
    expect([...samples].every((x) => x === 0)).toBe(true);
  });
});

describe("the transform", () => {
  beforeAll(loadFft);
  const random = (count: number) => Array.from({ length: count }, (_, i) => Math.sin(1 + 7.3 * i * i));

  it.each([32, 96, 160, 480, 2048])("of %i samples is the sum that defines it", (size) => {
    const transform = realFft(size);
    const samples = random(size);
    transform.input().set(samples);
    const spectrum = transform.forward().slice();
    for (const bin of [1, 2, 5, size / 4, size / 2 - 1]) {
      let real = 0;
      let imaginary = 0;
      for (let i = 0; i < size; i++) {
        real += samples[i]! * Math.cos((2 * Math.PI * bin * i) / size);
        imaginary -= samples[i]! * Math.sin((2 * Math.PI * bin * i) / size);
      }
      expect(spectrum[2 * bin]).toBeCloseTo(real, 2);
      expect(spectrum[2 * bin + 1]).toBeCloseTo(imaginary, 2);
    }
    // The second value is the highest bin, which is real.
    expect(spectrum[0]).toBeCloseTo(
      samples.reduce((a, b) => a + b, 0),
      2,
    );
    expect(spectrum[1]).toBeCloseTo(
      samples.reduce((sum, x, i) => sum + (i % 2 ? -x : x), 0),
      2,
    );
  });

  it("gives the samples back, times its size", () => {
    const transform = realFft(480);
    const samples = random(480);
    transform.input().set(samples);
    transform.forward();
    const back = transform.backward();
    samples.forEach((x, i) => expect(back[i]! / 480).toBeCloseTo(x, 5));
  });

  it.each([0, 16, 100, 32 * 7])("refuses a size of %i", (size) => {
    expect(() => realFft(size)).toThrow(/size|factor/i);
  });
});
