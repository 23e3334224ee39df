import { lengthOf, type Signal } from "../audio/signal";
import { levelStepsPerSecond } from "./sweep";

const { PI, sin, sqrt, ceil, min, round, abs } = Math;

/** Oversampling factor; ITU-R BS.1770-5 annex 2 asks for at least 4. */
const oversampling = 4;
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

/** Kaiser-windowed sinc interpolators for the places ¼, ½ and ¾ between two samples. */
const phases: Float64Array[] = Array.from({ length: oversampling - 1 }, (_, p) => {
  const fraction = (p + 1) / oversampling;
  const phase = new Float64Array(taps);
  for (let k = 0; k < taps; k++) {
    const t = k - (reach - 1) - fraction;
    const sinc = sin(PI * t) / (PI * t);
    const window = besselI0(7 * sqrt(1 - (t / reach) ** 2)) / besselI0(7);
    phase[k] = sinc * window;
  }
  const sum = phase.reduce((a, b) => a + b, 0);
  return phase.map((v) => v / sum);
});

/** No interpolated value exceeds the largest of its samples times this. */
const overshootBound = phases.reduce(
  (largest, phase) =>
    Math.max(
      largest,
      phase.reduce((a, b) => a + abs(b), 0),
    ),
  1,
);

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
  const [first, second, third] = phases as [Float64Array, Float64Array, Float64Array];
  for (const samples of signal.channels) {
    for (let step = 0; step < stepCount; step++) {
      const begin = round((step * signal.sampleRate) / levelStepsPerSecond);
      const end = min(length, round(((step + 1) * signal.sampleRate) / levelStepsPerSecond));
      let peak = peaks[step]!;
      for (let i = begin; i < end; i++) {
        const x = samples[i]!;
        const magnitude = x < 0 ? -x : x;
        if (magnitude > peak) peak = magnitude;
      }
      if (peak === 0) continue;
      let threshold = peak / overshootBound;
      let lastWorthwhile = -1;
      const scanBegin = begin < reach ? 0 : begin - reach;
      const scanEnd = min(length, end + reach);
      for (let ahead = scanBegin; ahead < scanEnd; ahead++) {
        // A loud sample makes the places from `reach` before to `reach` after it worth computing.
        const x = samples[ahead]!;
        if (x > threshold || -x > threshold) lastWorthwhile = ahead + reach - 1;
        const i = ahead - reach;
        if (i < begin || i >= end || i > lastWorthwhile) continue;
        if (i + reach < length && i - reach + 1 >= 0) {
          let a = 0;
          let b = 0;
          let c = 0;
          const from = i - reach + 1;
          for (let k = 0; k < taps; k++) {
            const s = samples[from + k]!;
            a += first[k]! * s;
            b += second[k]! * s;
            c += third[k]! * s;
          }
          if (a < 0) a = -a;
          if (b < 0) b = -b;
          if (c < 0) c = -c;
          if (b > a) a = b;
          if (c > a) a = c;
          if (a > peak) {
            peak = a;
            threshold = peak / overshootBound;
          }
        }
      }
      peaks[step] = peak;
    }
  }
  return peaks;
}
