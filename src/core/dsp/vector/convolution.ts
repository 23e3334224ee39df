/**
 * Layers of a convolutional network over the frames of a track, in single precision: the inner loop is
 * in `vector.wat`, this file keeps its memory.
 */
import { bytesOfFloat, vectorLoops } from "./loops";

const { ceil, max } = Math;

/** Units that are worked out together; a layer has a multiple of them. */
const unitBlock = 8;
/** Frames that are worked out together. */
const frameBlock = 4;

export interface ConvolutionLayer {
  /** Eight units at a time: tap by tap, channel by channel. */
  weights: Float32Array;
  biases: Float32Array;
  channels: number;
  taps: number;
  /** What it answers, without what fills the last block of units. */
  units: number;
}

const wholeBlocks = (units: number): number => ceil(units / unitBlock) * unitBlock;

/**
 * @param weights `units × channels × taps`
 * @param biases one a unit
 */
export function convolutionLayer(
  weights: ArrayLike<number>,
  biases: ArrayLike<number>,
  channels: number,
): ConvolutionLayer {
  const units = biases.length;
  const taps = weights.length / units / channels;
  const packed = new Float32Array(wholeBlocks(units) * taps * channels);
  for (let unit = 0; unit < units; unit++) {
    const block = unit - (unit % unitBlock);
    for (let channel = 0; channel < channels; channel++) {
      for (let tap = 0; tap < taps; tap++)
        packed[block * taps * channels + (tap * channels + channel) * unitBlock + (unit % unitBlock)] =
          weights[(unit * channels + channel) * taps + tap]!;
    }
  }
  const filled = new Float32Array(wholeBlocks(units));
  filled.set(Float32Array.from(biases));
  return { weights: packed, biases: filled, channels, taps, units };
}

/** Runs layers one after the other over the same frames. */
export interface Convolver {
  /** Answers of the layer that ran last, `frames × rowLength`; at the beginning to be filled with the input. */
  values(): Float32Array;
  /** Values in a row of `values()`: channels of the input, or units of the last layer in whole blocks. */
  rowLength(): number;
  /**
   * What lies before the first and after the last frame is 0.
   *
   * @param dilation frames between taps
   * @param how `rectified`: what is negative becomes 0; `residual`: and the input is added to it
   */
  run(layer: ConvolutionLayer, dilation: number, how: "linear" | "rectified" | "residual"): void;
}

/**
 * @param channels of the input
 * @param width most channels or units of any layer
 * @param reach most frames that a layer looks to either side
 */
export function convolver(frames: number, channels: number, width: number, reach: number): Convolver {
  const rowBytes = max(wholeBlocks(width), channels) * bytesOfFloat;
  const whole = ceil(frames / frameBlock) * frameBlock;
  const planeBytes = (whole + 2 * reach) * rowBytes;
  const parameterBytes = 1 << 18;
  const { floats, layer: runLayer } = vectorLoops(parameterBytes + 2 * planeBytes);
  let own = parameterBytes;
  let other = parameterBytes + planeBytes;
  let row = channels;
  const begin = (plane: number, length: number): number => plane + reach * length * bytesOfFloat;
  const values = (): Float32Array =>
    floats.subarray(begin(own, row) / bytesOfFloat, begin(own, row) / bytesOfFloat + frames * row);

  return {
    values,
    rowLength: () => row,
    run(layer, dilation, how) {
      if (layer.channels > row) throw new Error("A layer has more channels than it is given");
      const rowUnits = layer.biases.length;
      const parameters = (layer.weights.length + rowUnits) * bytesOfFloat;
      if (parameters > parameterBytes) throw new Error("A layer is too large");
      const side = ((layer.taps - 1) / 2) * dilation;
      if (side > reach) throw new Error("A layer looks too far");
      floats.set(layer.weights, 0);
      floats.set(layer.biases, layer.weights.length);
      runLayer(
        begin(own, row) - side * row * bytesOfFloat,
        row,
        layer.taps,
        dilation,
        0,
        layer.weights.length * bytesOfFloat,
        rowUnits,
        begin(other, rowUnits),
        whole,
        how === "linear" ? -Infinity : 0,
        how === "residual" ? begin(own, row) : 0,
      );
      [own, other] = [other, own];
      row = rowUnits;
      // Nothing stands before and after: the plane was used with other rows, the last block is not full.
      const start = begin(own, row) / bytesOfFloat;
      floats.fill(0, own / bytesOfFloat, start);
      floats.fill(0, start + frames * row, start + (whole + reach) * row);
    },
  };
}
