/**
 * A fitted temporal convolutional network (Bai et al. 2018) over the frames of a track: one layer over a few
 * frames, which also knows the track by its usual levels, then blocks ever farther apart, each added to what
 * it had. Fitted and written by scripts of the bench.
 */
import { bytesOfBase64 } from "../../base64";
import { placeInOrder } from "../../median";
import { convolutionLayer, convolver, type ConvolutionLayer } from "./convolution";

const { floor, max, min } = Math;

/** A layer as it is written: signed bytes unit by unit, channel by channel, tap by tap; a scale and a bias a unit. */
export interface PackedLayer {
  weights: string;
  scales: string;
  biases: string;
}

/** A network as it is written, arrays as 32-bit floats in base64 where nothing else is said. */
export interface PackedNetwork {
  width: number;
  dilations: readonly number[];
  /** Of the inputs. */
  means: string;
  first: PackedLayer;
  /** Over the mean of each input, then over its loud level. */
  track: PackedLayer;
  blocks: readonly PackedLayer[];
  last: PackedLayer;
}

interface Dense {
  weights: Float32Array;
  biases: Float32Array;
}

export interface TemporalNetwork {
  width: number;
  dilations: readonly number[];
  means: Float32Array;
  first: Dense;
  track: Dense;
  blocks: ConvolutionLayer[];
  last: ConvolutionLayer;
}

const bufferOf = (text: string): ArrayBuffer => bytesOfBase64(text).buffer;

function unpacked({ weights, scales, biases }: PackedLayer): Dense {
  const bytes = new Int8Array(bufferOf(weights));
  const factors = new Float32Array(bufferOf(scales));
  const inputs = bytes.length / factors.length;
  const dense = new Float32Array(bytes.length);
  for (let i = 0; i < bytes.length; i++) dense[i] = bytes[i]! * factors[floor(i / inputs)]!;
  return { weights: dense, biases: new Float32Array(bufferOf(biases)) };
}

export function unpackNetwork(model: PackedNetwork): TemporalNetwork {
  const overHidden = (layer: PackedLayer): ConvolutionLayer => {
    const { weights, biases } = unpacked(layer);
    return convolutionLayer(weights, biases, model.width);
  };
  return {
    width: model.width,
    dilations: model.dilations,
    means: new Float32Array(bufferOf(model.means)),
    first: unpacked(model.first),
    track: unpacked(model.track),
    blocks: model.blocks.map(overHidden),
    last: overHidden(model.last),
  };
}

/** Share of frames that a track's own loud level of an input is not exceeded in. */
const loudShare = 0.97;

/** Mean and loud level of each input, by which the network knows the track. */
function usualLevels(rows: Float32Array, inputs: number): Float32Array {
  const frames = rows.length / inputs;
  const known = new Float32Array(2 * inputs);
  const column = new Float32Array(frames);
  for (let b = 0; b < inputs; b++) {
    let sum = 0;
    for (let i = 0; i < frames; i++) {
      column[i] = rows[i * inputs + b]!;
      sum += column[i]!;
    }
    known[b] = sum / frames;
    known[inputs + b] = placeInOrder(column, min(frames - 1, floor(loudShare * (frames - 1))));
  }
  return known;
}

/**
 * @param rows `frames × inputs`.
 * @param onStep called after each layer but the last.
 * @returns `frames × row`, of each row the units of the last layer and what fills them up; valid until the next run.
 */
export function runNetwork(
  { width, dilations, means, first, track, blocks, last }: TemporalNetwork,
  rows: Float32Array,
  onStep: () => void = () => {},
): { output: Float32Array; row: number } {
  const inputs = means.length;
  const frames = rows.length / inputs;
  // What the track as a whole adds to the first layer is the same for all frames.
  const known = usualLevels(rows, inputs);
  const base = first.biases.slice();
  for (let unit = 0; unit < base.length; unit++) {
    base[unit]! += track.biases[unit]!;
    for (let k = 0; k < known.length; k++) base[unit]! += track.weights[unit * known.length + k]! * known[k]!;
  }
  const reach = dilations.reduce((most, dilation, i) => max(most, dilation * ((blocks[i]!.taps - 1) / 2)), 0);
  const layers = convolver(frames, inputs, width, reach);
  const input = layers.values();
  for (let i = 0; i < input.length; i++) input[i] = rows[i]! - means[i % inputs]!;
  layers.run(convolutionLayer(first.weights, base, inputs), 1, "rectified");
  onStep();
  blocks.forEach((block, i) => {
    layers.run(block, dilations[i]!, "residual");
    onStep();
  });
  layers.run(last, 1, "linear");
  return { output: layers.values(), row: layers.rowLength() };
}
