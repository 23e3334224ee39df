/** What resampling adds and lets through, against tones that are known between their samples. */
import { framesPerChunk } from "@/core/formats/chunks";
import { Chunks } from "./deck";
import { kernelFor } from "./resampler";

const { cos, log10, PI, sin, sqrt } = Math;

/** A tone as chunks of a file, over an edge between two of them. */
function toneChunks(hertz: number, rate: number): Chunks {
  const chunks = new Chunks(2 * framesPerChunk);
  for (const chunk of [0, 1]) {
    const samples = Float32Array.from({ length: framesPerChunk }, (_, i) =>
      sin((2 * PI * hertz * (i + chunk * framesPerChunk)) / rate),
    );
    chunks.add(chunk, [samples, samples]);
  }
  return chunks;
}

/** Level of what comes out less the best-fitting tone of the same frequency, and of that tone, dB. */
function played(hertz: number, fileRate: number, outputRate: number, speed = 1) {
  const step = (fileRate / outputRate) * speed;
  const count = 6000;
  const left = new Float32Array(count);
  const begin = framesPerChunk - 2000.37;
  toneChunks(hertz, fileRate).mixInto([left, new Float32Array(count)], 0, count, begin, step, 1, 0);
  const phase = (i: number) => (2 * PI * hertz * (begin + i * step)) / fileRate;
  // Least squares for both phases of the tone: over a part of a period they are not quite independent.
  const sums = { ss: 0, sc: 0, cc: 0, xs: 0, xc: 0 };
  for (let i = 0; i < count; i++) {
    const [s, c] = [sin(phase(i)), cos(phase(i))];
    sums.ss += s * s;
    sums.sc += s * c;
    sums.cc += c * c;
    sums.xs += left[i]! * s;
    sums.xc += left[i]! * c;
  }
  const determinant = sums.ss * sums.cc - sums.sc ** 2;
  const inPhase = (sums.xs * sums.cc - sums.xc * sums.sc) / determinant;
  const quadrature = (sums.xc * sums.ss - sums.xs * sums.sc) / determinant;
  let rest = 0;
  let whole = 0;
  for (let i = 0; i < count; i++) {
    rest += (left[i]! - inPhase * sin(phase(i)) - quadrature * cos(phase(i))) ** 2;
    whole += left[i]! ** 2;
  }
  return {
    error: 10 * log10((2 * rest) / count + 1e-30),
    tone: 20 * log10(sqrt(inPhase ** 2 + quadrature ** 2)),
    whole: 10 * log10((2 * whole) / count + 1e-30),
  };
}

describe("resampling", () => {
  it.each([
    [1000, 44100, 48000],
    [10000, 44100, 48000],
    [15000, 44100, 48000],
    [15000, 48000, 44100],
    [15000, 96000, 44100],
    [3000, 22050, 48000],
  ])("keeps a tone of %i Hz from %i to %i Hz, and adds less than −90 dB", (hertz, from, to) => {
    const { error, tone } = played(hertz, from, to);
    expect(Math.abs(tone)).toBeLessThan(0.02);
    expect(error).toBeLessThan(-90);
  });

  it.each([
    [30000, 96000, 44100],
    [40000, 96000, 48000],
    [24500, 96000, 44100],
  ])("lets nothing of %i Hz fold back from %i to %i Hz", (hertz, from, to) => {
    expect(played(hertz, from, to).whole).toBeLessThan(-80);
  });

  it("narrows the filter when play is fast, and not when it is slow", () => {
    expect(played(15000, 44100, 44100, 2).whole).toBeLessThan(-80);
    expect(Math.abs(played(15000, 44100, 44100, 0.5).tone)).toBeLessThan(0.02);
    expect(kernelFor(2).reach).toBeGreaterThan(1.9 * kernelFor(1).reach);
    expect(kernelFor(0.5)).toBe(kernelFor(1));
  });

  it("leaves samples as they are where nothing lies between them", () => {
    const chunks = toneChunks(997, 44100);
    const left = new Float32Array(64);
    chunks.mixInto([left, new Float32Array(64)], 0, 64, framesPerChunk - 32, 1, 0.5, 0);
    for (let i = 0; i < 64; i++)
      expect(left[i]).toBeCloseTo(0.5 * sin((2 * PI * 997 * (framesPerChunk - 32 + i)) / 44100), 6);
  });
});
