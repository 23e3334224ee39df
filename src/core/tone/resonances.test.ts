import { applyBiquad, designBiquad } from "../dsp/biquad";
import { loadFft } from "../dsp/fft";
import { resonanceGaps } from ".";
import { fractionalOctaveSpectrogram, frameSizeFor } from "./fractionalOctaveSpectrogram";
import { fineBandCount, resonanceGatherer } from "./resonances";

// Looked up once: a global costs many times more where tests run.
const { abs, floor, imul, log2, PI, sin } = Math;
const rate = 44100;
beforeAll(loadFft);

/** Pink noise by P. Kellet's filter (from memory). */
function pinkNoise(seconds: number): Float32Array {
  let state = 7;
  const b = [0, 0, 0];
  return Float32Array.from({ length: seconds * rate }, () => {
    state = (imul(state, 1664525) + 1013904223) >>> 0;
    const white = state / 2 ** 31 - 1;
    b[0] = 0.99765 * b[0]! + white * 0.099046;
    b[1] = 0.963 * b[1]! + white * 0.2965164;
    b[2] = 0.57 * b[2]! + white * 1.0526913;
    return 0.05 * (b[0] + b[1] + b[2] + white * 0.1848);
  });
}

/** Notes of a scale that change every half second, each with overtones. */
function melody(seconds: number): Float32Array {
  const notes = [220, 261.6, 329.6, 293.7, 392, 349.2, 246.9];
  return Float32Array.from({ length: seconds * rate }, (_, i) => {
    const time = i / rate;
    const base = notes[floor(time * 2) % notes.length]!;
    let sum = 0;
    for (let k = 1; k <= 14; k++) sum += sin(2 * PI * base * k * time) / k;
    return 0.1 * sum;
  });
}

function estimate(samples: Float32Array) {
  const size = frameSizeFor(rate);
  const gatherer = resonanceGatherer(rate / size, size / 2);
  fractionalOctaveSpectrogram([samples, samples], rate, undefined, gatherer.add);
  return gatherer.finish();
}
const ringing = (samples: Float32Array, hz: number, q: number) => {
  const copy = Float32Array.from(samples);
  applyBiquad(designBiquad("peak", rate, hz, q, 6), copy);
  return copy;
};
const semitonesFrom = (hz: number) => (own: { hz: number }) => abs(12 * log2(own.hz / hz));

describe("resonances", () => {
  const pink = pinkNoise(13);

  it("are none in pink noise and none in silence", () => {
    expect(estimate(pink).resonances).toEqual([]);
    const silent = estimate(new Float32Array(10 * rate));
    expect(silent.resonances).toEqual([]);
    expect(silent.excess).toEqual(new Array(fineBandCount).fill(0));
  });

  it.each([
    [310, 10],
    [1250, 14],
    [3140, 20],
    [7800, 10],
  ])("of +6 dB at %i Hz, Q %i, are found within a semitone and said to be constant", (hz, q) => {
    const [first, ...others] = estimate(ringing(pink, hz, q)).resonances;
    expect(others).toEqual([]);
    expect(semitonesFrom(hz)(first!)).toBeLessThan(1);
    expect(first!.constancy).toBeGreaterThan(0.9);
  });

  it("are told apart from the notes that are played where the other side plays them too", () => {
    const tune = melody(14).map((value, i) => value + 0.1 * pink[i % pink.length]!);
    const gaps = resonanceGaps(estimate(tune).excess, estimate(ringing(tune, 2600, 12)).excess);
    expect(gaps).toHaveLength(1);
    expect(semitonesFrom(2600)(gaps[0]!)).toBeLessThan(1);
    expect(gaps[0]!.gapDb).toBeGreaterThan(2.5);
    // The other way round it is the reference's.
    const [back] = resonanceGaps(estimate(ringing(tune, 2600, 12)).excess, estimate(tune).excess);
    expect(back!.gapDb).toBeCloseTo(-gaps[0]!.gapDb, 6);
  });
});
