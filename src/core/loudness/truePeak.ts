import { lengthOf, type Signal } from "../audio/signal";
import { levelStepsPerSecond } from "./sweep";

const { PI, sin, sqrt, ceil, min, max, round, abs } = Math;

/** Samples on each side that one interpolated value is made of. */
const reach = 12;
const taps = 2 * reach;

/** Modified Bessel function of the first kind, order 0 (power series). */
function besselI0(x: number): number {
  let sum = 1;
  let term = 1;
  for (let k = 1; k < 40; k++) {
    term *= (x / (2 * k)) ** 2;
    sum += term;
  }
  return sum;
}

/** Kaiser-windowed sinc that gives the value at a fraction between two samples. */
function interpolator(fraction: number): Float64Array {
  const weights = new Float64Array(taps);
  for (let k = 0; k < taps; k++) {
    const t = k - (reach - 1) - fraction;
    const window = besselI0(7 * sqrt(1 - (t / reach) ** 2)) / besselI0(7);
    weights[k] = (window * sin(PI * t)) / (PI * t);
  }
  const sum = weights.reduce((a, b) => a + b, 0);
  return weights.map((w) => w / sum);
}

const quarter = interpolator(1 / 4);
const half = interpolator(1 / 2);

// The place ¾ mirrors ¼, and ½ mirrors itself: sums and differences of mirrored samples serve all
// three places with half the multiplications.
const quarterEven = new Float64Array(reach);
const quarterOdd = new Float64Array(reach);
const halfEven = half.slice(0, reach);
for (let k = 0; k < reach; k++) {
  quarterEven[k] = (quarter[k]! + quarter[taps - 1 - k]!) / 2;
  quarterOdd[k] = (quarter[k]! - quarter[taps - 1 - k]!) / 2;
}

/** Samples on each side that make up most of an interpolated value. */
const near = 2;
const shareOf = (weights: Float64Array, inside: boolean) =>
  weights.reduce((sum, w, k) => (k >= reach - near && k < reach + near === inside ? sum + abs(w) : sum), 0);
/** No interpolated value exceeds the largest near sample times this plus the largest far one times the next. */
const nearBound = max(shareOf(half, true), shareOf(quarter, true));
const farBound = max(shareOf(half, false), shareOf(quarter, false));

/** Largest magnitude between sample i and the next, at ¼, ½ and ¾. */
function largestBetween(samples: Float32Array, i: number): number {
  let halfSum = 0;
  let even = 0;
  let odd = 0;
  const first = i - reach + 1;
  const last = i + reach;
  for (let k = 0; k < reach; k++) {
    const a = samples[first + k]!;
    const b = samples[last - k]!;
    const sum = a + b;
    halfSum += halfEven[k]! * sum;
    even += quarterEven[k]! * sum;
    odd += quarterOdd[k]! * (a - b);
  }
  // The larger of |even + odd| and |even − odd|.
  const quarters = (even < 0 ? -even : even) + (odd < 0 ? -odd : odd);
  const middle = halfSum < 0 ? -halfSum : halfSum;
  return quarters > middle ? quarters : middle;
}

function largestSample(samples: Float32Array, from: number, to: number): number {
  let largest = 0;
  for (let i = max(0, from); i < min(samples.length, to); i++) {
    const x = samples[i]!;
    if (x > largest) largest = x;
    else if (-x > largest) largest = -x;
  }
  return largest;
}

/**
 * True peak (ITU-R BS.1770-5 annex 2: four-fold oversampling, then magnitude) of each 100 ms, the
 * largest over all channels, linear; the last, shorter step included.
 *
 * Interpolation is left out where the samples around are so small that no interpolated value could
 * exceed the peak already found in that step, which changes nothing in the result.
 */
export function truePeaks(signal: Signal): Float32Array {
  const length = lengthOf(signal);
  const stepCount = ceil((length * levelStepsPerSecond) / signal.sampleRate);
  const peaks = new Float32Array(stepCount);
  for (const samples of signal.channels) {
    for (let step = 0; step < stepCount; step++) {
      const begin = round((step * signal.sampleRate) / levelStepsPerSecond);
      const end = min(length, round(((step + 1) * signal.sampleRate) / levelStepsPerSecond));
      const around = largestSample(samples, begin - reach, end + reach);
      let peak = max(peaks[step]!, largestSample(samples, begin, end));
      let threshold = (peak - farBound * around) / nearBound;
      // Only where all samples that interpolation needs exist.
      const from = max(begin, reach - 1);
      const to = min(end, length - reach);
      let lastLoud = -1;
      for (let j = max(0, from - near + 1); j < from + near && j < length; j++) {
        if (abs(samples[j]!) > threshold) lastLoud = j;
      }
      for (let i = from; i < to; i++) {
        const x = samples[i + near]!;
        if (x > threshold || -x > threshold) lastLoud = i + near;
        // Loud samples up to `near` before and after make a place worth computing.
        if (lastLoud < i - near + 1) continue;
        const value = largestBetween(samples, i);
        if (value > peak) {
          peak = value;
          threshold = (peak - farBound * around) / nearBound;
        }
      }
      peaks[step] = peak;
    }
  }
  return peaks;
}
