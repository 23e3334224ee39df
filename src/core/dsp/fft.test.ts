/** Frames of a signal and bands of their spectra, against their plain formulas. */
import { whiteNoise } from "../testing/signals";
import { bandReader, hannWindow, loadFft, loadFrame, realFft, type RealFft } from "./fft";

let transform: RealFft;
beforeAll(async () => {
  await loadFft();
  transform = realFft(size);
});

const size = 64;
const left = whiteNoise(-10, 0.01, 20_000, 3);
const right = whiteNoise(-10, 0.008, 20_000, 4);
const window = hannWindow(size);

/** What a frame holds, sample by sample. */
const framed = (channels: readonly Float32Array[], start: number, shape: Float32Array): number[] =>
  Array.from(
    { length: size },
    (_, i) => (shape[i] ?? 0) * channels.reduce((sum, samples) => sum + (samples[start + i] ?? 0), 0),
  );

describe("a frame", () => {
  it.each([
    ["inside", 20],
    ["that begins before the file", -17],
    ["that ends behind it, one side of which is shorter", 150],
    ["that lies before it altogether", -70],
    ["that lies behind it altogether", 300],
  ])("%s is the sum of both sides under its window", (_, start) => {
    loadFrame(transform, [left, right], start, window);
    const expected = framed([left, right], start, window);
    transform.input().forEach((x, i) => expect(x).toBeCloseTo(expected[i]!, 6));
  });

  it("of one side under a shorter window leaves the rest of the transform silent", () => {
    transform.input().fill(1);
    const short = hannWindow(51);
    loadFrame(transform, [left], -3, short);
    const expected = framed([left], -3, short);
    transform.input().forEach((x, i) => expect(x).toBeCloseTo(expected[i]!, 6));
  });

  it("is not disturbed by a longer one read in between", () => {
    loadFrame(realFft(4096), [left], 0, hannWindow(4096));
    loadFrame(transform, [right], 5, window);
    const expected = framed([right], 5, window);
    transform.input().forEach((x, i) => expect(x).toBeCloseTo(expected[i]!, 6));
  });
});

describe("bands of a spectrum", () => {
  it("are the roots of their powers, written where they are asked for; one without bins is silent", () => {
    loadFrame(transform, [left], 10, window);
    const spectrum = transform.forward().slice();
    const edges = Int32Array.of(1, 2, 2, 7, 31);
    const bands = new Float32Array(6).fill(-1);
    bandReader(size, edges)(spectrum, bands, 1);
    expect([bands[0], bands[5]]).toEqual([-1, -1]);
    for (let band = 0; band < 4; band++) {
      let power = 0;
      for (let bin = edges[band]!; bin < edges[band + 1]!; bin++)
        power += spectrum[2 * bin]! ** 2 + spectrum[2 * bin + 1]! ** 2;
      expect(bands[1 + band]).toBeCloseTo(Math.sqrt(power), 5);
    }
    expect(bands[2]).toBe(0);
  });
});
