/** Runs the fitted drum model over a track: how likely each voice is struck at each frame, and how hard. */
import { drumBandCount, type DrumBands } from "./bands";
import { drumModel } from "./model";
import type { StrokeCurves } from "../grid/strokeCurves";
import { backVoices, drumVoices, voiceIndex, type DrumVoice } from "./voices";

const { exp, floor, max, min } = Math;

interface Layer {
  /** Unit by unit. */
  weights: Float64Array;
  biases: Float64Array;
  inputs: number;
  units: number;
}

interface Network {
  /** Of the levels, band by band. */
  means: Float32Array;
  first: Layer;
  track: Layer;
  blocks: Layer[];
  last: Layer;
}

const bytesOf = (text: string): ArrayBuffer =>
  Uint8Array.from(atob(text), (letter) => letter.charCodeAt(0)).buffer;

function unpacked({ weights, scales, biases }: { weights: string; scales: string; biases: string }): Layer {
  const bytes = new Int8Array(bytesOf(weights));
  const factors = new Float32Array(bytesOf(scales));
  const units = factors.length;
  const inputs = bytes.length / units;
  return {
    weights: Float64Array.from(bytes, (value, i) => value * factors[floor(i / inputs)]!),
    biases: Float64Array.from(new Float32Array(bytesOf(biases))),
    inputs,
    units,
  };
}

const unpack = (): Network => ({
  means: new Float32Array(bytesOf(drumModel.means)),
  first: unpacked(drumModel.first),
  track: unpacked(drumModel.track),
  blocks: drumModel.blocks.map(unpacked),
  last: unpacked(drumModel.last),
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

/** Frames that are worked on together: each weight is fetched once for all of them. */
const frameBlock = 4;

/** One layer over a block of frames; what is negative becomes 0 where the layer is to be rectified. */
function multiply(
  { weights, inputs, units }: Layer,
  biases: Float64Array,
  input: Float64Array,
  output: Float64Array,
  rectified: boolean,
): void {
  for (let unit = 0, row = 0; unit < units; unit++, row += inputs) {
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

/**
 * Gathers for a block of frames what lies some frames around each, channel by channel, tap by tap.
 *
 * @param source `frames × channels`; 0 before its beginning and after its end.
 */
function gather(
  source: Float32Array,
  channels: number,
  start: number,
  taps: number,
  dilation: number,
  means: Float32Array | null,
  input: Float64Array,
): void {
  const frames = source.length / channels;
  const middle = (taps - 1) / 2;
  for (let tap = 0; tap < taps; tap++) {
    for (let own = 0; own < frameBlock; own++) {
      const place = start + own + (tap - middle) * dilation;
      const inside = place >= 0 && place < frames;
      const row = place * channels;
      for (
        let channel = 0, to = tap * frameBlock + own;
        channel < channels;
        channel++, to += taps * frameBlock
      )
        input[to] = inside ? source[row + channel]! - (means ? means[channel]! : 0) : 0;
    }
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
  network ??= unpack();
  const { means, first, track, blocks, last } = network;
  const { levels } = bands;
  const frames = levels.length / drumBandCount;
  const { dilations, width } = drumModel;

  // What the track as a whole adds to the first layer is the same for all frames.
  const known = trackLevels(bands);
  const base = first.biases.slice();
  for (let unit = 0; unit < first.units; unit++) {
    base[unit]! += track.biases[unit]!;
    for (let k = 0; k < known.length; k++) base[unit]! += track.weights[unit * track.inputs + k]! * known[k]!;
  }

  let hidden = new Float32Array(frames * width);
  let next = new Float32Array(frames * width);
  const input = new Float64Array(max(first.inputs, blocks[0]!.inputs) * frameBlock);
  const output = new Float64Array(max(width, last.units) * frameBlock);
  const layers = blocks.length + 1;

  const firstTaps = first.inputs / drumBandCount;
  for (let start = 0; start < frames; start += frameBlock) {
    gather(levels, drumBandCount, start, firstTaps, 1, means, input);
    multiply(first, base, input, output, true);
    const count = min(frameBlock, frames - start);
    for (let own = 0; own < count; own++) {
      for (let c = 0; c < width; c++) hidden[(start + own) * width + c] = output[c * frameBlock + own]!;
    }
  }
  onProgress?.(1 / layers);
  blocks.forEach((block, i) => {
    const taps = block.inputs / width;
    for (let start = 0; start < frames; start += frameBlock) {
      gather(hidden, width, start, taps, dilations[i]!, null, input);
      multiply(block, block.biases, input, output, true);
      const count = min(frameBlock, frames - start);
      for (let own = 0; own < count; own++) {
        const row = (start + own) * width;
        for (let c = 0; c < width; c++) next[row + c] = hidden[row + c]! + output[c * frameBlock + own]!;
      }
    }
    [hidden, next] = [next, hidden];
    onProgress?.((i + 2) / layers);
  });

  const curves = last.units / 2;
  const probabilities = new Float32Array(frames * curves);
  const velocities = new Float32Array(frames * curves);
  for (let start = 0; start < frames; start += frameBlock) {
    gather(hidden, width, start, 1, 1, null, input);
    multiply(last, last.biases, input, output, false);
    const count = min(frameBlock, frames - start);
    for (let own = 0; own < count; own++) {
      const row = (start + own) * curves;
      for (let curve = 0; curve < curves; curve++) {
        probabilities[row + curve] = 1 / (1 + exp(-output[curve * frameBlock + own]!));
        velocities[row + curve] = output[(curves + curve) * frameBlock + own]!;
      }
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
