/** Mixes whose one-shots are known: the music of a development song under drums that are placed by hand. */
import type { DrumVoice } from "@/core/drums/voices";
import { gainOfVelocity } from "@/core/drums/kit";
import { chance } from "@/demo/random";
import { renderParts, renderRate, type StereoTrack } from "@/demo/render";
import { styleSong } from "@/demo/songs/styles";
import { duck } from "./treatment";
import { synthKit } from "./synthKit";

export const kitSources = ["synthesised", "sound font"] as const;
export type KitSource = (typeof kitSources)[number];

export interface HitMix {
  name: string;
  track: StereoTrack;
  /** The one-shot that is struck most of each voice, at full velocity, as loud as in the mix. */
  sounds: Map<DrumVoice, Float32Array>;
}

/** Mono sound of one drum of the font, from its attack on. */
async function fontSound(pitch: number, kit: number | undefined): Promise<Float32Array> {
  const [track] = await renderParts(
    [
      {
        name: "one",
        sound: "drums",
        kit,
        notes: [{ time: 0.1, duration: 1.5, pitch, velocity: 110 }],
        mix: { gainDb: 0, pan: 0, room: 0 },
      },
    ],
    2.2,
  );
  const mono = track![0].map((x, i) => (x + track![1][i]!) / 2);
  return mono.subarray(Math.round(0.1 * renderRate));
}

export async function hitMix(style: string, seed: number, source: KitSource): Promise<HitMix> {
  const song = styleSong(style as Parameters<typeof styleSong>[0], seed);
  const c = chance(seed * 7 + 3);
  const drumParts = song.parts.filter(({ sound }) => sound === "drums");
  const musicParts = song.parts.filter(({ sound }) => sound !== "drums");
  const last = Math.max(...song.parts.flatMap(({ notes }) => notes.map(({ time }) => time)));
  const seconds = Math.min(150, last + 2);
  const length = Math.round(seconds * renderRate);
  const tracks = await renderParts(musicParts, seconds);
  const track: StereoTrack = [new Float32Array(length), new Float32Array(length)];
  tracks.forEach((own, i) => {
    const gain = 10 ** (musicParts[i]!.mix.gainDb / 20);
    const { pan } = musicParts[i]!.mix;
    own.forEach((samples, side) => {
      const g = gain * Math.min(1, side === 0 ? 1 - pan : 1 + pan);
      for (let k = 0; k < length; k++) track[side]![k]! += g * samples[k]!;
    });
  });
  const level = (t: StereoTrack) => Math.sqrt(t[0].reduce((sum, x) => sum + x * x, 0) / length) + 1e-9;
  const scale = 0.09 / level(track);
  for (const channel of track) for (let k = 0; k < length; k++) channel[k]! *= scale;

  const notes = drumParts
    .flatMap((part) => part.notes.map((note) => ({ ...note, kit: part.kit })))
    .filter((note) => note.voice && note.time < seconds - 0.5)
    .sort((a, b) => a.time - b.time);
  if (c.next() < 0.3) {
    const kicks = notes.filter(({ voice }) => voice === "kick").map(({ time }) => time);
    duck(track, kicks, c.between(3, 9), c.between(0.1, 0.25));
  }
  const kit = synthKit(c);
  const sounds = new Map<string, Float32Array>();
  const peaks: Record<DrumVoice, number> = {
    kick: 0.6,
    snare: 0.45,
    clap: 0.4,
    rim: 0.25,
    hat: 0.18,
    openHat: 0.18,
    tom: 0.4,
    cymbal: 0.25,
    perc: 0.25,
  };
  const drums: StereoTrack = [new Float32Array(length), new Float32Array(length)];
  const counts = new Map<string, { voice: DrumVoice; count: number; gain: number }>();
  for (const { time, pitch, velocity, voice, kit: font } of notes) {
    const key = `${voice}-${pitch}`;
    let sound = sounds.get(key);
    if (!sound) {
      sound =
        source === "synthesised" ? kit.soundOf(voice!, key).slice() : (await fontSound(pitch, font)).slice();
      const peak = sound.reduce((most, x) => Math.max(most, Math.abs(x)), 1e-6);
      sound = sound.map((x) => (x * peaks[voice!]) / peak);
      sounds.set(key, sound);
    }
    const pan = voice === "kick" || voice === "snare" ? 0 : ((pitch * 37) % 11) / 11 - 0.5;
    const gain = gainOfVelocity(velocity / 127) * 10 ** (c.spread(0.5) / 20);
    const own = counts.get(key) ?? { voice: voice!, count: 0, gain: 0 };
    own.count++;
    counts.set(key, own);
    const start = Math.round(time * renderRate);
    drums.forEach((samples, side) => {
      const g = gain * Math.min(1, side === 0 ? 1 - pan : 1 + pan);
      for (let k = 0; k < sound.length && start + k < length; k++) samples[start + k]! += g * sound[k]!;
    });
  }
  drums.forEach((samples, side) => samples.forEach((x, k) => (track[side]![k]! += x)));
  const known = new Map<DrumVoice, Float32Array>();
  for (const [key, own] of [...counts].sort((a, b) => b[1].count - a[1].count))
    if (!known.has(own.voice)) known.set(own.voice, sounds.get(key)!);
  return { name: `${style} ${seed} ${source}`, track, sounds: known };
}
