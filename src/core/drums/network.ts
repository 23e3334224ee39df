/**
 * Runs the fitted drum models over a track: how likely each voice is struck at each frame, and how hard.
 * One knows the bands as they are, the other without the colour of the track; what both say is weighed
 * alike, so that an equaliser changes little of it.
 */
import { bytesOfBase64 } from "../base64";
import { convolutionLayer, convolver, type ConvolutionLayer } from "../dsp/vector/convolution";
import { drumBandCount, type DrumBands } from "./bands";
import { drumModel } from "./model";
import { whitenedDrumModel } from "./whitenedModel";
import { whitened } from "./whitening";
import type { StrokeCurves } from "../grid/strokeCurves";
import { backVoices, drumVoices, voiceIndex, type DrumVoice } from "./voices";

const { exp, floor, max, min } = Math;

/** As the model is written: unit by unit, channel by channel, tap by tap. */
interface Dense {
  weights: Float32Array;
  biases: Float32Array;
}

interface Network {
  width: number;
  dilations: readonly number[];
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

function unpack(model: typeof drumModel): Network {
  const overHidden = ({ weights, biases }: Dense): ConvolutionLayer =>
    convolutionLayer(weights, biases, model.width);
  return {
    width: model.width,
    dilations: model.dilations,
    means: new Float32Array(bufferOf(model.means)),
    first: unpacked(model.first),
    track: unpacked(model.track),
    blocks: model.blocks.map((block) => overHidden(unpacked(block))),
    last: overHidden(unpacked(model.last)),
  };
}

let networks: { plain: Network; white: Network } | undefined;

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

/** What one network says, by frames: log odds of the curves, then velocities, and what else fills up the row; valid until the next run. */
function heardBy(
  { width, dilations, means, first, track, blocks, last }: Network,
  bands: DrumBands,
  onStep: () => void,
): { output: Float32Array; row: number } {
  const { levels } = bands;
  const frames = levels.length / drumBandCount;
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
  layers.run(convolutionLayer(first.weights, base, drumBandCount), 1, "rectified");
  onStep();
  blocks.forEach((block, i) => {
    layers.run(block, dilations[i]!, "residual");
    onStep();
  });
  layers.run(last, 1, "linear");
  return { output: layers.values(), row: layers.rowLength() };
}

/** @param onProgress called with 0–1 now and then. */
export function drumActivations(bands: DrumBands, onProgress?: (done: number) => void): DrumActivations {
  networks ??= { plain: unpack(drumModel), white: unpack(whitenedDrumModel) };
  const frames = bands.levels.length / drumBandCount;
  const steps = networks.plain.blocks.length + networks.white.blocks.length + 2;
  let done = 0;
  const onStep = () => onProgress?.(++done / steps);
  const curves = networks.plain.last.units / 2;
  const probabilities = new Float32Array(frames * curves);
  const velocities = new Float32Array(frames * curves);
  const add = (network: Network, own: DrumBands) => {
    const { output, row } = heardBy(network, own, onStep);
    for (let i = 0; i < frames; i++) {
      for (let curve = 0; curve < curves; curve++) {
        probabilities[i * curves + curve]! += output[i * row + curve]! / 2;
        velocities[i * curves + curve]! += output[i * row + curves + curve]! / 2;
      }
    }
  };
  add(networks.plain, bands);
  add(networks.white, whitened(bands));
  for (let i = 0; i < probabilities.length; i++) probabilities[i] = 1 / (1 + exp(-probabilities[i]!));
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
