/** Synthetic signals for tests. */
import { layoutOf, type Signal, type Speaker } from "../audio/signal";
import type { Decibels, Hertz, Seconds } from "../units";

const { imul, sin, PI, round, sqrt } = Math;

/** One stretch of a steady tone; level is the peak of the sine in dBFS, `-Infinity` for silence. */
export interface Tone {
  level: Decibels;
  seconds: Seconds;
}

/** Tones one after the other with continuous phase, the same on every channel. */
export function toneSequence(
  tones: readonly Tone[],
  frequency: Hertz = 1000,
  sampleRate: Hertz = 48000,
  channelCount = 2,
): Signal {
  const lengths = tones.map((tone) => round(tone.seconds * sampleRate));
  const samples = new Float32Array(lengths.reduce((a, b) => a + b, 0));
  let at = 0;
  tones.forEach((tone, i) => {
    const amplitude = 10 ** (tone.level / 20);
    for (let k = 0; k < lengths[i]!; k++, at++) {
      samples[at] = amplitude * sin((2 * PI * frequency * at) / sampleRate);
    }
  });
  return {
    sampleRate,
    channels: Array.from({ length: channelCount }, () => samples),
    layout: layoutOf(channelCount),
  };
}

/** One steady sine on each of the given channels, levels in dBFS. */
export function channelTones(
  levels: readonly Decibels[],
  layout: Speaker[],
  seconds: Seconds,
  frequency: Hertz = 1000,
  sampleRate: Hertz = 48000,
): Signal {
  const channels = levels.map(
    (level) => toneSequence([{ level, seconds }], frequency, sampleRate, 1).channels[0]!,
  );
  return { sampleRate, channels, layout };
}

/** Repeatable white noise with the given effective level. */
export function whiteNoise(
  level: Decibels,
  seconds: Seconds,
  sampleRate: Hertz = 44100,
  seed = 1,
): Float32Array {
  let state = seed >>> 0;
  const amplitude = sqrt(3) * 10 ** (level / 20);
  const samples = new Float32Array(round(seconds * sampleRate));
  for (let i = 0; i < samples.length; i++) {
    state = (imul(state, 1664525) + 1013904223) >>> 0;
    samples[i] = amplitude * (state / 2147483648 - 1);
  }
  return samples;
}

/** A stereo signal from two arrays. */
export const stereo = (left: Float32Array, right: Float32Array, sampleRate: Hertz = 44100): Signal => ({
  sampleRate,
  channels: [left, right],
  layout: ["left", "right"],
});

/** A click track: short bursts of noise at the given times. */
export function clicks(times: readonly Seconds[], seconds: Seconds, sampleRate: Hertz = 44100): Float32Array {
  const samples = new Float32Array(round(seconds * sampleRate));
  const burst = whiteNoise(-12, 0.03, sampleRate, 7);
  for (const time of times) {
    const start = round(time * sampleRate);
    for (let i = 0; i < burst.length && start + i < samples.length; i++) {
      samples[start + i]! += burst[i]! * (1 - i / burst.length);
    }
  }
  return samples;
}

/** A repeatable source of chance, uniform in [0, 1). */
export const seeded = (seed: number): (() => number) => {
  let state = seed;
  return () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return state / 4294967296;
  };
};
