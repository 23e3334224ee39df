import { hannWindow, loadFft, realFft } from "../dsp/fft";
import { whiteNoise } from "../testing/signals";
import { wobbleGatherer } from "./wobble";

const { PI, abs, floor, max, pow, sin } = Math;
const rate = 44100;
const [size, hop] = [2048, 441];

beforeAll(loadFft);

function wobbleOf(samples: Float32Array) {
  const transform = realFft(size);
  const window = hannWindow(size);
  const gatherer = wobbleGatherer(size, hop, rate);
  for (let start = 0; start + size <= samples.length; start += hop) {
    const input = transform.input();
    for (let i = 0; i < size; i++) input[i] = samples[start + i]! * window[i]!;
    gatherer.add(transform.forward());
  }
  return gatherer.finish();
}

/** Chords that change every two seconds, all of it strayed by a sine. */
function played(depthCents: number, rateHz: number): Float32Array {
  const chords = [
    [220, 277.2, 329.6],
    [246.9, 311.1, 370],
    [196, 246.9, 293.7],
  ];
  const phases = new Float64Array(30);
  return Float32Array.from({ length: 10 * rate }, (_, i) => {
    const t = i / rate;
    const chord = chords[floor(t / 2) % 3]!;
    const factor = pow(2, (depthCents * sin(2 * PI * rateHz * t)) / 1200);
    let x = 0;
    chord.forEach((root, n) => {
      for (let h = 1; h <= 6; h++) {
        const at = n * 6 + h;
        phases[at] = (phases[at]! + (root * h * factor) / rate) % 1;
        x += (0.1 / h) * sin(2 * PI * phases[at]!);
      }
    });
    return x * max(0.3, 1 - (t % 2));
  });
}

describe("wobble", () => {
  it.each([
    [10, 1],
    [30, 4],
  ])("of %d cents, %d times a second, is found with its size", (depth, often) => {
    const own = wobbleOf(played(depth, often))!;
    expect(abs(own.depthCents / depth - 1)).toBeLessThan(0.25);
    expect(abs(own.rateHz / often - 1)).toBeLessThan(0.35);
    expect(own.confidence).toBeGreaterThan(0.5);
  });

  it("is next to nothing in steady chords, and not told of noise", () => {
    expect(wobbleOf(played(0, 1))!.depthCents).toBeLessThan(2);
    const ofNoise = wobbleOf(whiteNoise(-20, 5));
    expect(ofNoise === null || ofNoise.confidence < 0.5).toBe(true);
  });
});
