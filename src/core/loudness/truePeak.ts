import { lengthOf, type Signal } from "../audio/signal";
import { bytesOfFloat, vectorLoops, type VectorLoops } from "../dsp/vector/loops";
import { levelStepsPerSecond } from "./sweep";

const { PI, sin, sqrt, ceil, floor, min, round, abs } = Math;

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
// three places with half the multiplications. Three weights a pair of samples, from the outermost inwards.
const weights = Float32Array.from({ length: 3 * reach }, (_, i) => {
  const k = (i / 3) | 0;
  const [here, mirrored] = [quarter[k]!, quarter[taps - 1 - k]!];
  return [half[k]!, (here + mirrored) / 2, (here - mirrored) / 2][i % 3]!;
});

/** Samples that are put into the loops' memory at a time. */
const pieceLength = 1 << 14;
const weightsAt = 0;
const samplesAt = 3 * reach;
const resultAt = samplesAt + pieceLength + taps;
let loops: VectorLoops | undefined;

/**
 * Calls back with pieces of what lies between a sample and the next: largest magnitudes at ¼, ½ and ¾.
 * Only where all samples that interpolation needs exist.
 */
function eachPieceBetween(samples: Float32Array, onPiece: (values: Float32Array, at: number) => void): void {
  if (!loops) {
    loops = vectorLoops((resultAt + pieceLength) * bytesOfFloat);
    loops.floats.set(weights, weightsAt);
  }
  const { floats, between } = loops;
  const end = samples.length - reach;
  for (let at = reach - 1; at < end; at += pieceLength) {
    const count = min(pieceLength, end - at);
    const first = at - reach + 1;
    floats.set(samples.subarray(first, first + count + taps - 1), samplesAt);
    between(
      samplesAt * bytesOfFloat,
      weightsAt * bytesOfFloat,
      reach,
      resultAt * bytesOfFloat,
      ceil(count / 4) * 4,
    );
    onPiece(floats.subarray(resultAt, resultAt + count), at);
  }
}

/**
 * True peak (ITU-R BS.1770-5 annex 2: four-fold oversampling, then magnitude) of each 100 ms, the
 * largest over all channels, linear; the last, shorter step included.
 */
export function truePeaks(signal: Signal): Float32Array {
  const length = lengthOf(signal);
  const stepCount = ceil((length * levelStepsPerSecond) / signal.sampleRate);
  const peaks = new Float32Array(stepCount);
  const beginOf = (step: number) => min(length, round((step * signal.sampleRate) / levelStepsPerSecond));
  const take = (values: Float32Array, at: number) => {
    let step = floor((at * levelStepsPerSecond) / signal.sampleRate);
    if (at < beginOf(step)) step--;
    else if (at >= beginOf(step + 1)) step++;
    for (let i = 0; i < values.length; step++) {
      const end = min(values.length, beginOf(step + 1) - at);
      let peak = peaks[step]!;
      for (; i < end; i++) {
        const x = abs(values[i]!);
        if (x > peak) peak = x;
      }
      peaks[step] = peak;
    }
  };
  for (const samples of signal.channels) {
    take(samples, 0);
    eachPieceBetween(samples, take);
  }
  return peaks;
}
