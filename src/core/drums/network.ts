/**
 * Runs the fitted drum models over a track: how likely each voice is struck at each frame, and how hard.
 * One knows the bands as they are, the other without the colour of the track; what both say is weighed
 * alike, so that an equaliser changes little of it.
 */
import { runNetwork, unpackNetwork, type TemporalNetwork } from "../dsp/vector/temporalNetwork";
import { drumBandCount, type DrumBands } from "./bands";
import { drumModel } from "./model";
import { whitenedDrumModel } from "./whitenedModel";
import { whitened } from "./whitening";
import type { StrokeCurves } from "../grid/strokeCurves";
import { backVoices, drumVoices, voiceIndex, type DrumVoice } from "./voices";

const { exp } = Math;

let networks: { plain: TemporalNetwork; white: TemporalNetwork } | undefined;

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
  networks ??= { plain: unpackNetwork(drumModel), white: unpackNetwork(whitenedDrumModel) };
  const frames = bands.levels.length / drumBandCount;
  const steps = networks.plain.blocks.length + networks.white.blocks.length + 2;
  let done = 0;
  const onStep = () => onProgress?.(++done / steps);
  const curves = networks.plain.last.units / 2;
  const probabilities = new Float32Array(frames * curves);
  const velocities = new Float32Array(frames * curves);
  const add = (network: TemporalNetwork, { levels }: DrumBands) => {
    const { output, row } = runNetwork(network, levels, onStep);
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
