import { applyBiquad, designBiquad, type Biquad } from "../dsp/biquad";
import { loadFft } from "../dsp/fft";
import { onsetStrength } from "../grid/onset";
import { chance } from "@/demo/random";
import { drumBandCount, drumBandGatherer } from "./bands";
import { whitened } from "./whitening";

beforeAll(() => loadFft());

const { abs, exp, max, PI, sin } = Math;
const seconds = 8;

/** Strokes of four pitches by turns, each of decaying partials, over a steady chord: made alike at every rate. */
function music(rate: number): Float32Array {
  const samples = new Float32Array(seconds * rate);
  const pitches = [55, 190, 1700, 7100];
  for (let i = 0; i < samples.length; i++) {
    const t = i / rate;
    const stroke = Math.floor(t / 0.25);
    const since = t - stroke * 0.25;
    const pitch = pitches[stroke % pitches.length]!;
    let value = 0;
    for (let partial = 1; partial <= 3; partial++) value += sin(2 * PI * pitch * partial * since) / partial;
    samples[i] = 0.3 * exp(-since / 0.05) * value;
    for (const note of [220, 277, 330, 1245, 4700]) samples[i]! += 0.02 * sin(2 * PI * note * t);
  }
  return samples;
}

function levelsOf(samples: Float32Array, rate: number): Float32Array {
  const gatherer = drumBandGatherer(samples.length, rate);
  onsetStrength([samples, samples], rate, undefined, gatherer.add);
  return whitened(gatherer.finish()).levels;
}

/** Mean distance of two, as a share of the mean level. */
function distance(a: Float32Array, b: Float32Array): number {
  let apart = 0;
  let level = 0;
  for (let i = 0; i < a.length; i++) {
    apart += abs(a[i]! - (b[i] ?? 0));
    level += a[i]!;
  }
  return apart / level;
}

const filtered = (samples: Float32Array, ...filters: Biquad[]): Float32Array => {
  const own = samples.slice();
  for (const filter of filters) applyBiquad(filter, own);
  return own;
};

describe("whitened bands", () => {
  const rate = 44100;
  const random = chance(1);
  // No recording is silent anywhere in the spectrum.
  const plain = music(rate).map((x) => x + 0.01 * (2 * random.next() - 1));
  const levels = () => levelsOf(plain, rate);

  it("are the same at any gain, and 0 in silence", () => {
    const quiet = levelsOf(
      plain.map((x) => 0.1 * x),
      rate,
    );
    expect(distance(levels(), quiet)).toBeLessThan(1e-4);
    expect(levelsOf(new Float32Array(rate), rate).every((level) => level === 0)).toBe(true);
  });

  it("hardly change where only an equaliser changes", () => {
    const other = filtered(
      plain,
      designBiquad("peak", rate, 300, 0.8, 4),
      designBiquad("highShelf", rate, 6000, 0.7, -4),
    );
    expect(distance(levels(), levelsOf(other, rate))).toBeLessThan(0.03);
  });

  it("still tell strokes of the treble apart where most of the treble is gone", () => {
    const dull = filtered(plain, designBiquad("lowPass", rate, 4000, 0.707));
    const strongest = (own: Float32Array) => {
      let most = 0;
      for (let i = 34; i < own.length; i += drumBandCount) most = max(most, own[i]!);
      return most;
    };
    expect(strongest(levelsOf(dull, rate))).toBeGreaterThan(0.8 * strongest(levels()));
  });
});
