/** The mean of strokes, against strokes that are known, with and without what sounds beside them. */
import { loadFft } from "../dsp/fft";
import { whiteNoise } from "../testing/signals";
import { averageStrokes, cutOut, meanStroke, type Entry } from "./average";

beforeAll(loadFft);

const { abs, cos, exp, hypot, log10, PI, sin } = Math;
const rate = 44100;
const before = 2646;
const length = 8820;
const energy = (samples: Float32Array) => samples.reduce((sum, x) => sum + x * x, 0);
/** Energy of what is left of a truth without an estimate, dB. */
const errorDb = (truth: Float32Array, estimate: Float32Array) =>
  10 * log10(energy(truth.map((x, i) => x - estimate[i]!)) / energy(truth));

/** A stroke that is band-limited, so that it can be moved by parts of a sample. */
const strokeAt = (sample: number) => {
  const t = sample / rate;
  return t < 0
    ? 0
    : (1 - exp(-t / 0.004)) * exp(-t / 0.05) * (sin(2 * PI * 180 * t) + 0.4 * sin(2 * PI * 1700 * t));
};
const stroke = Float32Array.from({ length }, (_, i) => strokeAt(i));

/** A channel with strokes at places that need not lie on samples. */
function struck(
  places: readonly { at: number; shift: number; gain: number }[],
  samples = 20 * rate,
): Float32Array {
  const channel = new Float32Array(samples);
  for (const { at, shift, gain } of places)
    for (let i = 0; i < length + 40; i++) channel[at + i]! += gain * strokeAt(i - shift);
  return channel;
}
const entries: Entry[] = Array.from({ length: 30 }, (_, i) => ({
  at: 4000 + 20000 * i + 37 * (i % 5),
  shift: ((i * 7) % 10) / 10 - 0.5,
  gain: 0.5 + 0.05 * (i % 9),
  room: 19000,
})) as Entry[];

describe("a part that is cut out", () => {
  it("is what is there, with nothing before the beginning and after the end", () => {
    const channel = Float32Array.from({ length: 100 }, (_, i) => i + 1);
    expect([...cutOut(channel, 10, 0, 4)]).toEqual([11, 12, 13, 14]);
    expect([...cutOut(channel, -2, 0, 4)]).toEqual([0, 0, 1, 2]);
    expect([...cutOut(channel, 98, 0, 4)]).toEqual([99, 100, 0, 0]);
    expect([...cutOut(channel, 500, 0, 3)]).toEqual([0, 0, 0]);
  });

  it.each([-0.5, -0.2, 0.1, 0.35, 0.5])("can be read %d of a sample later", (shift) => {
    const at = (i: number) => sin((2 * PI * 1000 * i) / rate + 0.3);
    const channel = Float32Array.from({ length: 4000 }, (_, i) => at(i));
    const own = cutOut(channel, 1000, shift, 500);
    own.forEach((x, i) => expect(abs(x - at(1000 + i + shift))).toBeLessThan(5e-3));
  });
});

describe("the average of strokes", () => {
  const channel = struck(entries);

  it("is the stroke, its gain and its place taken out", () => {
    const { samples, clean, known } = averageStrokes([channel, channel], rate, entries, length, before, 40);
    expect(known).toBe(length);
    expect(clean).toBeGreaterThan(0.98);
    expect(errorDb(stroke.subarray(0, 6000), samples[0].subarray(0, 6000))).toBeLessThan(-25);
    expect(samples[1]).toEqual(samples[0]);
  });

  it("keeps each side of what stands to one side", () => {
    const left = channel.map((x) => 0.3 * x);
    const { samples } = averageStrokes([left, channel], rate, entries, length, before, 40);
    expect(energy(samples[0]) / energy(samples[1])).toBeCloseTo(0.09, 3);
  });

  it("loses what is other beside each stroke", () => {
    const noise = whiteNoise(-10, 20, rate, 8);
    const noisy = channel.map((x, i) => x + noise[i]!);
    const one = cutOut(noisy, entries[0]!.at, entries[0]!.shift, length).map((x) => x / entries[0]!.gain);
    const { samples, clean } = averageStrokes([noisy, noisy], rate, entries, length, before, 40);
    const [alone, all] = [errorDb(stroke, one), errorDb(stroke, samples[0])];
    // Thirty of them: 15 dB by averaging alone, at most.
    expect(all).toBeLessThan(alone - 12);
    expect(clean).toBeLessThan(0.98);
    expect(clean).toBeGreaterThan(0.5);
  });

  it("does not hear what sounds beside a few of them only", () => {
    const tone = (i: number) => 0.5 * sin((2 * PI * 440 * i) / rate);
    const some = Float32Array.from(channel);
    for (const { at } of entries.slice(0, 6)) for (let i = -before; i < length; i++) some[at + i]! += tone(i);
    const { samples } = averageStrokes([some, some], rate, entries, length, before, 40);
    expect(errorDb(stroke.subarray(0, 6000), samples[0].subarray(0, 6000))).toBeLessThan(-18);
    const plain = meanStroke([some, some], entries, length)[0];
    expect(errorDb(stroke.subarray(0, 6000), samples[0].subarray(0, 6000))).toBeLessThan(
      errorDb(stroke.subarray(0, 6000), plain.subarray(0, 6000)) - 6,
    );
  });

  it("weakens what sounds on before and after, though it is alike at all of them", () => {
    // The hum meets all strokes in the same phase: they lie a whole number of periods apart.
    const even = entries.map((own, i) => ({ ...own, at: 4410 + 20286 * i, shift: 0 }));
    const humming = struck(even).map((x, i) => x + 0.4 * sin((2 * PI * 3000 * i) / rate));
    const both = [humming, humming] as const;
    const level = (samples: Float32Array) => {
      let re = 0;
      let im = 0;
      for (let i = 4000; i < 8000; i++) {
        re += samples[i]! * cos((2 * PI * 3000 * i) / rate);
        im += samples[i]! * sin((2 * PI * 3000 * i) / rate);
      }
      return hypot(re, im);
    };
    const plain = level(meanStroke(both, even, length)[0]);
    expect(level(averageStrokes(both, rate, even, length, before, 40).samples[0])).toBeLessThan(0.8 * plain);
  });

  it("knows no more than where three strokes, or a fifth of them, are not overlaid", () => {
    const short = entries.map((own, i) => ({ ...own, room: i < 6 ? 6000 : 2000 }));
    const { known, samples } = averageStrokes([channel, channel], rate, short, length, before, 40);
    expect(known).toBe(6000);
    expect(samples[0].subarray(known).every((x) => x === 0)).toBe(true);
    const shorter = entries.map((own, i) => ({ ...own, room: i < 5 ? 6000 : 2000 }));
    expect(averageStrokes([channel, channel], rate, shorter, length, before, 40).known).toBe(2000);
  });

  it("has nothing far below what the drum has anything at", () => {
    const rumbling = channel.map((x, i) => x + 0.5 * sin((2 * PI * 20 * i) / rate));
    const { samples } = averageStrokes([rumbling, rumbling], rate, entries, length, before, 400);
    const low = samples[0].reduce((sum, x, i) => sum + x * sin((2 * PI * 180 * i) / rate), 0);
    const truth = stroke.reduce((sum, x, i) => sum + x * sin((2 * PI * 180 * i) / rate), 0);
    expect(abs(low)).toBeLessThan(0.2 * abs(truth));
  });
});

it("the plain mean is the sum of all, each by its own gain", () => {
  const gains = [1, 2, 4];
  const places = gains.map((gain, i) => ({ at: 1000 + 12000 * i, shift: 0, gain, room: 10000 })) as Entry[];
  const channel = struck(places, 40000);
  const mean = meanStroke([channel, channel.map((x) => -x)], places, 500);
  mean[0].forEach((x, i) => expect(x).toBeCloseTo(strokeAt(i), 5));
  mean[1].forEach((x, i) => expect(x).toBeCloseTo(-strokeAt(i), 5));
});
