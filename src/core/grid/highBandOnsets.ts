import { applyBiquad, designBiquad } from "../dsp/biquad";
import type { Hertz } from "../units";

const { floor, max, min, sqrt } = Math;

/** How sharply the top of the sound rises, to the millisecond. */
export interface OnsetEnvelope {
  framesPerSecond: Hertz;
  /** ≥ 0; the value of frame i belongs to the time i / framesPerSecond. */
  strength: Float32Array;
}

const framesPerSecond = 1000;
/** What lies above is mostly hats, snares and the clicks of other attacks. */
const lowestHz = 3500;
/** Frames on either side that a rise is taken over. */
const reach = 2;

/**
 * Attacks from the envelope of what lies above 3.5 kHz. Spectral flux on frames of some 50 ms
 * places weak hits after strong ones some milliseconds late; the envelope does not.
 *
 * @param channels left and right, same length.
 */
export function highBandOnsets(
  channels: readonly [Float32Array, Float32Array],
  sampleRate: Hertz,
): OnsetEnvelope {
  const [left, right] = channels;
  const frames = floor((left.length * framesPerSecond) / sampleRate);
  const envelope = new Float32Array(frames);
  // In passages, so that no copy of the whole file is made; what the filter carries over is short.
  const passage = framesPerSecond * 4;
  const warmUp = 64;
  const filter = designBiquad("highPass", sampleRate, min(lowestHz, sampleRate * 0.4), 0.707);
  for (let begin = 0; begin < frames; begin += passage) {
    const end = min(frames, begin + passage);
    const first = max(0, floor((begin * sampleRate) / framesPerSecond) - warmUp);
    const last = floor((end * sampleRate) / framesPerSecond);
    const samples = new Float32Array(last - first);
    for (let i = first; i < last; i++) samples[i - first] = left[i]! + right[i]!;
    applyBiquad(filter, samples);
    applyBiquad(filter, samples);
    for (let frame = begin; frame < end; frame++) {
      const from = floor((frame * sampleRate) / framesPerSecond) - first;
      const to = floor(((frame + 1) * sampleRate) / framesPerSecond) - first;
      let power = 0;
      for (let i = from; i < to; i++) power += samples[i]! * samples[i]!;
      envelope[frame] = sqrt(power / max(1, to - from));
    }
  }
  const mean = envelope.reduce((a, b) => a + b, 0) / max(1, frames);
  const strength = new Float32Array(frames);
  for (let i = reach; i + reach < frames; i++) {
    const before = envelope[i - reach]! + envelope[i - 1]!;
    const after = envelope[i]! + envelope[i + 1]!;
    // Against what sounds there already, so that soft hits count beside loud ones.
    strength[i] = max(0, after - before) / (before + 0.5 * mean + 1e-9);
  }
  return { framesPerSecond, strength };
}
