/** Basses of every kind, synthesised: from a sine to a bright saw, plucked or held, clean or driven. */
import { hertzOfPitch } from "@/core/harmony/notes";
import type { Chance } from "@/demo/random";
import { renderRate } from "@/demo/render";
import type { TrueBassNote } from "./bassTruth";

const { exp, log, max, min, PI, sin, tanh } = Math;

/** How strong each harmonic is before anything is filtered, by the make of the wave. */
const waves: readonly ((harmonic: number) => number)[] = [
  (h) => (h === 1 ? 1 : 0),
  (h) => 1 / h,
  (h) => (h % 2 === 1 ? 1 / h : 0),
  (h) => (h % 2 === 1 ? 1 / h ** 2 : 0),
  (h) => sin(0.3 * PI * h) / h,
];
const mostHarmonics = 24;

/**
 * Plays a line by one sound.
 *
 * @param seconds of what is answered
 * @returns mono, full scale ±1 about
 */
export function synthBass(notes: readonly TrueBassNote[], seconds: number, c: Chance): Float32Array {
  const out = new Float32Array(Math.ceil(seconds * renderRate));
  const wave = c.pick([...waves]);
  const detune = c.next() < 0.25 ? c.between(0.001, 0.006) : 0;
  const cutOff = 2 ** c.between(0, 4.5);
  const opens = c.between(0, 3);
  const closes = 2 ** c.between(-5, -0.5);
  const attack = 2 ** c.between(-9, -5);
  const decay = c.next() < 0.5 ? 2 ** c.between(-2.5, 1) : 1e3;
  const release = 2 ** c.between(-7, -3);
  const drive = c.next() < 0.4 ? c.between(1, 6) : 0;
  const noise = c.next() < 0.3 ? c.between(0.02, 0.3) : 0;
  const sub = c.next() < 0.2 ? c.between(0.2, 0.8) : 0;
  // A fretless or plucked string is a little sharp at first.
  const bends = c.next() < 0.3 ? c.between(0.1, 0.8) : 0;
  const gate = c.next() < 0.3 ? c.between(0.4, 0.95) : 1;
  for (const { time, end, pitch } of notes) {
    const held = max(0.05, (end - time) * gate);
    const length = Math.round((held + 3 * release) * renderRate);
    const first = Math.round(time * renderRate);
    const hertz = hertzOfPitch(pitch) * (1 + c.between(-0.001, 0.001));
    const force = c.between(0.6, 1);
    const harmonics = Math.floor(min(mostHarmonics, 4000 / hertz));
    const phases = new Float64Array(harmonics + 1);
    const levels = new Float32Array(harmonics + 1);
    for (let i = 0; i < length && first + i < out.length; i++) {
      const t = i / renderRate;
      if (i % 32 === 0) {
        const open = cutOff * 2 ** (opens * exp(-t / closes));
        for (let h = 1; h <= harmonics; h++) levels[h] = wave(h) / (1 + (h / open) ** 4);
      }
      const bend = 1 + 0.0578 * bends * exp(-t / 0.02);
      let x = 0;
      for (let h = 1; h <= harmonics; h++) {
        const level = levels[h]!;
        if (level < 1e-3) continue;
        phases[h]! += ((2 * PI * hertz * h) / renderRate) * bend;
        x += level * sin(phases[h]!);
        if (detune > 0) x += level * sin(phases[h]! * (1 + detune));
      }
      if (sub > 0) x += sub * sin(0.5 * phases[1]!);
      if (noise > 0) x += noise * exp(-t / 0.01) * (2 * c.next() - 1);
      const ends = t > held ? exp(-(t - held) / release) : 1;
      const edge = (1 - exp(-t / attack)) * exp(-t / decay) * ends;
      const driven = drive > 0 ? tanh(drive * x * edge) / log(1 + drive) : x * edge;
      out[first + i]! += 0.3 * force * driven;
    }
  }
  return out;
}
