/** Runs the fitted drum model over a track: how likely each voice is struck at each frame, and how hard. */
import { bytesOfBase64 } from "../base64";
import { convolutionLayer, convolver, type ConvolutionLayer } from "../dsp/vector/convolution";
import { drumBandCount, type DrumBands } from "./bands";
import { drumModel } from "./model";
import type { StrokeCurves } from "../grid/strokeCurves";
import { backVoices, drumVoices, voiceIndex, type DrumVoice } from "./voices";

const { exp, floor, max, min } = Math;

/** As the model is written: unit by unit, channel by channel, tap by tap. */
interface Dense {
  weights: Float32Array;
  biases: Float32Array;
}

interface Network {
  /** Of the levels, band by band. */
  means: Float32Array;
  first: Dense;
  track: Dense;
  blocks: ConvolutionLayer[];
  last: ConvolutionLayer;
}

const bufferOf = (text: string): ArrayBuffer => bytesOfBase64(text).buffer;

function unpacked({ weights, scales, biases }: { weights: string; scales: string; biases: string }): Dense {
  const bytes = new Int8Array(bufferOf(weights));
  const factors = new Float32Array(bufferOf(scales));
  const inputs = bytes.length / factors.length;
  const dense = new Float32Array(bytes.length);
  for (let i = 0; i < bytes.length; i++) dense[i] = bytes[i]! * factors[floor(i / inputs)]!;
  return {
    weights: dense,
    biases: new Float32Array(bufferOf(biases)),
  };
}

const overHidden = ({ weights, biases }: Dense): ConvolutionLayer =>
  convolutionLayer(weights, biases, drumModel.width);

const unpack = (): Network => ({
  means: new Float32Array(bufferOf(drumModel.means)),
  first: unpacked(drumModel.first),
  track: unpacked(drumModel.track),
  blocks: drumModel.blocks.map((block) => overHidden(unpacked(block))),
  last: overHidden(unpacked(drumModel.last)),
});

let network: Network | undefined;

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
  network ??= unpack();
  const { means, first, track, blocks, last } = network;
  const { levels } = bands;
  const frames = levels.length / drumBandCount;
  const { dilations, width } = drumModel;

  // What the track as a whole adds to the first layer is the same for all frames.
  const known = trackLevels(bands);
  const base = first.biases.slice();
  for (let unit = 0; unit < base.length; unit++) {
    base[unit]! += track.biases[unit]!;
    for (let k = 0; k < known.length; k++) base[unit]! += track.weights[unit * known.length + k]! * known[k]!;
  }

  const reach = dilations.reduce((most, dilation, i) => max(most, dilation * ((blocks[i]!.taps - 1) / 2)), 0);
  const layers = convolver(frames, drumBandCount, width, reach);
  const input = layers.values();
  for (let i = 0; i < input.length; i++) input[i] = levels[i]! - means[i % drumBandCount]!;
  const steps = blocks.length + 1;
  layers.run(convolutionLayer(first.weights, base, drumBandCount), 1, "rectified");
  onProgress?.(1 / steps);
  blocks.forEach((block, i) => {
    layers.run(block, dilations[i]!, "residual");
    onProgress?.((i + 2) / steps);
  });
  layers.run(last, 1, "linear");

  const curves = last.units / 2;
  const output = layers.values();
  const row = layers.rowLength();
  const probabilities = new Float32Array(frames * curves);
  const velocities = new Float32Array(frames * curves);
  for (let i = 0; i < frames; i++) {
    for (let curve = 0; curve < curves; curve++) {
      probabilities[i * curves + curve] = 1 / (1 + exp(-output[i * row + curve]!));
      velocities[i * curves + curve] = output[i * row + curves + curve]!;
    }
  }
  return { curves, probabilities, velocities };
}

/** Curves that a stroke of each kind of `strokeKinds` is struck at all: of some voices together. */
const voicesOfKind: readonly (readonly (DrumVoice | "bass")[])[] = [
  ["kick"],
  backVoices,
  ["hat", "openHat"],
  ["bass"],
];

/** What the grid asks of the drums: how probably each kind of stroke falls on each frame. */
export function strokeCurves({ probabilities, curves }: DrumActivations): StrokeCurves {
  const frames = probabilities.length / curves;
  return voicesOfKind.map((voices) => {
    const places = voices.map((voice) => (voice === "bass" ? drumVoices.length : voiceIndex[voice]));
    const curve = new Float32Array(frames);
    for (let i = 0; i < frames; i++) {
      let none = 1;
      for (const place of places) none *= 1 - probabilities[i * curves + place]!;
      curve[i] = 1 - none;
    }
    return curve;
  });
}
