/**
 * Finds where strokes of one drum begin, to a fraction of a sample: each is held against a template by
 * a correlation in which every frequency counts as far as the template stands out there from what else
 * sounds (a matched filter, as for delays in noise: Knapp and Carter 1976, "The generalized correlation
 * method for estimation of time delay").
 */
import { realFft, type RealFft } from "../dsp/fft";
import type { Hertz, Seconds } from "../units";

const { abs, floor, max, min, round, sqrt } = Math;

/** Left and right, same length. */
export type StereoSamples = readonly [Float32Array, Float32Array];

/** Where a stroke begins and how loud it is. */
export interface Place {
  /** Sample at which the cut-out begins, `beforeHit` ahead of the stroke, and what is to be added to it. */
  at: number;
  shift: number;
  /** Beside the template. */
  gain: number;
  /** How much it sounds like the template, at most 1. */
  likeness: number;
}

/** Strokes are heard a little early or late. */
const furthest: Seconds = 0.009;
/** Part of a stroke that it is told by, what is ahead of it included. */
export const comparedSeconds: Seconds = 0.085;
/** Strokes that are tried as the first template. */
const mostTried = 10;
/** Bins over which what else sounds is taken together. */
const smoothing = 8;

export const frameOf = (rate: Hertz): number => (rate > 50000 ? 8192 : 4096);

/** Spectrum of mono sound from a sample on, faded at both ends; silence outside. */
function load(transform: RealFft, [left, right]: StereoSamples, at: number, length: number, fade: number) {
  const input = transform.input();
  input.fill(0);
  const from = max(0, -at);
  const to = min(length, left.length - at);
  for (let i = from; i < to; i++) {
    const edge = min(1, i / fade, (length - i) / (length / 3));
    input[i] = edge * (left[at + i]! + right[at + i]!);
  }
  return transform.forward();
}

/** Mean power of each bin over some neighbours, in place. */
function smooth(power: Float32Array): void {
  const sums = new Float64Array(power.length + 1);
  for (let i = 0; i < power.length; i++) sums[i + 1] = sums[i]! + power[i]!;
  for (let i = 0; i < power.length; i++) {
    const [from, to] = [max(0, i - smoothing), min(power.length, i + smoothing + 1)];
    power[i] = (sums[to]! - sums[from]!) / (to - from);
  }
}

export interface Locator {
  /** The stroke that most others are like, of those that stand freest. */
  first(places: readonly Place[]): Float32Array;
  /** The spectrum of a template that begins at its own first sample. */
  templateOf(samples: StereoSamples): Float32Array;
  /** Moves places to where they are most like the template. */
  locate(places: Place[], template: Float32Array): void;
}

/**
 * @param samples of the whole track, or what is left of it.
 * @param band frequencies that strokes are told by.
 */
export function strokeLocator(
  samples: StereoSamples,
  rate: Hertz,
  band: readonly [low: Hertz, high: Hertz],
): Locator {
  const transform = realFft(frameOf(rate));
  const { size } = transform;
  const bins = size / 2;
  const length = min(size, round(comparedSeconds * rate));
  const fade = max(1, round(0.003 * rate));
  const reach = round(furthest * rate);

  const spectrumAt = (at: number): Float32Array => load(transform, samples, at, length, fade);

  /** One over what else sounds at each frequency: powers of the strokes less the template's share in them. */
  function weights(places: readonly Place[], template: Float32Array | null): Float32Array {
    const power = new Float32Array(bins);
    const step = max(1, floor(places.length / 40));
    let count = 0;
    for (let i = 0; i < places.length; i += step) {
      const spectrum = spectrumAt(places[i]!.at);
      for (let bin = 1; bin < bins; bin++)
        power[bin]! +=
          spectrum[2 * bin]! * spectrum[2 * bin]! + spectrum[2 * bin + 1]! * spectrum[2 * bin + 1]!;
      count++;
    }
    let mean = 0;
    for (let bin = 1; bin < bins; bin++) {
      const own = template ? template[2 * bin]! ** 2 + template[2 * bin + 1]! ** 2 : 0;
      // What is taken away is never all: strokes differ too.
      power[bin] = max(power[bin]! / count - own, 0.1 * (power[bin]! / count));
      mean += power[bin]! / bins;
    }
    smooth(power);
    const floorPower = 1e-4 * mean + 1e-20;
    const width = rate / size;
    for (let bin = 0; bin < bins; bin++) {
      const inside = bin * width >= band[0] && bin * width <= band[1];
      power[bin] = inside ? 1 / (power[bin]! + floorPower) : 0;
    }
    return power;
  }

  const energy = (spectrum: Float32Array, weight: Float32Array): number => {
    let sum = 0;
    for (let bin = 1; bin < bins; bin++)
      sum +=
        weight[bin]! *
        (spectrum[2 * bin]! * spectrum[2 * bin]! + spectrum[2 * bin + 1]! * spectrum[2 * bin + 1]!);
    return sum;
  };

  /** Best lag of what is in the transform against a template, in samples, and how high its correlation is. */
  function correlate(template: Float32Array, weight: Float32Array): { lag: number; height: number } {
    const spectrum = transform.spectrum();
    for (let bin = 1; bin < bins; bin++) {
      const [a, b] = [spectrum[2 * bin]!, spectrum[2 * bin + 1]!];
      const [c, d] = [template[2 * bin]!, template[2 * bin + 1]!];
      spectrum[2 * bin] = weight[bin]! * (a * c + b * d);
      spectrum[2 * bin + 1] = weight[bin]! * (b * c - a * d);
    }
    spectrum[0] = 0;
    spectrum[1] = 0;
    const correlation = transform.backward();
    let lag = 0;
    let height = -Infinity;
    for (let k = -reach; k <= reach; k++) {
      const value = correlation[k < 0 ? size + k : k]!;
      if (value > height) [lag, height] = [k, value];
    }
    const before = correlation[(lag - 1 + size) % size]!;
    const after = correlation[(lag + 1 + size) % size]!;
    const bend = before - 2 * height + after;
    const shift = bend < 0 && abs(lag) < reach ? (0.5 * (before - after)) / bend : 0;
    // The inverse transform doubles what the sum over half the bins is.
    return { lag: lag + shift, height: (height - 0.25 * (before - after) * shift) / 2 };
  }

  return {
    first(places) {
      const tried = places.slice(0, mostTried);
      const weight = weights(tried, null);
      const spectra = tried.map(({ at }) => Float32Array.from(spectrumAt(at)));
      const energies = spectra.map((spectrum) => energy(spectrum, weight));
      let best = 0;
      let most = -Infinity;
      spectra.forEach((template, i) => {
        let sum = 0;
        spectra.forEach((spectrum, k) => {
          if (k === i) return;
          transform.spectrum().set(spectrum);
          sum += correlate(template, weight).height / sqrt(energies[i]! * energies[k]! + 1e-30);
        });
        if (sum > most) [best, most] = [i, sum];
      });
      return spectra[best]!;
    },
    templateOf(own) {
      return Float32Array.from(load(transform, own, 0, min(length, own[0].length), fade));
    },
    locate(places, template) {
      const weight = weights(places, template);
      const own = energy(template, weight);
      if (own <= 0) return;
      for (const place of places) {
        const power = energy(spectrumAt(place.at), weight);
        const { lag, height } = correlate(template, weight);
        const from = place.at + lag;
        place.at = round(from);
        place.shift = from - place.at;
        place.gain = max(0, height / own);
        place.likeness = max(0, height / sqrt(own * power + 1e-30));
      }
    },
  };
}
