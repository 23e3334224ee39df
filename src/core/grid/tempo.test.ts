import { loadFft } from "../dsp/fft";
import { clicks, whiteNoise } from "../testing/signals";
import { autocorrelation } from "./autocorrelation";
import { onsetStrength } from "./onset";
import { estimateTempo } from "./tempo";

beforeAll(loadFft);

const { PI, abs, exp, floor, max, round, sin } = Math;
const tempoOf = (samples: Float32Array, rate = 44100) =>
  estimateTempo(onsetStrength([samples, samples], rate));

/** A plain beat: low thud on every beat, noise on every second, hats on the eighths. */
function beat(bpm: number, seconds: number, rate = 44100, lead = 0.3): Float32Array {
  const period = 60 / bpm;
  const samples = clicks(
    Array.from({ length: floor((2 * seconds) / period) }, (_, i) => lead + (i * period) / 2),
    seconds,
    rate,
  ).map((x) => x * 0.2);
  const backbeat = clicks(
    Array.from({ length: floor(seconds / period / 2) }, (_, i) => lead + (2 * i + 1) * period),
    seconds,
    rate,
  );
  backbeat.forEach((x, i) => {
    samples[i]! += x;
  });
  for (let time = lead; time < seconds - 0.2; time += period) {
    const start = round(time * rate);
    for (let i = 0; i < 0.15 * rate; i++) {
      samples[start + i]! += 0.8 * exp(-i / (0.05 * rate)) * sin((2 * PI * 55 * i) / rate);
    }
  }
  return samples;
}

describe("tempo", () => {
  it.each([84.5, 100, 118, 127.33, 140])("of a plain beat at %f BPM, to 0.05 BPM", (bpm) => {
    const found = tempoOf(beat(bpm, 40))!;
    expect(abs(found.bpm - bpm)).toBeLessThanOrEqual(0.05);
    expect(found.confidence).toBeGreaterThan(0.3);
    expect(found.confidence).toBeLessThanOrEqual(1);
  });

  it.each([8000, 48000, 96000])("does not depend on the sample rate (%i Hz)", (rate) => {
    expect(abs(tempoOf(beat(110, 30, rate), rate)!.bpm - 110)).toBeLessThanOrEqual(0.05);
  });

  it("offers half and double as alternatives, less likely, all different", () => {
    const found = tempoOf(beat(120, 40))!;
    const all = [found, ...found.alternatives];
    for (const [i, one] of all.entries()) {
      for (const other of all.slice(i + 1)) {
        expect(abs(one.bpm / other.bpm - 1)).toBeGreaterThan(0.02);
        expect(other.confidence).toBeLessThanOrEqual(one.confidence);
      }
    }
    expect(all.reduce((sum, a) => sum + a.confidence, 0)).toBeLessThanOrEqual(1.01);
  });

  it("does not hear gain", () => {
    const loud = beat(105, 30);
    expect(tempoOf(loud.map((x) => x * 0.05))).toEqual(tempoOf(loud));
  });

  it("leans towards the reading in which snares fall on every second beat", () => {
    // The same click every 0.35 s: 171 BPM, or the eighths of 86.
    const period = 0.35;
    const times = Array.from({ length: 110 }, (_, i) => 0.5 + i * period);
    const samples = clicks(times, 40);
    const onsets = onsetStrength([samples, samples], 44100);
    const { framesPerSecond, ranges } = onsets;
    const struck = (every: number, first: number) => {
      const curve = new Float32Array(ranges[0]!.length);
      times.forEach((time, i) => {
        if (i % every === first) curve[round(time * framesPerSecond)] = 0.95;
      });
      return curve;
    };
    const share = (strokes: Float32Array[], bpm: number) => {
      const found = estimateTempo(onsets, strokes)!;
      const near = [found, ...found.alternatives].find((own) => abs(own.bpm / bpm - 1) < 0.02);
      return near?.confidence ?? 0;
    };
    const none = new Float32Array(ranges[0]!.length);
    const fast = [struck(2, 0), struck(2, 1), struck(1, 0), none];
    const slow = [struck(4, 0), struck(4, 2), struck(1, 0), none];
    const [double, single] = [60 / period, 30 / period];
    const odds = (strokes: Float32Array[]) => share(strokes, double) / max(1e-3, share(strokes, single));
    expect(odds(fast)).toBeGreaterThan(1.4 * odds(slow));
  });

  it("is null in silence", () => {
    expect(tempoOf(new Float32Array(44100 * 5))).toBeNull();
  });

  it("stays a number, with little confidence, in noise", () => {
    const found = tempoOf(whiteNoise(-20, 20));
    expect(Number.isFinite(found!.bpm)).toBe(true);
    expect(found!.confidence).toBeLessThan(0.9);
  });
});

describe("autocorrelation", () => {
  it("returns at the period and not between", () => {
    const pulses = new Float32Array(1000);
    for (let i = 5; i < 1000; i += 20) pulses[i] = 1;
    const found = autocorrelation(pulses, 100, 50);
    expect(found[0]).toBeCloseTo(1, 5);
    expect(found[20]).toBeGreaterThan(0.9);
    expect(found[40]).toBeGreaterThan(0.9);
    expect(abs(found[10]!)).toBeLessThan(0.1);
  });

  it("equals the sum of products", () => {
    const curve = Float32Array.from({ length: 300 }, (_, i) => ((i * 7919) % 101) / 101);
    const found = autocorrelation(curve, 50, 300);
    const span = Array.from({ length: 300 }, (_, i) => {
      const inside = curve.slice(max(0, i - 150), i + 151);
      return max(0, curve[i]! - inside.reduce((a, b) => a + b, 0) / inside.length);
    });
    const plain = (lag: number) =>
      span.slice(0, 300 - lag).reduce((sum, x, i) => sum + x * span[i + lag]!, 0) / (300 - lag);
    for (const lag of [1, 7, 50]) expect(found[lag]).toBeCloseTo(plain(lag) / plain(0), 4);
  });
});
