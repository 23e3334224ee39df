import { clicks, whiteNoise } from "../testing/signals";
import { loadFft } from "./fft";
import { separateHarmonicPercussive, separationContext } from "./harmonicPercussive";

beforeAll(loadFft);

const rate = 44100;
const { PI, sin } = Math;
const tone = Float32Array.from({ length: 3 * rate }, (_, i) => 0.2 * sin((2 * PI * 330 * i) / rate));
const hits = clicks([0.8, 1.2, 1.6, 2, 2.4], 3, rate);
const power = (samples: Float32Array) => {
  let sum = 0;
  for (let i = separationContext; i < samples.length - separationContext; i++) sum += samples[i]! ** 2;
  return sum;
};
const less = (a: Float32Array, b: Float32Array) => a.map((x, i) => x - b[i]!);

describe("what is struck and what sounds on", () => {
  const mixed = tone.map((x, i) => x + hits[i]!);

  it("are told apart", () => {
    const sustained = separateHarmonicPercussive(mixed, "sustained");
    const percussive = separateHarmonicPercussive(mixed, "percussive");
    // Nine tenths of the power of each go where they belong.
    expect(power(less(sustained, tone)) / power(tone)).toBeLessThan(0.1);
    expect(power(less(percussive, hits)) / power(hits)).toBeLessThan(0.25);
  });

  it("add up to the whole", () => {
    const [a, b] = [
      separateHarmonicPercussive(mixed, "sustained"),
      separateHarmonicPercussive(mixed, "percussive"),
    ];
    const rest = less(less(mixed, a), b);
    expect(power(rest) / power(mixed)).toBeLessThan(1e-6);
  });

  it("are cut alike wherever a piece begins, so that pieces join", () => {
    const noise = whiteNoise(-20, 3, rate, 9);
    const whole = separateHarmonicPercussive(noise, "percussive");
    const start = 20 * 1024;
    const part = separateHarmonicPercussive(noise.slice(start), "percussive");
    for (let i = separationContext; i < 40000; i += 997) expect(part[i]).toBeCloseTo(whole[start + i]!, 5);
  });
});
