/** The vector loops against their plain formulas, and their code against its text. */
import { assembled } from "../../../../scripts/assemble.mjs";
import { bytesOfBase64 } from "../../base64";
import { whiteNoise } from "../../testing/signals";
import { convolutionLayer, convolver } from "./convolution";
import { filtered } from "./filter";
import { mediansOverRows } from "./median";
import { addScaled } from "./sums";
import { vectorCode } from "./vectorCode";

test("the code that is run is what the text says", async () => {
  expect(Buffer.from(bytesOfBase64(vectorCode)).equals(Buffer.from(await assembled(), "base64"))).toBe(true);
});

describe("a filter", () => {
  const samples = whiteNoise(-10, 0.5, 44100, 5);
  const plainly = (taps: Float64Array, n: number) =>
    taps.reduce((sum, tap, k) => sum + tap * (samples[n + k - (taps.length >> 1)] ?? 0), 0);

  test.each([
    [1, 1],
    [7, 3],
    [49, 9],
    [1001, 160],
  ])("of %i taps that keeps every %i. sample gives the sums, its ends too", (count, factor) => {
    const taps = Float64Array.from({ length: count }, (_, k) => Math.cos(k / 3) / count);
    const result = filtered(samples, taps, factor);
    expect(result).toHaveLength(Math.ceil(samples.length / factor));
    const far = result.reduce((most, x, n) => Math.max(most, Math.abs(x - plainly(taps, n * factor))), 0);
    expect(far).toBeLessThan(1e-6);
  });

  test("goes on without a seam where the input is longer than what is held at once", () => {
    const long = Float32Array.from({ length: 300_001 }, (_, i) => (i % 1000) / 1000);
    const result = filtered(long, [0.25, 0.5, 0.25]);
    const far = result.reduce(
      (most, x, n) =>
        Math.max(most, Math.abs(x - ((long[n - 1] ?? 0) / 4 + long[n]! / 2 + (long[n + 1] ?? 0) / 4))),
      0,
    );
    expect(far).toBeLessThan(1e-6);
  });
});

describe("a signal that is added to another", () => {
  const noise = whiteNoise(-10, 1, 44100, 3);

  test.each([
    [30_001, 0],
    [30_001, 7],
    [501, -13],
    [501, 19_990],
    [5, 20_003],
    [5, -5],
  ])("of %i samples from sample %i on leaves all others as they were", (length, at) => {
    const to = noise.slice(20_000, 40_003);
    const before = to.slice();
    const added = noise.subarray(0, length);
    addScaled(to, added, -0.75, at);
    to.forEach((x, i) => {
      const own = added[i - at];
      if (own === undefined) expect(x).toBe(before[i]);
      else expect(x).toBeCloseTo(before[i]! - 0.75 * own, 6);
    });
  });
});

describe("medians over rows", () => {
  const noise = whiteNoise(-3, 60, 8000, 11);

  test.each([
    [40, 7, 2],
    [3, 5, 2],
    [1, 1, 1],
    // More than what is held at once.
    [3000, 151, 2],
  ])(
    "of %i rows of %i are the middle ones of nine, the ends standing in for what is beyond",
    (rows, columns, apart) => {
      const values = noise.slice(0, rows * columns);
      const result = new Float32Array(values.length);
      mediansOverRows(values, columns, apart, result);
      const plainly = (row: number, column: number) =>
        Array.from({ length: 9 }, (_, k) => {
          const own = Math.min(rows - 1, Math.max(0, row + (k - 4) * apart));
          return values[own * columns + column]!;
        }).sort((a, b) => a - b)[4];
      const places = rows > 100 ? [0, 1, 9, 1711, 1712, 1713, 1735, 2999] : [...Array(rows).keys()];
      for (const row of places)
        for (let column = 0; column < columns; column++)
          expect(result[row * columns + column]).toBe(plainly(row, column));
    },
  );

  test("that are too long are refused", () => {
    expect(() => mediansOverRows(noise, 1 << 18, 2, noise)).toThrow("too long");
  });
});

describe("a layer", () => {
  const noise = whiteNoise(-3, 1, 8000, 9);
  const frames = 23;
  const channels = 5;
  const units = 11;
  const taps = 3;
  const weights = noise.subarray(0, units * channels * taps);
  const biases = noise.subarray(1000, 1000 + units);
  const input = noise.subarray(2000, 2000 + frames * channels);
  const sum = (frame: number, unit: number, dilation: number) => {
    let value = biases[unit]!;
    for (let tap = 0; tap < taps; tap++) {
      const from = frame + (tap - 1) * dilation;
      if (from < 0 || from >= frames) continue;
      for (let c = 0; c < channels; c++)
        value += weights[(unit * channels + c) * taps + tap]! * input[from * channels + c]!;
    }
    return value;
  };

  test.each([
    ["linear", 1, (x: number) => x],
    ["rectified", 7, (x: number) => Math.max(0, x)],
  ] as const)("%s, with taps %i apart, gives the sums", (how, dilation, shaped) => {
    const layers = convolver(frames, channels, units, 7);
    layers.values().set(input);
    layers.run(convolutionLayer(weights, biases, channels), dilation, how);
    const values = layers.values();
    for (let frame = 0; frame < frames; frame++) {
      for (let unit = 0; unit < units; unit++)
        expect(values[frame * layers.rowLength() + unit]).toBeCloseTo(shaped(sum(frame, unit, dilation)), 5);
    }
  });

  test("that looks further or takes more than there is, is refused", () => {
    const layer = convolutionLayer(weights, biases, channels);
    expect(() => convolver(frames, channels, units, 7).run(layer, 8, "linear")).toThrow("too far");
    expect(() => convolver(frames, channels - 1, units, 7).run(layer, 1, "linear")).toThrow("more channels");
  });
});
