/** A mix of which every part is known: kick, snare and hats over a bass and chords that are never silent. */
import type { DrumHit } from "../drums/hits";
import { practiceKit, stroke, type Drum } from "../drums/kit";
import type { DrumVoice } from "../drums/voices";
import type { BassNote } from "../lowEnd";
import type { Fraction, Hertz, Seconds } from "../units";
import { seeded } from "./signals";

const { exp, min, PI, pow, round, sin } = Math;

/** The kick that is struck in it. */
export const knownKick: Drum = {
  ...practiceKit.kick,
  tone: { ...practiceKit.kick.tone, pitch: 52, decaySeconds: 0.09 },
};
const chords = [
  [60, 63, 67],
  [56, 60, 63],
  [58, 62, 65],
  [55, 59, 62],
];
const lineOfBass = [36, 43, 41, 38, 45, 40, 33, 43];

/** What is made of a mix. */
export interface MixSettings {
  rate?: Hertz;
  beats?: number;
  /** Gain of each part; 1 where left out. */
  gains?: Partial<Record<"kick" | "snare" | "hat" | "bass" | "chords", number>>;
  /** How far snares and hats differ from one another: the share of noise of its own in each. */
  variety?: Fraction;
}

/** Mono parts that add up to the mix, and what a listener would know: times are not exact. */
export function knownMix({ rate = 44100, beats = 64, gains = {}, variety = 0 }: MixSettings = {}) {
  const sounds: Record<"kick" | "snare" | "hat", Float32Array> = {
    kick: stroke(knownKick, rate, seeded(1)).map((x) => 0.5 * x),
    snare: stroke(practiceKit.snare, rate, seeded(2)).map((x) => 0.35 * x),
    hat: stroke(practiceKit.hat, rate, seeded(3)).map((x) => 0.2 * x),
  };
  const beat = 60 / 118;
  const length = round((beats * beat + 1) * rate);
  const random = seeded(9);
  const blank = () => new Float32Array(length);
  const parts = { kick: blank(), snare: blank(), hat: blank(), bass: blank(), chords: blank() };
  const hits: DrumHit[] = [];
  const strike = (voice: "kick" | "snare" | "hat", at: Seconds) => {
    const sound = sounds[voice];
    const velocity = 0.8 + 0.2 * random();
    const gain = velocity * (gains[voice] ?? 1);
    const start = round(at * rate);
    for (let i = 0; i < sound.length && start + i < length; i++) {
      const own = variety > 0 && voice !== "kick" ? 1 + variety * (2 * random() - 1) : 1;
      parts[voice][start + i]! += gain * own * sound[i]!;
    }
    hits.push({ voice, time: at + 0.004 * (random() - 0.5), velocity, confidence: 0.95, kind: 0 });
  };
  const bass: BassNote[] = [];
  for (let b = 0; b < beats; b++) {
    const at = 0.2 + b * beat;
    if (b % 4 !== 1) strike("kick", at);
    if (b % 2 === 1) strike("snare", at);
    for (let k = 0; k < 4; k++) if ((b * 3 + k) % 5 !== 0) strike("hat", at + (k * beat) / 4);
    const note = lineOfBass[(b * 5 + (b >> 3)) % lineOfBass.length]!;
    const start = at + beat / 2;
    bass.push({ start, end: start + beat, midi: note, cents: 0, levelDb: -20, sure: 1 });
    const step = (pitch: number) => (2 * PI * 440 * pow(2, (pitch - 69) / 12)) / rate;
    const bassStep = step(note);
    const chordSteps = chords[(b >> 2) % chords.length]!.map(step);
    for (let i = 0; i < beat * rate; i++) {
      const t = i / rate;
      const edge = min(1, t / 0.005, (beat - t) / 0.01);
      const from = round(start * rate) + i;
      if (from >= length) break;
      parts.bass[from]! += (gains.bass ?? 1) * edge * 0.12 * sin(bassStep * from) * exp(-t);
      for (const own of chordSteps)
        parts.chords[from]! += (gains.chords ?? 1) * edge * 0.04 * sin(own * from);
    }
  }
  hits.sort((a, b) => a.time - b.time);
  const samples = parts.kick.map(
    (x, i) => x + parts.snare[i]! + parts.hat[i]! + parts.bass[i]! + parts.chords[i]!,
  );
  const known: Partial<Record<DrumVoice, Float32Array>> = sounds;
  return { rate, samples, parts, hits, bass, bassStarts: bass.map(({ start }) => start), sounds: known };
}
