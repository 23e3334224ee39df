import type { Hertz, Seconds } from "../units";

/** Decoded audio: one Float32Array a channel, all of the same length, full scale = ±1. */
export interface Signal {
  sampleRate: Hertz;
  channels: Float32Array[];
  /** What each channel feeds, in the order of `channels`. */
  layout: Speaker[];
}

/** Loudspeaker positions that ITU-R BS.775 and BS.1770 tell apart. */
export type Speaker = "left" | "right" | "centre" | "lfe" | "leftSurround" | "rightSurround" | "mono";

const waveLayouts: Record<number, Speaker[]> = {
  1: ["mono"],
  2: ["left", "right"],
  3: ["left", "right", "centre"],
  4: ["left", "right", "leftSurround", "rightSurround"],
  5: ["left", "right", "centre", "leftSurround", "rightSurround"],
  6: ["left", "right", "centre", "lfe", "leftSurround", "rightSurround"],
  8: ["left", "right", "centre", "lfe", "leftSurround", "rightSurround", "leftSurround", "rightSurround"],
};

/** Order of channels in Vorbis and Opus streams (Vorbis I specification, section 4.3.9). */
const vorbisLayouts: Record<number, Speaker[]> = {
  ...waveLayouts,
  3: ["left", "centre", "right"],
  5: ["left", "centre", "right", "leftSurround", "rightSurround"],
  6: ["left", "centre", "right", "leftSurround", "rightSurround", "lfe"],
};

/**
 * What the channels of a file feed. Counts without a common layout are read as alternating left
 * and right.
 */
export function layoutOf(channelCount: number, order: "wave" | "vorbis" = "wave"): Speaker[] {
  const known = (order === "vorbis" ? vorbisLayouts : waveLayouts)[channelCount];
  return known ?? Array.from({ length: channelCount }, (_, i) => (i % 2 === 0 ? "left" : "right"));
}

/** Length of a signal in samples. */
export const lengthOf = (signal: Signal): number => signal.channels[0]?.length ?? 0;

/** Length of a signal in seconds. */
export const durationOf = (signal: Signal): Seconds => lengthOf(signal) / signal.sampleRate;

/**
 * Left and right of a signal of any channel count, folded down by ITU-R BS.775-4 annex 4: centre
 * and surrounds at −3 dB, the low-frequency channel left out. Mono feeds both sides with the same
 * array; stereo is returned as it is, without copying.
 */
export function downmix(signal: Signal): [Float32Array, Float32Array] {
  const { channels, layout } = signal;
  if (channels.length === 1) return [channels[0]!, channels[0]!];
  if (channels.length === 2) return [channels[0]!, channels[1]!];
  const left = new Float32Array(lengthOf(signal));
  const right = new Float32Array(lengthOf(signal));
  const half = Math.SQRT1_2;
  channels.forEach((channel, c) => {
    const speaker = layout[c]!;
    if (speaker === "lfe") return;
    const toLeft = speaker === "left" ? 1 : speaker === "right" || speaker === "rightSurround" ? 0 : half;
    const toRight = speaker === "right" ? 1 : speaker === "left" || speaker === "leftSurround" ? 0 : half;
    for (let i = 0; i < channel.length; i++) {
      left[i]! += toLeft * channel[i]!;
      right[i]! += toRight * channel[i]!;
    }
  });
  return [left, right];
}

/** Samples beyond this (60 dB above full scale) can only come from damage. */
export const largestSample = 1000;

/**
 * Sets every sample that is not a number within ±`largestSample` to 0, in place.
 *
 * @returns how many samples were replaced.
 */
export function silenceInvalidSamples(channels: readonly Float32Array[]): number {
  let replaced = 0;
  for (const channel of channels) {
    for (let i = 0; i < channel.length; i++) {
      const sample = channel[i]!;
      // NaN fails both comparisons.
      if (!(sample >= -largestSample && sample <= largestSample)) {
        channel[i] = 0;
        replaced++;
      }
    }
  }
  return replaced;
}
