/**
 * A small synthesised drum kit: every voice from a few decaying sines and bands of noise. It stands
 * in where a pattern is to be heard without the samples that it was played on.
 * Common practice of analogue drum synthesis, from memory.
 */
import { applyBiquad, designBiquad } from "../dsp/biquad";
import type { Fraction, Hertz, Seconds } from "../units";
import type { DrumVoice } from "./voices";

const { exp, max, min, PI, pow, round, sin } = Math;

/** How one voice sounds. */
export interface Drum {
  /** Level of the tone, its lowest pitch, how far above it begins (as a ratio), how fast it falls. */
  tone: { level: number; pitch: Hertz; sweep: number; sweepSeconds: Seconds; decaySeconds: Seconds };
  /** Partials of the tone beside the first, as ratios. */
  partials: readonly number[];
  /** Level of the noise, the band it lies in, how fast it dies away. */
  noise: { level: number; from: Hertz; to: Hertz; decaySeconds: Seconds };
  /** Seconds after the first at which the noise is struck again, as hands do. */
  bursts: readonly Seconds[];
}

const metal = [1, 1.342, 1.231, 1.653, 1.951, 2.132] as const;

/** The kit as it stands. */
export const practiceKit: Record<DrumVoice, Drum> = {
  kick: {
    tone: { level: 1, pitch: 48, sweep: 3.5, sweepSeconds: 0.03, decaySeconds: 0.14 },
    partials: [],
    noise: { level: 0.06, from: 1500, to: 6000, decaySeconds: 0.006 },
    bursts: [],
  },
  snare: {
    tone: { level: 0.45, pitch: 185, sweep: 1.3, sweepSeconds: 0.02, decaySeconds: 0.07 },
    partials: [1.78],
    noise: { level: 0.5, from: 900, to: 9000, decaySeconds: 0.09 },
    bursts: [],
  },
  clap: {
    tone: { level: 0, pitch: 900, sweep: 1, sweepSeconds: 0.01, decaySeconds: 0.01 },
    partials: [],
    noise: { level: 0.7, from: 800, to: 3500, decaySeconds: 0.07 },
    bursts: [0.009, 0.019],
  },
  rim: {
    tone: { level: 0.5, pitch: 480, sweep: 1.05, sweepSeconds: 0.01, decaySeconds: 0.018 },
    partials: [3.55],
    noise: { level: 0.2, from: 1500, to: 7000, decaySeconds: 0.008 },
    bursts: [],
  },
  hat: {
    tone: { level: 0.05, pitch: 3200, sweep: 1, sweepSeconds: 0.01, decaySeconds: 0.025 },
    partials: metal,
    noise: { level: 0.3, from: 7000, to: 16000, decaySeconds: 0.025 },
    bursts: [],
  },
  openHat: {
    tone: { level: 0.06, pitch: 3200, sweep: 1, sweepSeconds: 0.01, decaySeconds: 0.2 },
    partials: metal,
    noise: { level: 0.3, from: 6500, to: 16000, decaySeconds: 0.16 },
    bursts: [],
  },
  tom: {
    tone: { level: 0.7, pitch: 110, sweep: 1.5, sweepSeconds: 0.05, decaySeconds: 0.18 },
    partials: [1.59],
    noise: { level: 0.05, from: 600, to: 4000, decaySeconds: 0.02 },
    bursts: [],
  },
  cymbal: {
    tone: { level: 0.04, pitch: 2400, sweep: 1, sweepSeconds: 0.01, decaySeconds: 0.6 },
    partials: metal,
    noise: { level: 0.3, from: 3500, to: 16000, decaySeconds: 0.55 },
    bursts: [],
  },
  perc: {
    tone: { level: 0.5, pitch: 310, sweep: 1.1, sweepSeconds: 0.02, decaySeconds: 0.08 },
    partials: [1.51],
    noise: { level: 0.06, from: 1500, to: 6000, decaySeconds: 0.01 },
    bursts: [],
  },
};

/** Time constants after which a sound is cut off: −60 dB and a little more. */
const ringing = 7.5;

/**
 * One stroke as it sounds at full velocity.
 *
 * @param random uniform in [0, 1); the same source gives the same samples.
 * @returns mono samples, peak about 1 or less, beginning with the attack.
 */
export function stroke(drum: Drum, sampleRate: Hertz, random: () => number): Float32Array {
  const { tone, noise, partials, bursts } = drum;
  const seconds = max(
    tone.level > 0 ? tone.decaySeconds * ringing : 0,
    (bursts.at(-1) ?? 0) + noise.decaySeconds * ringing,
  );
  const samples = new Float32Array(round(seconds * sampleRate) + 1);
  if (noise.level > 0) {
    // Struck at the beginning and at each burst; only the last rings on.
    let next = 0;
    let envelope = 0;
    let fall = 1;
    for (let i = 0; i < samples.length; i++) {
      envelope *= fall;
      while (next <= bursts.length && i / sampleRate >= (next === 0 ? 0 : bursts[next - 1]!)) {
        envelope = 1;
        fall = exp(-1 / (sampleRate * (next === bursts.length ? noise.decaySeconds : 0.004)));
        next++;
      }
      samples[i] = (2 * random() - 1) * envelope * noise.level;
    }
    const limit = sampleRate * 0.45;
    applyBiquad(designBiquad("highPass", sampleRate, min(noise.from, limit), 0.8), samples);
    if (noise.to < limit) applyBiquad(designBiquad("lowPass", sampleRate, noise.to, 0.7), samples);
  }
  const ratios = [1, ...partials];
  for (const ratio of tone.level > 0 ? ratios : []) {
    let phase = 0;
    // Both die away exponentially; once the sweep is over its pitch is looked at no more.
    let swept = 1;
    let level = tone.level / ratios.length ** 0.5;
    const sweepFall = exp(-1 / (sampleRate * tone.sweepSeconds));
    const fall = exp(-1 / (sampleRate * tone.decaySeconds));
    const last = (tone.pitch * ratio) / sampleRate;
    const attack = 0.0005 * sampleRate;
    for (let i = 0; i < samples.length; i++) {
      phase += swept > 1e-9 ? last * pow(tone.sweep, swept) : last;
      samples[i]! += level * min(1, i / attack) * sin(2 * PI * phase);
      swept *= sweepFall;
      level *= fall;
    }
  }
  return samples;
}

/** Gain of a velocity: 40 dB a decade, as is usual for General MIDI instruments; from memory. */
export const gainOfVelocity = (velocity: Fraction): number => velocity * velocity;
