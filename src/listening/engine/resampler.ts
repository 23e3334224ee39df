/**
 * Band-limited interpolation between samples: a Kaiser-windowed sinc (Smith 2002, "Digital audio
 * resampling"), tabled by phase and interpolated between phases. Where a file is read faster than it
 * was recorded, the filter is narrowed so that nothing above the output's half rate folds back.
 */

const { ceil, floor, log2, max, min, PI, sin, sqrt } = Math;

/** Zero crossings of the sinc on each side. */
const crossings = 32;
/** Places between two samples that are tabled; those between them are interpolated. */
export const phases = 512;
/** Stop band of about 100 dB. */
const kaiserBeta = 10;
/** The pass band ends a little below half the rate, so that the filter has room to fall. */
const passBand = 0.96;
/** Filters are made for steps this many to the octave. */
const stepsPerOctave = 8;

/** Modified Bessel function of the first kind, order 0, by its series. */
function bessel(x: number): number {
  let sum = 1;
  let term = 1;
  for (let k = 1; k < 40; k++) {
    term *= (x / 2 / k) ** 2;
    sum += term;
    if (term < 1e-12 * sum) break;
  }
  return sum;
}

/** A filter for one range of steps. */
export interface Kernel {
  /** Samples on each side of a place that go into its value. */
  reach: number;
  /** `(phases + 1) × 2·reach` weights; row p is for a place p / phases after a sample. */
  weights: Float32Array;
}

function makeKernel(cutoff: number): Kernel {
  const reach = ceil(crossings / cutoff);
  const taps = 2 * reach;
  const weights = new Float32Array((phases + 1) * taps);
  const scale = bessel(kaiserBeta);
  for (let p = 0; p <= phases; p++) {
    let sum = 0;
    for (let k = 0; k < taps; k++) {
      const t = k - (reach - 1) - p / phases;
      const x = PI * t * cutoff;
      const inside = 1 - (t / reach) ** 2;
      const window = inside > 0 ? bessel(kaiserBeta * sqrt(inside)) / scale : 0;
      const value = (x > -1e-9 && x < 1e-9 ? 1 : sin(x) / x) * window;
      weights[p * taps + k] = value;
      sum += value;
    }
    // Constant signals stay exactly as loud as they are.
    for (let k = 0; k < taps; k++) weights[p * taps + k]! /= sum;
  }
  return { reach, weights };
}

const kernels = new Map<number, Kernel>();

/**
 * The filter for reading `step` frames of a file per frame of output. Made at its first use, which
 * takes some milliseconds: ask for it before the audio thread needs it.
 */
export function kernelFor(step: number): Kernel {
  const bucket = max(0, ceil(stepsPerOctave * log2(max(1e-6, step)) - 1e-9));
  let kernel = kernels.get(bucket);
  if (!kernel) {
    kernel = makeKernel(passBand / 2 ** (bucket / stepsPerOctave));
    kernels.set(bucket, kernel);
  }
  return kernel;
}

/** The value between two samples, given a reader of samples by their number. */
export function interpolate(kernel: Kernel, place: number, sampleAt: (frame: number) => number): number {
  const { reach, weights } = kernel;
  const taps = 2 * reach;
  const whole = floor(place);
  const at = (place - whole) * phases;
  const row = min(phases - 1, floor(at));
  const between = at - row;
  let sum = 0;
  for (let k = 0; k < taps; k++) {
    const low = weights[row * taps + k]!;
    const high = weights[(row + 1) * taps + k]!;
    sum += (low + between * (high - low)) * sampleAt(whole - reach + 1 + k);
  }
  return sum;
}
