/** The network run block by block against the plain formula, and what bands are fed to it. */
import { whiteNoise } from "../testing/signals";
import { loadFft } from "../dsp/fft";
import { onsetStrength } from "../grid/onset";
import { drumBandCount, drumBandEdge, drumBandGatherer, type DrumBands } from "./bands";
import { drumModel } from "./model";
import { drumActivations } from "./network";
import { peaksOf } from "./peakPicking";
import { whitenedDrumModel } from "./whitenedModel";
import { whitened } from "./whitening";

beforeAll(loadFft);

const rate = 44100;
const bandsOf = (samples: Float32Array): DrumBands => {
  const gatherer = drumBandGatherer(samples.length, rate);
  onsetStrength([samples, samples], rate, undefined, gatherer.add);
  return gatherer.finish();
};
const tone = (frequency: number, seconds = 0.5) =>
  Float32Array.from(
    { length: seconds * rate },
    (_, i) => 0.3 * Math.sin((2 * Math.PI * frequency * i) / rate),
  );

const decoded = (text: string) => Uint8Array.from(atob(text), (letter) => letter.charCodeAt(0)).buffer;

interface Written {
  weights: string;
  scales: string;
  biases: string;
}

/** One layer as the formula has it, over frames of channels: W·x + b, with so many taps some frames apart. */
function plainLayer({ weights, scales, biases }: Written, x: number[][], dilation: number): number[][] {
  const [w, s, b] = [
    new Int8Array(decoded(weights)),
    new Float32Array(decoded(scales)),
    new Float32Array(decoded(biases)),
  ];
  const channels = x[0]!.length;
  const taps = w.length / b.length / channels;
  return x.map((_, frame) =>
    Array.from(b, (bias, unit) => {
      let sum = bias;
      for (let channel = 0; channel < channels; channel++) {
        for (let tap = 0; tap < taps; tap++) {
          const value = x[frame + (tap - (taps - 1) / 2) * dilation]?.[channel] ?? 0;
          sum += value * w[(unit * channels + channel) * taps + tap]! * s[unit]!;
        }
      }
      return sum;
    }),
  );
}

/** A written model over all frames. */
function plainly(levels: Float32Array, model: typeof drumModel): number[][] {
  const frames = levels.length / drumBandCount;
  const rows = Array.from({ length: frames }, (_, i) =>
    Array.from(levels.subarray(i * drumBandCount, (i + 1) * drumBandCount)),
  );
  const bands = Array.from({ length: drumBandCount }, (_, band) => rows.map((row) => row[band]!));
  const known = [
    ...bands.map((own) => own.reduce((a, b) => a + b, 0) / frames),
    ...bands.map((own) => own.sort((a, b) => a - b)[Math.floor(0.97 * (frames - 1))]!),
  ];
  const means = new Float32Array(decoded(model.means));
  const [ofTrack] = plainLayer(model.track, [known], 1);
  const rectified = (x: number[][]) => x.map((row) => row.map((value) => Math.max(0, value)));
  const first = plainLayer(
    model.first,
    rows.map((row) => row.map((value, band) => value - means[band]!)),
    1,
  );
  let x = rectified(first.map((row) => row.map((value, unit) => value + ofTrack![unit]!)));
  model.blocks.forEach((block, i) => {
    const more = rectified(plainLayer(block, x, model.dilations[i]!));
    x = x.map((row, frame) => row.map((value, unit) => value + more[frame]![unit]!));
  });
  return plainLayer(model.last, x, 1);
}

describe("the drum models", () => {
  it("give what their weights say, both as much, at the edges and in the last unfilled block too", () => {
    // 50 frames and one more than a multiple of the block.
    const noise = whiteNoise(0, 53 * drumBandCount, 1, 4);
    const levels = noise.map((x) => Math.min(2, Math.abs(x)));
    const { probabilities, velocities, curves } = drumActivations({ framesPerSecond: 100, levels });
    const plain = plainly(levels, drumModel);
    const white = plainly(whitened({ framesPerSecond: 100, levels }).levels, whitenedDrumModel);
    for (const frame of [0, 1, 20, 51, 52]) {
      const raw = (place: number) => (plain[frame]![place]! + white[frame]![place]!) / 2;
      for (let curve = 0; curve < curves; curve++) {
        expect(probabilities[frame * curves + curve]!).toBeCloseTo(1 / (1 + Math.exp(-raw(curve))), 4);
        expect(velocities[frame * curves + curve]!).toBeCloseTo(raw(curves + curve), 3);
      }
    }
  });
});

describe("bands", () => {
  it.each([60, 150, 440, 1000, 3500, 9000])("hold a tone of %i Hz where it lies", (frequency) => {
    const { levels } = bandsOf(tone(frequency));
    const frame = 25;
    const row = levels.subarray(frame * drumBandCount, (frame + 1) * drumBandCount);
    const loudest = row.indexOf(Math.max(...row));
    // The lowest bands are as narrow as the bins of the transform, of which they take whole ones.
    const bin = 22;
    expect(drumBandEdge(loudest) - bin).toBeLessThanOrEqual(frequency);
    expect(drumBandEdge(loudest + 1) + bin).toBeGreaterThanOrEqual(frequency);
  });

  it("are of the same part of the spectrum at another sample rate", () => {
    const profileOf = (at: number) => {
      const noise = whiteNoise(-20, 4, at);
      const gatherer = drumBandGatherer(noise.length, at);
      onsetStrength([noise, noise], at, undefined, gatherer.add);
      const { levels } = gatherer.finish();
      return Array.from({ length: drumBandCount }, (_, b) => {
        let sum = 0;
        for (let i = b; i < levels.length; i += drumBandCount) sum += levels[i]!;
        return (sum * drumBandCount) / levels.length;
      });
    };
    const other = profileOf(48000);
    const apart = profileOf(rate).map((level, b) => Math.abs(level - other[b]!));
    expect(Math.max(...apart)).toBeLessThan(0.05);
  });

  it("are the same whatever the gain, and nothing in silence", () => {
    const noise = whiteNoise(-20, 0.5, rate);
    const [loud, soft] = [bandsOf(noise), bandsOf(noise.map((x) => 0.05 * x))];
    for (let i = 0; i < loud.levels.length; i += 37) expect(soft.levels[i]!).toBeCloseTo(loud.levels[i]!, 3);
    expect(Math.max(...bandsOf(new Float32Array(rate / 2)).levels)).toBe(0);
  });
});

describe("tops of curves", () => {
  const curvesOf = (values: readonly number[]) => ({
    curves: 1,
    probabilities: Float32Array.from(values),
    velocities: new Float32Array(values.length).fill(0.6),
  });
  /** What a hit at a place between frames looks like: as the model was taught, falling to 0 at two frames. */
  const hitAt = (place: number, frames = 12) =>
    Array.from({ length: frames }, (_, frame) => Math.max(0, 1 - Math.abs(frame - place) / 2) * 0.9);

  it.each([4, 4.2, 4.5, 4.8, 5])("lie between the frames: %f", (place) => {
    const [top, ...others] = peaksOf(curvesOf(hitAt(place)), 100);
    expect(others).toEqual([]);
    expect(100 * top!.time).toBeCloseTo(place, 0.8);
  });

  it("of two hits near each other are two", () => {
    const both = hitAt(4, 16).map((value, i) => Math.max(value, 0.7 * hitAt(8, 16)[i]!));
    const tops = peaksOf(curvesOf(both), 100);
    expect(tops.map(({ time }) => Math.round(100 * time))).toEqual([4, 8]);
    expect(tops[1]!.probability).toBeCloseTo(0.63, 5);
  });

  it("under the noise are none", () => {
    expect(peaksOf(curvesOf(hitAt(4).map((x) => 0.02 * x)), 100)).toEqual([]);
  });
});
