/**
 * Short clips that the drum model is fitted on: passages of development songs with other kits, other
 * patterns, other instruments and other mixes, each as a full mix, as the drums alone and without them.
 */
import { applyBiquad, designBiquad } from "@/core/dsp/biquad";
import { drumVoices, type DrumVoice } from "@/core/drums/voices";
import { gainOfVelocity, practiceKit, stroke, type Drum } from "@/core/drums/kit";
import { developmentMaster } from "@/demo/makeSong";
import { addNoise, mixDown, type MasterSettings } from "@/demo/mix";
import { chance, type Chance } from "@/demo/random";
import { renderParts, renderRate, type StereoTrack } from "@/demo/render";
import { barsOf, straightTimeOf, type Note, type Part, type Song } from "@/demo/song";
import { styleSong } from "@/demo/songs/styles";
import { drums } from "@/demo/writing";

/** The voices of drums, and the notes of the bass that they lock with. */
export type StruckVoice = DrumVoice | "bass";

export interface DrumClip {
  name: string;
  channels: StereoTrack;
  hits: { time: number; voice: StruckVoice; velocity: number }[];
}

const clipSeconds = 20;
const kits = [0, 1, 2, 3, 4, 5, 6, 7, 8, 10, 13, 16, 17, 24, 25, 32, 34, 40, 48];

/** One bar of steps with a chance of a hit that depends on where the step is. */
function randomBar(c: Chance, steps: number, likely: (step: number) => number): string {
  return Array.from({ length: steps }, (_, step) =>
    c.next() < likely(step) ? c.pick(["X", "x", "x", "o", "o", ","]) : ".",
  ).join("");
}

/** Drum parts that no style has: any pattern, rolls, fills and flams included. */
function randomDrums(song: Song, c: Chance): Part[] {
  const scratch: Song = { ...song, parts: [] };
  const steps = song.beatsPerBar * c.pick([4, 4, 4, 6]);
  const made = (name: string, gainDb: number, room: number): Part => ({
    name,
    sound: "drums",
    notes: [],
    mix: { gainDb, pan: c.between(-0.4, 0.4), room },
  });
  const write = (part: Part, sound: string, likely: (step: number) => number, length = steps) => {
    drums(
      scratch,
      part,
      sound,
      "all",
      Array.from({ length: c.pick([1, 2, 4]) }, () => randomBar(c, length, likely)),
      c.between(-0.006, 0.01),
    );
    return part;
  };
  const beatSteps = steps / song.beatsPerBar;
  const parts = [
    write(made("kick", c.between(0, 5), 0.03), c.pick(["kick", "deepKick"]), (s) =>
      s % beatSteps === 0 ? 0.6 : 0.14,
    ),
    write(
      made("back", c.between(-2, 3), c.between(0, 0.3)),
      c.pick(["snare", "electricSnare", "clap", "snare", "rim"]),
      (s) => (s % beatSteps === 0 && (s / beatSteps) % 2 === 1 ? 0.85 : 0.07),
    ),
    write(made("top", c.between(-6, 0), 0.08), c.pick(["hat", "hat", "pedalHat", "ride"]), (s) =>
      s % 2 === 0 ? 0.75 : 0.3,
    ),
  ];
  // Claps over snares, and over kicks where they fall on beats.
  if (c.next() < 0.4)
    parts.push(
      write(made("claps", c.between(-5, 2), c.between(0, 0.2)), "clap", (s) =>
        s % beatSteps === 0 && (s / beatSteps) % 2 === 1 ? 0.8 : 0.03,
      ),
    );
  if (c.next() < 0.5)
    parts.push(
      write(made("open", c.between(-6, 0), 0.1), "openHat", (s) => (s % beatSteps === 2 ? 0.5 : 0.05)),
    );
  if (c.next() < 0.5)
    parts.push(
      write(
        made("more", c.between(-7, 0), 0.15),
        c.pick(["openConga", "lowConga", "mutedConga", "cowbell", "tambourine", "shaker"]),
        () => 0.25,
      ),
    );
  if (c.next() < 0.5) {
    const toms = made("toms", c.between(-3, 2), 0.15);
    for (const sound of ["lowTom", "highTom"]) write(toms, sound, () => 0.07);
    parts.push(toms);
  }
  if (c.next() < 0.5)
    parts.push(write(made("crash", c.between(-6, 0), 0.2), "crash", (s) => (s === 0 ? 0.3 : 0.01)));
  if (c.next() < 0.4)
    parts.push(
      write(made("roll", c.between(-6, -1), 0.1), "hat", (s) => (s > steps * 1.6 ? 0.6 : 0.05), steps * 2),
    );
  // Flams: a softer hit just before some of the back-beat's.
  if (c.next() < 0.4) {
    const { notes } = parts[1]!;
    for (const note of [...notes]) {
      if (c.next() < 0.3)
        notes.push({ ...note, time: note.time - c.between(0.015, 0.038), velocity: note.velocity * 0.6 });
    }
  }
  return parts;
}

const varied = (c: Chance, drum: Drum): Drum => {
  const about = (value: number, by: number) => value * 2 ** c.between(-by, by);
  const { tone, noise } = drum;
  return {
    ...drum,
    tone: {
      level: tone.level * c.between(0.5, 1.2),
      pitch: about(tone.pitch, 0.3),
      sweep: tone.sweep ** c.between(0.4, 1.4),
      sweepSeconds: about(tone.sweepSeconds, 0.8),
      decaySeconds: about(tone.decaySeconds, 0.9),
    },
    noise: {
      level: noise.level * c.between(0.4, 1.4),
      from: about(noise.from, 0.5),
      to: about(noise.to, 0.4),
      decaySeconds: about(noise.decaySeconds, 0.9),
    },
  };
};

/** One drum part on the synthesised kit with its settings moved at random. */
function synthesise(part: Part, seconds: number, c: Chance): StereoTrack {
  const length = Math.round(seconds * renderRate);
  const track = new Float32Array(length);
  const sounds = new Map<number, Float32Array>();
  for (const { time, velocity, pitch, voice } of part.notes) {
    if (!voice) continue;
    let sound = sounds.get(pitch);
    if (!sound) sounds.set(pitch, (sound = stroke(varied(c, practiceKit[voice]), renderRate, c.next)));
    const start = Math.round(time * renderRate);
    const gain = 0.5 * gainOfVelocity(velocity / 127);
    for (let i = 0; i < sound.length && start + i < length; i++) {
      if (start + i >= 0) track[start + i]! += gain * sound[i]!;
    }
  }
  return [track, Float32Array.from(track)];
}

/** One drum part of the sound font, its samples played faster or slower by a ratio. */
async function tuned(part: Part, seconds: number, ratio: number): Promise<StereoTrack> {
  const scaled = { ...part, notes: part.notes.map((note) => ({ ...note, time: note.time * ratio })) };
  const [track] = await renderParts([scaled], seconds * ratio + 0.1);
  const length = Math.round(seconds * renderRate);
  return track!.map((samples) => {
    const read = new Float32Array(length);
    for (let i = 0; i < length; i++) {
      const at = i * ratio;
      const k = Math.floor(at);
      read[i] = samples[k]! + (at - k) * ((samples[k + 1] ?? 0) - samples[k]!);
    }
    return read;
  }) as StereoTrack;
}

/** Shelves and cuts at random. */
function colour(track: StereoTrack, c: Chance): void {
  const shelves = [
    designBiquad("lowShelf", renderRate, c.between(100, 300), 0.7, c.between(-5, 5)),
    designBiquad("highShelf", renderRate, c.between(2500, 8000), 0.7, c.between(-6, 6)),
  ];
  for (const samples of track) for (const shelf of shelves) applyBiquad(shelf, samples);
}

/** Programs that can play each other's parts. */
const families = [
  [32, 33, 34, 35, 36, 37, 38, 39, 87],
  [0, 1, 4, 5, 6, 7, 16, 17, 18, 24, 25, 26, 27, 28, 45, 46, 62, 63, 81, 90],
  [48, 49, 50, 51, 52, 53, 88, 89, 91, 92, 94, 95],
  [11, 12, 13, 14, 22, 40, 41, 56, 65, 66, 68, 71, 73, 75, 80, 82],
];

/** The clips of a seed: the full mix, the drums alone, and the music without them. */
export async function drumClips(style: string, seed: number): Promise<DrumClip[]> {
  const letters = [...style].reduce((sum, letter) => 31 * sum + letter.charCodeAt(0), 7);
  const c = chance(seed * 6007 + letters);
  const song = styleSong(style, seed);
  // Some clips are left as the style has them; the others are like nothing in particular.
  const plain = c.next() < 0.3;
  const drumParts =
    !plain && c.next() < 0.65
      ? randomDrums(song, c)
      : song.parts
          .filter(({ sound }) => sound === "drums")
          .map((part) => ({
            ...part,
            mix: { ...part.mix, gainDb: part.mix.gainDb + (plain ? 0 : c.between(-4, 4)) },
          }));
  const melodic = song.parts
    .filter(({ sound }) => sound !== "drums")
    .map((part) => ({
      ...part,
      sound:
        plain || c.next() < 0.5
          ? part.sound
          : c.pick(families.find((f) => f.includes(part.sound as number)) ?? [0]),
      mix: { ...part.mix, gainDb: part.mix.gainDb + (plain ? 0 : c.between(-4, 4)) },
    }));
  const whole = straightTimeOf(song, barsOf(song) * song.beatsPerBar);
  const from = c.between(0, Math.max(0, whole - clipSeconds));
  const cut = (notes: Note[]) =>
    notes
      .filter(({ time }) => time >= from && time < from + clipSeconds - 0.2)
      .map((note) => ({ ...note, time: note.time - from + 0.05 }));
  const seconds = clipSeconds + 0.5;
  const kit = plain ? 0 : c.pick(kits);
  const synthetic = plain ? 0 : c.next();
  const drumTracks: StereoTrack[] = [];
  const own = drumParts.map((part) => ({ ...part, kit, notes: cut(part.notes) }));
  for (const part of own) {
    const track =
      c.next() < synthetic * 0.7
        ? synthesise(part, seconds, c)
        : await tuned(part, seconds, plain ? 1 : 2 ** c.between(-0.3, 0.3));
    if (!plain && c.next() < 0.7) colour(track, c);
    drumTracks.push(track);
  }
  const music = melodic.map((part) => ({ ...part, notes: cut(part.notes) }));
  const musicTracks = await renderParts(music, seconds);
  const master: MasterSettings = developmentMaster(seed + letters);
  const open: MasterSettings = { driveDb: c.between(0, 10), ceilingDb: -0.3, tiltDb: c.between(-3, 3) };
  const hits = own
    .flatMap(({ notes }) => notes)
    .flatMap(({ time, voice, velocity }) => (voice ? [{ time, voice, velocity: velocity / 127 }] : []))
    .sort((a, b) => a.time - b.time);
  const mixes = own.map(({ mix }) => mix);
  const full = mixDown([...drumTracks, ...musicTracks], [...mixes, ...music.map(({ mix }) => mix)], master);
  if (master.noiseDb !== undefined) addNoise(full, master.noiseDb, c.next);
  const alone = mixDown(drumTracks, mixes, open);
  const without = mixDown(
    musicTracks,
    music.map(({ mix }) => mix),
    open,
  );
  const dull = c.next() < 0.25 ? designBiquad("lowPass", renderRate, c.between(11000, 16000), 0.707) : null;
  for (const track of dull ? [full, alone] : []) {
    for (const samples of track) for (let k = 0; k < 2; k++) applyBiquad(dull!, samples);
  }
  const bassNotes = music
    .filter(({ role }) => role === "bass")
    .flatMap(({ notes }) => notes)
    .map(({ time, velocity }) => ({ time, voice: "bass" as const, velocity: velocity / 127 }));
  return [
    { name: `${style} ${seed}`, channels: full, hits: [...hits, ...bassNotes] },
    { name: `${style} ${seed}, drums alone`, channels: alone, hits },
    { name: `${style} ${seed}, no drums`, channels: without, hits: bassNotes },
  ];
}

/** Number of a voice; the bass comes last. */
export const voiceNumber = (voice: StruckVoice): number =>
  voice === "bass" ? drumVoices.length : drumVoices.indexOf(voice);
