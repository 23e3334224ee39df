/** Sums of signals, in single precision. */
import { bytesOfFloat, vectorLoops, type VectorLoops } from "./loops";

const { ceil, max, min } = Math;

/** Samples that are put into the loops' memory at a time. */
const pieceLength = 1 << 14;

let loops: VectorLoops | undefined;

/**
 * Adds a signal times a factor to another, in place. What would lie before or behind the other is left out.
 *
 * @param at sample of `to` at which the first of `samples` is added; may be negative.
 */
export function addScaled(to: Float32Array, samples: Float32Array, factor: number, at = 0): void {
  loops ??= vectorLoops(2 * pieceLength * bytesOfFloat);
  const { floats } = loops;
  const end = min(samples.length, to.length - at);
  for (let begin = max(0, -at); begin < end; begin += pieceLength) {
    const count = min(pieceLength, end - begin);
    const from = at + begin;
    floats.set(samples.subarray(begin, begin + count), 0);
    floats.set(to.subarray(from, from + count), pieceLength);
    loops.addScaled(0, factor, pieceLength * bytesOfFloat, ceil(count / 4) * 4 * bytesOfFloat);
    to.set(floats.subarray(pieceLength, pieceLength + count), from);
  }
}
