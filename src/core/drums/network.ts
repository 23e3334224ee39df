/** Runs the fitted drum model over a track: how likely each voice is struck at each frame, and how hard. */
import { drumBandCount, type DrumBands } from "./bands";
import { drumModel } from "./model";

const { exp, floor, max, min } = Math;

interface Layer {
  /** Unit by unit. */
  weights: Float64Array;
  biases: Float64Array;
  inputs: number;
  units: number;
}

const bytesOf = (text: string): Uint8Array => Uint8Array.from(atob(text), (letter) => letter.charCodeAt(0));

function unpack(): Layer[] {
  return drumModel.layers.map((layer, i) => {
    const inputs = drumModel.sizes[i]!;
    const units = drumModel.sizes[i + 1]!;
    const bytes = new Int8Array(bytesOf(layer.weights).buffer);
    const scales = new Float32Array(bytesOf(layer.scales).buffer);
    const weights = new Float64Array(bytes.length);
    for (let unit = 0; unit < units; unit++) {
      for (let k = 0; k < inputs; k++) weights[unit * inputs + k] = bytes[unit * inputs + k]! * scales[unit]!;
    }
    return {
      weights,
      biases: Float64Array.from(new Float32Array(bytesOf(layer.biases).buffer)),
      inputs,
      units,
    };
  });
}

let layers: Layer[] | undefined;

/** Share of frames that a track's own loud level of a band is not exceeded in. */
const loudShare = 0.97;

/** Mean and loud level of each band, by which the model knows the track. */
function trackLevels({ levels }: DrumBands): Float32Array {
  const frames = levels.length / drumBandCount;
  const known = new Float32Array(2 * drumBandCount);
  const column = new Float32Array(frames);
  for (let b = 0; b < drumBandCount; b++) {
    let sum = 0;
    for (let i = 0; i < frames; i++) {
      column[i] = levels[i * drumBandCount + b]!;
      sum += column[i]!;
    }
    column.sort();
    known[b] = sum / frames;
    known[drumBandCount + b] = column[min(frames - 1, floor(loudShare * (frames - 1)))]!;
  }
  return known;
}

/** Frames that are worked on together. */
const frameBlock = 4;

/** One layer over a block of frames; what is negative becomes 0 where the layer is to be rectified. */
function multiply(
  weights: Float64Array,
  stride: number,
  inputs: number,
  biases: Float64Array,
  input: Float64Array,
  output: Float64Array,
  rectified: boolean,
): void {
  for (let unit = 0; unit < biases.length; unit++) {
    const row = unit * stride;
    let a = biases[unit]!;
    let b = a;
    let c = a;
    let d = a;
    for (let k = 0, at = 0; k < inputs; k++, at += frameBlock) {
      const weight = weights[row + k]!;
      a += weight * input[at]!;
      b += weight * input[at + 1]!;
      c += weight * input[at + 2]!;
      d += weight * input[at + 3]!;
    }
    const to = unit * frameBlock;
    output[to] = rectified ? max(0, a) : a;
    output[to + 1] = rectified ? max(0, b) : b;
    output[to + 2] = rectified ? max(0, c) : c;
    output[to + 3] = rectified ? max(0, d) : d;
  }
}

/** What the model says of every frame. */
export interface DrumActivations {
  /** How many curves there are: one a voice in the order of `drumVoices`, the last for bass notes. */
  curves: number;
  /** Probability 0–1 that a voice is struck, `frames × curves`. */
  probabilities: Float32Array;
  /** Velocity 0–1 if it is, `frames × curves`; has no meaning where it is not. */
  velocities: Float32Array;
}

/** @param onProgress called with 0–1 now and then. */
export function drumActivations(bands: DrumBands, onProgress?: (done: number) => void): DrumActivations {
  layers ??= unpack();
  const [first, second, last] = layers as [Layer, Layer, Layer];
  const { levels } = bands;
  const frames = levels.length / drumBandCount;
  const { context } = drumModel;
  const contextInputs = context.length * drumBandCount;

  // What the track as a whole adds to the first layer is the same for all frames.
  const track = trackLevels(bands);
  const base = first.biases.slice();
  for (let unit = 0; unit < first.units; unit++) {
    const row = unit * first.inputs + contextInputs;
    for (let k = 0; k < track.length; k++) base[unit]! += first.weights[row + k]! * track[k]!;
  }

  const curves = last.units / 2;
  const probabilities = new Float32Array(frames * curves);
  const velocities = new Float32Array(frames * curves);
  // Several frames at a time: each weight is fetched once for all of them.
  const input = new Float64Array(contextInputs * frameBlock);
  const output = new Float64Array(last.units * frameBlock);
  const hidden = new Float64Array(first.units * frameBlock);
  const deeper = new Float64Array(second.units * frameBlock);
  for (let start = 0; start < frames; start += frameBlock) {
    for (let own = 0; own < frameBlock; own++) {
      for (let c = 0; c < context.length; c++) {
        const place = start + own + context[c]!;
        const row = place * drumBandCount;
        const inside = place >= 0 && place < frames;
        for (let b = 0; b < drumBandCount; b++) {
          input[(c * drumBandCount + b) * frameBlock + own] = inside ? levels[row + b]! : 0;
        }
      }
    }
    multiply(first.weights, first.inputs, contextInputs, base, input, hidden, true);
    multiply(second.weights, second.inputs, second.inputs, second.biases, hidden, deeper, true);
    multiply(last.weights, last.inputs, last.inputs, last.biases, deeper, output, false);
    for (let own = 0; own < frameBlock && start + own < frames; own++) {
      const row = (start + own) * curves;
      for (let curve = 0; curve < curves; curve++) {
        probabilities[row + curve] = 1 / (1 + exp(-output[curve * frameBlock + own]!));
        velocities[row + curve] = output[(curves + curve) * frameBlock + own]!;
      }
    }
    if (onProgress && start % 1024 === 0) onProgress(start / frames);
  }
  return { curves, probabilities, velocities };
}
