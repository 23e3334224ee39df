/** Drum kits of every kind, synthesised: machines and struck drums with wide variation. */
import { gainOfVelocity, practiceKit, stroke, type Drum } from "@/core/drums/kit";
import { drumVoices, type DrumVoice } from "@/core/drums/voices";
import { applyBiquad, designBiquad } from "@/core/dsp/biquad";
import type { Chance } from "@/demo/random";
import { renderRate } from "@/demo/render";

/** Pitches are moved by so many octaves at most, up or down: eight semitones. */
const pitchSpread = 8 / 12;

/** A drum with its settings moved far, and sometimes of another make. */
function varied(c: Chance, voice: DrumVoice): Drum {
  const about = (value: number, octaves: number) => value * 2 ** c.between(-octaves, octaves);
  const { tone, noise, partials, bursts } = practiceKit[voice];
  const isKick = voice === "kick";
  const isHat = voice === "hat" || voice === "openHat";
  const isClap = voice === "clap";
  return {
    partials: partials.length > 0 && c.next() < 0.8 ? partials.map((p) => about(p, 0.15)) : [],
    bursts: isClap
      ? Array.from({ length: c.whole(1, 3) }, (_, i) => (i + 1) * c.between(0.006, 0.013)).sort(
          (a, b) => a - b,
        )
      : bursts,
    tone: {
      level: tone.level * (isHat ? c.between(0, 3) : c.between(0.3, 1.2)),
      pitch: isKick ? about(58, 0.85) : about(tone.pitch, isHat ? 1 : pitchSpread),
      // Falls from up to 260 Hz, or hardly at all.
      sweep: isKick ? c.between(1.3, 5.5) : tone.sweep ** c.between(0.2, 2.5),
      sweepSeconds: isKick ? c.between(0.012, 0.09) : about(tone.sweepSeconds, 1),
      decaySeconds: about(tone.decaySeconds, 1.2),
    },
    noise: {
      level: noise.level * c.between(isKick ? 0 : 0.3, isKick ? 4 : 1.6),
      from: about(noise.from, isHat ? 1.2 : 0.8),
      to: c.next() < 0.35 ? c.between(3500, 9000) : about(noise.to, 0.5),
      decaySeconds: about(noise.decaySeconds, 1.1),
    },
  };
}

/** Strokes of a kit: sounds by what is struck. */
export interface SynthKit {
  soundOf(voice: DrumVoice, sample: string): Float32Array;
}

export function synthKit(c: Chance): SynthKit {
  const sounds = new Map<string, Float32Array>();
  return {
    soundOf(voice, sample) {
      let sound = sounds.get(sample);
      if (!sound) {
        sound = stroke(varied(c, voice), renderRate, c.next);
        // A second layer, often of another voice: snares with claps, kicks with clicks.
        if (c.next() < 0.3) {
          const layers: Partial<Record<DrumVoice, DrumVoice>> = { kick: "rim", snare: "clap", clap: "snare" };
          const other = stroke(varied(c, layers[voice] ?? voice), renderRate, c.next);
          const gain = c.between(0.15, 0.6);
          for (let i = 0; i < Math.min(sound.length, other.length); i++) sound[i]! += gain * other[i]!;
        }
        // Gated, as samples are that were cut.
        if (c.next() < 0.25) {
          const end = Math.round(c.between(0.05, 0.25) * renderRate);
          for (let i = end; i < sound.length; i++) sound[i]! *= Math.exp(-(i - end) / (0.004 * renderRate));
        }
        if (c.next() < 0.3)
          applyBiquad(designBiquad("lowPass", renderRate, c.between(5000, 12000), 0.7), sound);
        let peak = 1e-6;
        for (const x of sound) peak = Math.max(peak, Math.abs(x));
        const level = (0.5 + 0.5 * c.next()) / peak;
        for (let i = 0; i < sound.length; i++)
          sound[i]! *= level * (levels[drumVoices.indexOf(voice)] ?? 0.5);
        sounds.set(sample, sound);
      }
      return sound;
    },
  };
}

/** How loud the voices are against one another, in the order of `drumVoices`. */
const levels = [0.9, 0.65, 0.6, 0.4, 0.3, 0.3, 0.6, 0.4, 0.4];

/** Adds strokes of a kit to both channels. */
export function playKit(
  kit: SynthKit,
  strokes: readonly { time: number; voice: DrumVoice; velocity: number; sample: string }[],
  length: number,
  c: Chance,
): [Float32Array, Float32Array] {
  const track: [Float32Array, Float32Array] = [new Float32Array(length), new Float32Array(length)];
  const pans = new Map<string, number>();
  for (const { time, voice, velocity, sample } of strokes) {
    const sound = kit.soundOf(voice, sample);
    if (!pans.has(sample)) pans.set(sample, voice === "kick" ? 0 : c.between(-0.5, 0.5));
    const start = Math.round(time * renderRate);
    const gain = gainOfVelocity(velocity) * 10 ** (c.spread(0.5) / 20);
    const pan = pans.get(sample)!;
    const gains = [gain * Math.min(1, 1 - pan), gain * Math.min(1, 1 + pan)];
    track.forEach((samples, side) => {
      const own = gains[side]!;
      for (let i = Math.max(0, -start); i < sound.length && start + i < length; i++)
        samples[start + i]! += own * sound[i]!;
    });
  }
  return track;
}
