/**
 * Takes that the drum model is fitted on: passages of pieces of all sources, mixed and treated at
 * random, each with what is struck in it and which voices are known.
 */
import { drumVoices, type DrumVoice } from "@/core/drums/voices";
import { chance, type Chance } from "@/demo/random";
import { renderRate, type StereoTrack } from "@/demo/render";
import { styles, styleSong } from "@/demo/songs/styles";
import { decodeFile } from "@/server/decoding/decode";
import { readFile } from "node:fs/promises";
import { Midi } from "@/core/formats/midiFile";
import { drumClips } from "../drumClips";
import { drumStemOf } from "../drums";
import { developmentSongs } from "../songs";
import {
  midiPieces,
  midiStrokes,
  playedMidi,
  playedSeconds,
  playedTracker,
  soundFontNames,
  trackerPieces,
  type Piece,
  type SoundFont,
  type Stroke,
} from "./pieces";
import { playKit, synthKit } from "./synthKit";
import { duck, resampled, treat } from "./treatment";
import type { Half } from "./packages";

export interface Take {
  name: string;
  track: StereoTrack;
  strokes: Stroke[];
  /** Strokes that may be of a voice or not. */
  unsure: { time: number; voice: DrumVoice }[];
  /** Voices of which all strokes are known; "bass" where bass notes are. */
  known: (DrumVoice | "bass")[];
  /** Whether a clap may be written as a snare. */
  mergesClaps: boolean;
}

const all = [...drumVoices, "bass"] as const;
const takeSeconds = 40;

/** A passage of a file; null where it cannot be read. */
async function passage(file: string, from: number, seconds: number): Promise<StereoTrack | null> {
  const decoded = await decodeFile(file);
  if (!decoded.ok) return null;
  const { channels, sampleRate } = decoded.value.signal;
  const start = Math.round(from * sampleRate);
  const cut = (samples: Float32Array) => {
    const own = new Float32Array(Math.round(seconds * sampleRate));
    own.set(samples.subarray(start, start + own.length));
    return own;
  };
  return [cut(channels[0]!), cut(channels[1] ?? channels[0]!)];
}

const within = <T extends { time: number }>(events: readonly T[], from: number, seconds: number): T[] =>
  events
    .filter(({ time }) => time >= from && time < from + seconds)
    .map((event) => ({ ...event, time: event.time - from }));

const effective = ([left, right]: StereoTrack): number => {
  let sum = 0;
  for (let i = 0; i < left.length; i++) sum += left[i]! ** 2 + right[i]! ** 2;
  return Math.sqrt(sum / (2 * left.length)) + 1e-9;
};

/** Adds a track at a level against another's. */
function add(to: StereoTrack, track: StereoTrack, gain: number): void {
  to.forEach((samples, side) => {
    const own = track[side]!;
    for (let i = 0; i < Math.min(samples.length, own.length); i++) samples[i]! += gain * own[i]!;
  });
}

/** Ends a take: moved in pitch and time now and then, and treated. */
function finished(take: Take, half: Half, c: Chance, likelyMoved: number): Take {
  // Judged on what others have made of it, not on treatments of our own.
  if (half === "measure") return take;
  const ratio = c.next() < likelyMoved ? 2 ** c.between(-5 / 12, 5 / 12) : 1;
  const track = ratio === 1 ? take.track : resampled(take.track, ratio);
  treat(track, c);
  const moved = <T extends { time: number }>(events: T[]) =>
    events.map((event) => ({ ...event, time: event.time / ratio }));
  return { ...take, track, strokes: moved(take.strokes), unsure: moved(take.unsure) };
}

/** A passage of a MIDI piece: the drums of a font, of a synthesised kit, or none. */
async function midiTake(
  piece: Piece,
  font: SoundFont,
  drumsOf: SoundFont | "synth" | "none",
  seed: number,
  isNatural: boolean,
) {
  const { half } = piece;
  const c = chance(seed);
  const strokes = midiStrokes(new Midi(await readFile(piece.file)));
  const last = Math.min(playedSeconds - 2, (strokes.at(-1)?.time ?? playedSeconds) + 2);
  const from = c.between(0, Math.max(0, last - takeSeconds));
  const own = within(strokes, from, takeSeconds - 0.3);
  const played = await playedMidi(piece, font);
  const drummed = drumsOf === "none" || drumsOf === "synth" ? played : await playedMidi(piece, drumsOf);
  if (!played || !drummed) return null;
  const music = await passage(played.music, from, takeSeconds);
  if (!music) return null;
  const struck = own.filter((s): s is Stroke & { voice: DrumVoice } => s.voice !== "bass");
  if (drumsOf === "synth") clapped(struck, own, c);
  let drums: StereoTrack | null = null;
  if (drumsOf === "synth") drums = playKit(synthKit(c), struck, music[0].length, c);
  else if (drumsOf !== "none") drums = await passage(drummed.drums, from, takeSeconds);
  const isVaried = half === "fit" && !isNatural;
  if (drums && isVaried && drumsOf !== "synth" && c.next() < 0.35) {
    // The kit alone, tuned: its strokes stay where they are.
    const ratio = 2 ** c.between(-0.5, 0.5);
    drums = retuned(drums, struck, ratio);
  }
  const track: StereoTrack = [new Float32Array(music[0].length), new Float32Array(music[0].length)];
  const alone = isVaried && drums !== null && c.next() < 0.15;
  const level = 0.1 / effective(music);
  if (!alone) add(track, music, level);
  if (drums) {
    if (isVaried && c.next() < 0.25) {
      const keys = struck.filter(({ voice }) => voice === "kick").map(({ time }) => time);
      duck(track, keys, c.between(3, 14), c.between(0.08, 0.3));
    }
    // As the piece has them, or anywhere between far behind the music and far before it.
    add(track, drums, isVaried ? (0.1 / effective(drums)) * 10 ** (c.between(-18, 6) / 20) : level);
  }
  const take: Take = {
    name: `midi ${piece.name} ${font} ${drumsOf} ${seed}`,
    track,
    strokes: own.filter(({ voice }) => (voice === "bass" ? !alone : drums !== null)),
    unsure: [],
    known: [...all],
    mergesClaps: false,
  };
  return finished(take, half, c, 0.15);
}

/** Now and then claps stand in place of snares, or with them: hardly any of those pieces has any. */
function clapped(struck: (Stroke & { voice: DrumVoice })[], all: Stroke[], c: Chance): void {
  const way = c.next();
  if (way > 0.5) return;
  for (const stroke of struck.filter(({ voice }) => voice === "snare")) {
    if (way < 0.3) stroke.voice = "clap";
    else {
      const clap = { ...stroke, voice: "clap" as const, sample: `${stroke.sample} clap` };
      struck.push(clap);
      all.push(clap);
    }
  }
}

/** Strokes of a drum track played faster or slower, each from its own beginning on to the next. */
function retuned(drums: StereoTrack, strokes: readonly { time: number }[], ratio: number): StereoTrack {
  const starts = [
    ...new Set(strokes.map(({ time }) => Math.max(0, Math.round((time - 0.004) * renderRate)))),
  ];
  const fade = Math.round(0.004 * renderRate);
  return drums.map((samples) => {
    const out = new Float32Array(samples.length);
    starts.forEach((start, n) => {
      const end = starts[n + 1] ?? samples.length;
      for (let i = start; i < end; i++) {
        const at = start + (i - start) * ratio;
        const k = Math.floor(at);
        // Slower strokes end early, faster ones go on into silence rather than into the next.
        const inside = at < end + (ratio > 1 ? 0 : fade);
        const edge = Math.min(1, (i - start) / fade, (end - i) / fade);
        if (inside) out[i] = edge * (samples[k]! + (at - k) * ((samples[k + 1] ?? 0) - samples[k]!));
      }
    });
    return out;
  }) as StereoTrack;
}

async function trackerTake(piece: Piece, seed: number) {
  const { half } = piece;
  const c = chance(seed);
  const { mix, truth } = await playedTracker(piece);
  const seconds = truth.rows.at(-1)!;
  const from = c.between(0, Math.max(0, seconds - takeSeconds));
  const track = await passage(mix, from, takeSeconds);
  if (!track) return null;
  const take: Take = {
    name: `tracker ${piece.name} ${seed}`,
    track,
    strokes: within(truth.strokes, from, takeSeconds - 0.3),
    unsure: within(truth.unsure, from, takeSeconds - 0.3),
    known: truth.isDrumless ? ["kick", "snare", "clap", "hat", "openHat"] : truth.known,
    mergesClaps: true,
  };
  return finished(take, half, c, 0.6);
}

/**
 * All takes of one source and half, one after the other.
 *
 * @param share which of how many processes this is.
 */
export async function* takes(
  source: "midi" | "tracker" | "own",
  half: Half,
  share: { place: number; of: number },
): AsyncGenerator<Take> {
  let count = 0;
  const mine = () => count++ % share.of === share.place;
  if (source === "midi") {
    for (const piece of (await midiPieces()).filter((own) => own.half === half && mine())) {
      const plans: [SoundFont, SoundFont | "synth" | "none"][] = [
        ...soundFontNames.map((font) => [font, font] as [SoundFont, SoundFont]),
        ["tim", "opl"],
        ["opl", "general"],
        ["general", "tim"],
        ...soundFontNames.map((font) => [font, "synth"] as [SoundFont, "synth"]),
        ...soundFontNames.map((font) => [font, "synth"] as [SoundFont, "synth"]),
        ...soundFontNames.map((font) => [font, "none"] as [SoundFont, "none"]),
        ...soundFontNames.map((font) => [font, font] as [SoundFont, SoundFont]),
      ];
      const natural = plans.length - soundFontNames.length;
      for (const [i, [font, drumsOf]] of plans.entries()) {
        if (half === "measure" && drumsOf !== "none" && i < natural) continue;
        const take = await midiTake(piece, font, drumsOf, 7919 * i + numberOf(piece.name), i >= natural);
        if (take) yield take;
      }
    }
  } else if (source === "tracker") {
    for (const piece of (await trackerPieces()).filter((own) => own.half === half && mine())) {
      for (let i = 0; i < (half === "fit" ? 14 : 4); i++) {
        const take = await trackerTake(piece, 7919 * i + numberOf(piece.name));
        if (take) yield take;
      }
    }
  } else {
    const seeds = half === "fit" ? Array.from({ length: 12 }, (_, i) => 201 + i) : [241];
    for (const seed of seeds) {
      for (const style of styles) {
        if (!mine()) continue;
        for (const { name, channels, hits } of await drumClips(style, seed)) {
          const c = chance(seed * 31 + numberOf(name));
          const take: Take = {
            name: `own ${name}`,
            track: channels,
            strokes: hits.map((hit) => ({ ...hit, sample: hit.voice })),
            unsure: [],
            known: [...all],
            mergesClaps: false,
          };
          yield c.next() < 0.5 ? take : finished(take, half, c, 0.3);
        }
      }
    }
    // Whole songs as a style has them, and their drums alone.
    for (const seed of half === "fit" ? [1, 2] : []) {
      for (const song of await developmentSongs([seed], styles)) {
        if (!mine()) continue;
        const c = chance(seed * 57 + numberOf(song.name));
        const notes = styleSong(song.style, seed);
        const bass = notes.parts
          .filter(({ role }) => role === "bass")
          .flatMap((part) =>
            part.notes.map(({ time, velocity }) => ({
              time,
              voice: "bass" as const,
              velocity: velocity / 127,
            })),
          );
        const files = [song.file, ...(seed === 1 ? [await drumStemOf(song)] : [])];
        for (const [i, file] of files.entries()) {
          const track = await passage(file, 0, Math.min(70, song.truth.sections.at(-1)!.end));
          if (!track) continue;
          const strokes = [...song.truth.drums.hits, ...(i === 0 ? bass : [])];
          const take: Take = {
            name: `own ${song.name}${i === 0 ? "" : " alone"}`,
            track,
            strokes: within(strokes, 0, 69.5).map((stroke) => ({ ...stroke, sample: stroke.voice })),
            unsure: [],
            known: [...all],
            mergesClaps: false,
          };
          yield c.next() < 0.6 ? take : finished(take, half, c, 0.3);
        }
      }
    }
  }
}

const numberOf = (text: string): number =>
  [...text].reduce((sum, letter) => (31 * sum + letter.charCodeAt(0)) >>> 0, 7) % 100003;
