/** The practice kit: each voice sounds where and as long as it is said to. */
import { loadFft, realFft } from "../dsp/fft";
import { gainOfVelocity, practiceKit, stroke } from "./kit";
import { drumVoices, type DrumVoice } from "./voices";

const { abs, ceil, imul, log10, max, round } = Math;

const rate = 44100;
const random = () => {
  let state = 3;
  return () => {
    state = (imul(state, 1664525) + 1013904223) >>> 0;
    return state / 4294967296;
  };
};
const sound = (voice: DrumVoice, sampleRate = rate) => stroke(practiceKit[voice], sampleRate, random());
const energy = (samples: Float32Array) => samples.reduce((sum, x) => sum + x * x, 0);

/** Centre of gravity of the power spectrum, Hz. */
function centroid(samples: Float32Array): number {
  const size = 32768;
  const transform = realFft(size);
  transform.input().fill(0);
  transform.input().set(samples.subarray(0, size));
  const spectrum = transform.forward();
  let sum = 0;
  let whole = 0;
  for (let bin = 1; bin < size / 2; bin++) {
    const power = spectrum[2 * bin]! ** 2 + spectrum[2 * bin + 1]! ** 2;
    sum += power * ((bin * rate) / size);
    whole += power;
  }
  return sum / whole;
}

beforeAll(loadFft);

describe("every voice", () => {
  it.each(drumVoices)("%s begins with its attack, stays in range and has died away at its end", (voice) => {
    const samples = sound(voice);
    const peak = samples.reduce((most, x) => max(most, abs(x)), 0);
    expect(peak).toBeGreaterThan(0.1);
    expect(peak).toBeLessThanOrEqual(1.3);
    const early = energy(samples.subarray(0, ceil(samples.length / 2)));
    expect(early / energy(samples)).toBeGreaterThan(0.98);
    expect(energy(samples.subarray(-200)) / 200).toBeLessThan(1e-5);
  });

  it.each(drumVoices)("%s is the same each time, and at another rate as long", (voice) => {
    expect(sound(voice)).toEqual(sound(voice));
    expect(sound(voice, 96000).length / 96000).toBeCloseTo(sound(voice).length / rate, 3);
  });
});

describe("voices beside one another", () => {
  it("lie from dark to bright as drums do", () => {
    const order: DrumVoice[] = ["kick", "tom", "snare", "hat"];
    const centres = order.map((voice) => centroid(sound(voice)));
    expect(centres).toEqual([...centres].sort((a, b) => a - b));
    expect(centres[0]).toBeLessThan(150);
    expect(centres[3]).toBeGreaterThan(5000);
  });

  it("ring as long as they should: an open hat longer than a closed one, a cymbal longest", () => {
    const length = (voice: DrumVoice) => sound(voice).length;
    expect(length("openHat")).toBeGreaterThan(4 * length("hat"));
    expect(drumVoices.every((voice) => voice === "cymbal" || length(voice) < length("cymbal"))).toBe(true);
  });

  it("a clap is several hands", () => {
    const samples = sound("clap");
    const level = (from: number, to: number) =>
      energy(samples.subarray(round(from * rate), round(to * rate))) / (to - from);
    // The second hand after 9 ms, the third after 19 ms.
    expect(level(0.009, 0.012)).toBeGreaterThan(1.5 * level(0.0065, 0.0085));
    expect(level(0.019, 0.022)).toBeGreaterThan(1.5 * level(0.0165, 0.0185));
  });
});

it("velocity falls 40 dB a decade", () => {
  const decibels = (velocity: number) => 20 * log10(gainOfVelocity(velocity));
  expect(decibels(1)).toBe(0);
  expect(decibels(0.1)).toBeCloseTo(-40, 9);
  expect(decibels(0.5)).toBeCloseTo(-12.04, 2);
});
