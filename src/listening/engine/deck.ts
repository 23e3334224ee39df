/** Plays one file from chunks of its samples, from any place, at any rate, without a seam. */
import { framesPerChunk } from "@/core/formats/chunks";
import { kernelFor, phases } from "./resampler";
import type { DeckSetup } from "./settings";

const { floor, min, round } = Math;

/** Chunks of a file's samples as they arrive; what is missing is silence. */
export class Chunks {
  private readonly chunks = new Map<number, readonly [Float32Array, Float32Array]>();

  constructor(readonly frames: number) {}

  add(chunk: number, channels: readonly [Float32Array, Float32Array]): void {
    this.chunks.set(chunk, channels);
  }

  drop(chunk: number): void {
    this.chunks.delete(chunk);
  }

  clear(): void {
    this.chunks.clear();
  }

  /** Whether the samples at a place are here (places outside the file always are). */
  has(frame: number): boolean {
    return frame < 0 || frame >= this.frames || this.chunks.has(floor(frame / framesPerChunk));
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
    if (step === 1 && position === round(position)) this.copyInto(output, from, to, position, gain, gainStep);
    else this.resampleInto(output, from, to, position, step, gain, gainStep);
  }

  /** Sample by sample, where nothing lies between samples. */
  private copyInto(
    [outLeft, outRight]: readonly [Float32Array, Float32Array],
    from: number,
    to: number,
    position: number,
    gain: number,
    gainStep: number,
  ): void {
    let number = -1;
    let left: Float32Array | undefined;
    let right: Float32Array | undefined;
    for (let i = from; i < to; i++) {
      const frame = position + i - from;
      const chunk = floor(frame / framesPerChunk);
      if (chunk !== number) {
        number = chunk;
        [left, right] = this.chunks.get(chunk) ?? [undefined, undefined];
      }
      const at = frame - chunk * framesPerChunk;
      if (!left || !right || at >= left.length) continue;
      const level = gain + (i - from) * gainStep;
      outLeft[i]! += level * left[at]!;
      outRight[i]! += level * right[at]!;
    }
  }

  private resampleInto(
    [outLeft, outRight]: readonly [Float32Array, Float32Array],
    from: number,
    to: number,
    position: number,
    step: number,
    gain: number,
    gainStep: number,
  ): void {
    const { reach, weights } = kernelFor(step);
    const taps = 2 * reach;
    let number = -1;
    let left: Float32Array | undefined;
    let right: Float32Array | undefined;
    for (let i = from; i < to; i++) {
      const place = position + (i - from) * step;
      const whole = floor(place);
      const phase = (place - whole) * phases;
      const row = min(phases - 1, floor(phase));
      const between = phase - row;
      const low = row * taps;
      const first = whole - reach + 1;
      const firstChunk = floor(first / framesPerChunk);
      let sumLeft = 0;
      let sumRight = 0;
      if (firstChunk === floor((first + taps - 1) / framesPerChunk)) {
        if (firstChunk !== number) {
          number = firstChunk;
          [left, right] = this.chunks.get(firstChunk) ?? [undefined, undefined];
        }
        if (left && right) {
          const at = first - firstChunk * framesPerChunk;
          const end = min(taps, left.length - at);
          for (let k = 0; k < end; k++) {
            const a = weights[low + k]!;
            const weight = a + between * (weights[low + taps + k]! - a);
            sumLeft += weight * left[at + k]!;
            sumRight += weight * right[at + k]!;
          }
        }
      } else {
        for (let k = 0; k < taps; k++) {
          const frame = first + k;
          const chunk = floor(frame / framesPerChunk);
          const channels = this.chunks.get(chunk);
          const at = frame - chunk * framesPerChunk;
          if (!channels || at >= channels[0].length) continue;
          const a = weights[low + k]!;
          const weight = a + between * (weights[low + taps + k]! - a);
          sumLeft += weight * channels[0][at]!;
          sumRight += weight * channels[1][at]!;
        }
      }
      const level = gain + (i - from) * gainStep;
      outLeft[i]! += level * sumLeft;
      outRight[i]! += level * sumRight;
    }
  }
}

/** A run through a file; old ones fade out while new ones fade in. */
export interface Voice {
  /** In frames of the file. */
  position: number;
  gain: number;
  wanted: number;
  /** Frames of the file per frame of output, as it was last. */
  step: number;
}

/** A file with its samples and the runs through it. */
export interface Deck extends DeckSetup {
  pieces: Chunks;
  voices: Voice[];
}
