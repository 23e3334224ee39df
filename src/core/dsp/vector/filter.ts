/** Filters of finite length, in single precision. */
import { bytesOfFloat, vectorLoops, type VectorLoops } from "./loops";

const { ceil, cos, max, min, PI, sin } = Math;

/** Taps that are worked out together. */
const tapBlock = 8;
/** Samples of the input that are put into the loops' memory at a time, and room for taps and results. */
const pieceLength = 1 << 17;
const tapRoom = 1 << 17;

let loops: VectorLoops | undefined;

/**
 * Filters and keeps every so many samples; the filter's delay is taken out, and outside is silence.
 *
 * @param taps an odd number of them, at most 30,000.
 * @returns `ceil(samples / factor)` samples.
 */
export function filtered(samples: Float32Array, taps: ArrayLike<number>, factor = 1): Float32Array {
  loops ??= vectorLoops((2 * tapRoom + 2 * pieceLength) * bytesOfFloat);
  const { floats, filter } = loops;
  const half = taps.length >> 1;
  const blocks = ceil(taps.length / tapBlock) * tapBlock;
  if (blocks > tapRoom) throw new Error("A filter is too long");
  floats.fill(0, 0, blocks);
  floats.set(taps, 0);
  const input = tapRoom;
  const output = 2 * tapRoom + pieceLength;
  const result = new Float32Array(ceil(samples.length / factor));
  const atOnce = max(1, Math.floor(pieceLength / factor));
  for (let begin = 0; begin < result.length; begin += atOnce) {
    const count = min(atOnce, result.length - begin);
    const first = begin * factor - half;
    const length = (count - 1) * factor + blocks;
    const from = max(0, first);
    const to = min(samples.length, first + length);
    floats.fill(0, input, input + from - first);
    floats.set(samples.subarray(from, to), input + from - first);
    floats.fill(0, input + to - first, input + length);
    filter(
      input * bytesOfFloat,
      factor * bytesOfFloat,
      0,
      blocks * bytesOfFloat,
      output * bytesOfFloat,
      count,
    );
    result.set(floats.subarray(output, output + count), begin);
  }
  return result;
}

/**
 * A linear-phase low-pass by a windowed sinc (Hann), its gain at 0 Hz 1.
 *
 * @param cut where it is down by 6 dB, as a share of the sample rate.
 * @param transition width of its slope, as a share of the sample rate.
 * @returns an odd number of taps, the same forwards and backwards.
 */
export function lowPassTaps(cut: number, transition: number): Float64Array {
  const half = ceil(1.65 / transition);
  const taps = new Float64Array(2 * half + 1);
  let sum = 0;
  for (let i = -half; i <= half; i++) {
    const sinc = i === 0 ? 2 * cut : sin(2 * PI * cut * i) / (PI * i);
    const tap = sinc * (0.5 + 0.5 * cos((PI * i) / (half + 1)));
    taps[i + half] = tap;
    sum += tap;
  }
  for (let i = 0; i < taps.length; i++) taps[i]! /= sum;
  return taps;
}
