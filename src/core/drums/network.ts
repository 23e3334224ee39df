/** Runs the fitted drum model over a track: how likely each voice is struck at each frame, and how hard. */
import { drumBandCount, type DrumBands } from "./bands";
import { drumModel } from "./model";

const { exp, floor, max, min } = Math;

interface Layer {
  /** Unit by unit. */
  weights: Float32Array;
  biases: Float32Array;
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
    const weights = new Float32Array(bytes.length);
    for (let unit = 0; unit < units; unit++) {
      for (let k = 0; k < inputs; k++) weights[unit * inputs + k] = bytes[unit * inputs + k]! * scales[unit]!;
    }
    return { weights, biases: new Float32Array(bytesOf(layer.biases).buffer), inputs, units };
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

/** What the model says of every frame. */
export interface DrumActivations {
  /** How many curves there are: one a voice in the order of `drumVoices`, the last for bass notes. */
  curves: number;
  /** Probability 0–1 that a voice is struck, `frames × curves`. */
  chances: Float32Array;
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
  const chances = new Float32Array(frames * curves);
  const velocities = new Float32Array(frames * curves);
  const input = new Float32Array(contextInputs);
  const hidden = new Float32Array(first.units);
  const deeper = new Float32Array(second.units);
  for (let frame = 0; frame < frames; frame++) {
    for (let c = 0; c < context.length; c++) {
      const place = frame + context[c]!;
      if (place < 0 || place >= frames) input.fill(0, c * drumBandCount, (c + 1) * drumBandCount);
      else {
        const row = place * drumBandCount;
        for (let b = 0; b < drumBandCount; b++) input[c * drumBandCount + b] = levels[row + b]!;
      }
    }
    for (let unit = 0; unit < first.units; unit++) {
      const row = unit * first.inputs;
      // Four sums side by side: each addition need not wait for the one before.
      let [a, b, c, d] = [base[unit]!, 0, 0, 0];
      for (let k = 0; k < contextInputs; k += 4) {
        const at = row + k;
        a += first.weights[at]! * input[k]!;
        b += first.weights[at + 1]! * input[k + 1]!;
        c += first.weights[at + 2]! * input[k + 2]!;
        d += first.weights[at + 3]! * input[k + 3]!;
      }
      hidden[unit] = max(0, a + b + c + d);
    }
    for (let unit = 0; unit < second.units; unit++) {
      const row = unit * second.inputs;
      let sum = second.biases[unit]!;
      for (let k = 0; k < second.inputs; k++) sum += second.weights[row + k]! * hidden[k]!;
      deeper[unit] = max(0, sum);
    }
    for (let voice = 0; voice < curves; voice++) {
      let chance = last.biases[voice]!;
      let velocity = last.biases[curves + voice]!;
      const row = voice * last.inputs;
      const velocityRow = (curves + voice) * last.inputs;
      for (let k = 0; k < last.inputs; k++) {
        chance += last.weights[row + k]! * deeper[k]!;
        velocity += last.weights[velocityRow + k]! * deeper[k]!;
      }
      chances[frame * curves + voice] = 1 / (1 + exp(-chance));
      velocities[frame * curves + voice] = velocity;
    }
    if (onProgress && frame % 1024 === 0) onProgress(frame / frames);
  }
  return { curves, chances, velocities };
}
