/** Plays one file from pieces of its samples, from any place, at any rate, without a seam. */
import { framesPerPiece } from "@/core/formats/pieces";

const { abs, floor, max, min, PI, round, sin } = Math;

/** Samples on each side that a value between samples is made of, and places between that are tabled. */
const reach = 12;
const phases = 512;

/** Windowed sinc for each place between two samples: `(phases + 1) × 2·reach`. */
const kernel = (() => {
  const table = new Float32Array((phases + 1) * 2 * reach);
  for (let p = 0; p <= phases; p++) {
    let sum = 0;
    for (let k = 0; k < 2 * reach; k++) {
      const t = k - (reach - 1) - p / phases;
      const window = 0.5 + 0.5 * Math.cos((PI * t) / reach);
      const value = (abs(t) < 1e-9 ? 1 : sin(PI * t) / (PI * t)) * max(0, window);
      table[p * 2 * reach + k] = value;
      sum += value;
    }
    for (let k = 0; k < 2 * reach; k++) table[p * 2 * reach + k]! /= sum;
  }
  return table;
})();

/** Pieces of a file's samples as they arrive; what is missing is silence. */
export class Pieces {
  private readonly pieces = new Map<number, readonly [Float32Array, Float32Array]>();

  constructor(readonly frames: number) {}

  add(piece: number, channels: readonly [Float32Array, Float32Array]): void {
    this.pieces.set(piece, channels);
  }

  drop(piece: number): void {
    this.pieces.delete(piece);
  }

  clear(): void {
    this.pieces.clear();
  }

  /** Whether the samples at a place are here (places outside the file always are). */
  has(frame: number): boolean {
    return frame < 0 || frame >= this.frames || this.pieces.has(floor(frame / framesPerPiece));
  }

  /**
   * Adds samples to an output, with a gain that changes evenly.
   *
   * @param position place of the first sample, in frames of the file.
   * @param step frames of the file from one sample to the next.
   */
  mixInto(
    output: readonly [Float32Array, Float32Array],
    from: number,
    to: number,
    position: number,
    step: number,
    gain: number,
    gainStep: number,
  ): void {
    const exact = step === 1 && position === round(position);
    let number = -1;
    let left: Float32Array | undefined;
    let right: Float32Array | undefined;
    const [outLeft, outRight] = output;
    for (let i = from; i < to; i++) {
      const place = position + (i - from) * step;
      const whole = floor(place);
      const level = gain + (i - from) * gainStep;
      if (exact) {
        const piece = floor(whole / framesPerPiece);
        if (piece !== number) {
          number = piece;
          [left, right] = this.pieces.get(piece) ?? [undefined, undefined];
        }
        const at = whole - piece * framesPerPiece;
        if (left && right && at < left.length) {
          outLeft[i]! += level * left[at]!;
          outRight[i]! += level * right[at]!;
        }
        continue;
      }
      const row = round((place - whole) * phases) * 2 * reach;
      let sumLeft = 0;
      let sumRight = 0;
      const first = whole - reach + 1;
      const firstPiece = floor(first / framesPerPiece);
      const lastPiece = floor((first + 2 * reach - 1) / framesPerPiece);
      if (firstPiece === lastPiece) {
        if (firstPiece !== number) {
          number = firstPiece;
          [left, right] = this.pieces.get(firstPiece) ?? [undefined, undefined];
        }
        if (left && right) {
          const at = first - firstPiece * framesPerPiece;
          const end = min(2 * reach, left.length - at);
          for (let k = 0; k < end; k++) {
            sumLeft += kernel[row + k]! * left[at + k]!;
            sumRight += kernel[row + k]! * right[at + k]!;
          }
        }
      } else {
        for (let k = 0; k < 2 * reach; k++) {
          const frame = first + k;
          const channels = this.pieces.get(floor(frame / framesPerPiece));
          const at = frame - floor(frame / framesPerPiece) * framesPerPiece;
          if (!channels || at >= channels[0].length) continue;
          sumLeft += kernel[row + k]! * channels[0][at]!;
          sumRight += kernel[row + k]! * channels[1][at]!;
        }
      }
      outLeft[i]! += level * sumLeft;
      outRight[i]! += level * sumRight;
    }
  }
}
