/** Pieces by others of which every struck note is known: MIDI played by sound fonts, and tracker modules. */
import { execFileSync } from "node:child_process";
import { existsSync, readFileSync } from "node:fs";
import { mkdir, readFile, rename, writeFile } from "node:fs/promises";
import path from "node:path";
import { parseMidi, writeMidi, type MidiEvent } from "midi-file";
import { voiceOfNote } from "@/core/drums/generalMidi";
import { Midi, type MidiFile } from "@/core/formats/midiFile";
import type { DrumVoice } from "@/core/drums/voices";
import { cacheFolder, fetchPackage, filesIn, halfOf, type Half } from "./packages";
import { writeWav } from "@/core/formats/wav";
import { decodeFile } from "@/server/decoding/decode";

/** A struck note: of a drum, or of the bass. */
export interface Stroke {
  time: number;
  voice: DrumVoice | "bass";
  velocity: number;
  /** What sounded: strokes of one sample have one name. */
  sample: string;
  /** Of a bass note, where it is known. */
  pitch?: number;
}

/** A piece without its sound. */
export interface Piece {
  /** `package/file`, by which it is named in tables. */
  name: string;
  source: "midi" | "tracker";
  half: Half;
  file: string;
}

/** One more of those packages is silent by itself (gs). */
const soundFonts = {
  tim: ["timgm6mb-soundfont", "TimGM6mb.sf2"],
  opl: ["opl3-soundfont", "OPL-3_FM_128M.sf2"],
  general: ["musescore-general-soundfont", "MuseScore_General_Full.sf3"],
} as const;
export type SoundFont = keyof typeof soundFonts;
export const soundFontNames = Object.keys(soundFonts) as SoundFont[];

async function soundFontFile(font: SoundFont): Promise<string | null> {
  const [name, file] = soundFonts[font];
  const folder = fetchPackage(name);
  return folder && ((await filesIn(folder)).find((own) => path.basename(own) === file) ?? null);
}

/** MIDI files inside a WAD: a directory of lumps (offset, size, name) at its end. */
function midiLumps(wad: Buffer): { name: string; bytes: Buffer }[] {
  const count = wad.readInt32LE(4);
  const directory = wad.readInt32LE(8);
  return Array.from({ length: count }, (_, i) => {
    const at = directory + 16 * i;
    const start = wad.readInt32LE(at);
    return {
      name: wad.toString("latin1", at + 8, at + 16).replace(/\0.*$/, ""),
      bytes: wad.subarray(start, start + wad.readInt32LE(at + 4)),
    };
  }).filter(({ bytes }) => bytes.toString("latin1", 0, 4) === "MThd");
}

const midiFolder = path.join(cacheFolder, "midi");

/** All MIDI pieces; each lies as a file of its own in the cache. Pieces that occur twice count once. */
export async function midiPieces(): Promise<Piece[]> {
  await mkdir(midiFolder, { recursive: true });
  const seen = new Set<string>();
  const pieces: Piece[] = [];
  const add = async (packageName: string, name: string, bytes: Buffer) => {
    const key = bytes.toString("base64");
    if (seen.has(key)) return;
    seen.add(key);
    const file = path.join(midiFolder, `${packageName}-${name}.mid`);
    if (!existsSync(file)) await writeFile(file, bytes);
    pieces.push({ name: `${packageName}/${name}`, source: "midi", half: halfOf(name), file });
  };
  const freedoom = fetchPackage("freedoom");
  for (const wad of freedoom ? await filesIn(freedoom) : []) {
    if (!/\.wad$/i.test(wad)) continue;
    for (const { name, bytes } of midiLumps(await readFile(wad))) await add("freedoom", name, bytes);
  }
  const planet = fetchPackage("planetblupi-music-midi");
  for (const file of planet ? await filesIn(planet) : []) {
    if (/\.midi?$/i.test(file))
      await add("planetblupi-music-midi", path.basename(file), await readFile(file));
  }
  return pieces;
}

/** Only so much of the beginning of a piece is played. */
export const playedSeconds = 100;

export const drumChannel = 9;
const allSoundOff = 120;
export const isBassProgram = (program: number): boolean => (program >= 32 && program <= 39) || program === 87;

/** Struck notes of a MIDI piece, in order. */
export function midiStrokes(midi: MidiFile): Stroke[] {
  return midi.tracks
    .flatMap(({ channel, instrument, notes }) =>
      notes.flatMap(({ time, midi: note, velocity }): Stroke[] => {
        if (channel !== drumChannel)
          return isBassProgram(instrument.number) && time < playedSeconds - 0.5
            ? [{ time, voice: "bass", velocity, sample: "bass", pitch: note }]
            : [];
        const voice = voiceOfNote(note);
        return voice && time < playedSeconds - 0.5 ? [{ time, voice, velocity, sample: String(note) }] : [];
      }),
    )
    .sort((a, b) => a.time - b.time);
}

/** The beginning of a MIDI file in which the notes of all other parts are silent, so that all else stays as it was. */
export function partOfMidi(
  bytes: Uint8Array,
  seconds: number,
  isHeard: (channel: number, note: number) => boolean,
): Uint8Array {
  const end = new Midi(bytes).header.secondsToTicks(seconds);
  const midi = parseMidi(bytes);
  midi.tracks = midi.tracks.map((track) => {
    let ticks = 0;
    const kept = track.filter((event) => (ticks += event.deltaTime) <= end && event.type !== "endOfTrack");
    for (const event of kept)
      if (event.type === "noteOn" && !isHeard(event.channel, event.noteNumber)) event.velocity = 0;
    // Notes that the cut leaves sounding would sound for ever.
    const silence = Array.from({ length: 16 }, (_, channel): MidiEvent => ({
      type: "controller",
      controllerType: allSoundOff,
      value: 0,
      channel,
      deltaTime: 0,
    }));
    return [...kept, ...silence, { type: "endOfTrack", deltaTime: 0, meta: true }];
  });
  return Uint8Array.from(writeMidi(midi));
}

/** Plays a MIDI file by a sound font into a WAV file. */
export async function playByFont(font: SoundFont, midi: string, out: string): Promise<void> {
  const bank = await soundFontFile(font);
  if (!bank) throw new Error(`the sound font ${font} cannot be had`);
  const quiet = ["-ni", "-q", "-r", "44100", "-g", "0.35", "-R", "0", "-C", "0"];
  // Only what a piece needs is read: the compressed font takes a minute otherwise.
  const sparing = ["-o", "synth.dynamic-sample-loading=1"];
  execFileSync("fluidsynth", [...quiet, ...sparing, "-F", out, bank, midi], { stdio: "ignore" });
}

/**
 * The two parts of a MIDI piece as files, drums and the rest, played by a sound font once and kept.
 * Null where the font or the player cannot be had.
 */
export async function playedMidi(
  { file }: Piece,
  font: SoundFont,
): Promise<{ drums: string; music: string } | null> {
  if (!(await soundFontFile(font))) return null;
  const base = path.join(cacheFolder, "played", `${path.basename(file, ".mid")}-${font}`);
  await mkdir(path.dirname(base), { recursive: true });
  const played = { drums: `${base}-drums.wav`, music: `${base}-music.wav` };
  for (const [part, out] of Object.entries(played)) {
    if (existsSync(out)) continue;
    const bytes = await readFile(file);
    const isHeard = (channel: number) => (channel === drumChannel) === (part === "drums");
    const own = `${base}-${part}.mid`;
    await writeFile(own, partOfMidi(bytes, playedSeconds, isHeard));
    // Whole or not there: several processes may look for it.
    const unfinished = `${base}-${part}-${process.pid}.wav`;
    await playByFont(font, own, unfinished);
    await rename(unfinished, out);
  }
  return played;
}

/** Both parts of a MIDI piece together as one file, and what is struck in it. */
export async function playedWhole(
  piece: Piece,
  font: SoundFont,
): Promise<{ file: string; seconds: number; strokes: Stroke[] } | null> {
  const played = await playedMidi(piece, font);
  if (!played) return null;
  const [drums, music] = await Promise.all([decodeFile(played.drums), decodeFile(played.music)]);
  if (!drums.ok || !music.ok) return null;
  const [a, b] = [drums.value.signal, music.value.signal];
  const longest = Math.max(a.channels[0]!.length, b.channels[0]!.length);
  const length = Math.min(playedSeconds * a.sampleRate, longest);
  const seconds = length / a.sampleRate;
  const file = played.music.replace(/-music\.wav$/, "-whole.wav");
  if (!existsSync(file)) {
    const sum = [0, 1].map((side) =>
      Float32Array.from({ length }, (_, i) => (a.channels[side]![i] ?? 0) + (b.channels[side]![i] ?? 0)),
    );
    const unfinished = file.replace(/\.wav$/, `-${process.pid}.wav`);
    await writeFile(unfinished, writeWav(sum, a.sampleRate));
    await rename(unfinished, file);
  }
  const strokes = midiStrokes(new Midi(await readFile(piece.file))).filter(
    ({ time }) => time < seconds - 0.5,
  );
  return { file, seconds, strokes };
}

type Listed = Partial<Record<"kick" | "snareOrClap" | "hat", string[]>>;
type TrackerVoices = Listed & { unsure?: Listed; none?: unknown };

/** Voices of a tracker piece. Snare and clap are not told apart there: both are called snare. */
const voiceOfListed = { kick: "kick", snareOrClap: "snare", hat: "hat" } as const;
type ListedVoice = keyof typeof voiceOfListed;

/** What is known of a tracker piece. */
export interface TrackerTruth {
  strokes: Stroke[];
  /** Strokes of which nobody is sure what they are: what is found there counts neither way. */
  unsure: { time: number; voice: DrumVoice }[];
  /** Voices of which all strokes are known. */
  known: DrumVoice[];
  /** No struck percussion at all. */
  isDrumless: boolean;
  /** Where the rows begin, and which begin patterns. */
  rows: number[];
  patternRows: number[];
}

const { packages: trackerPackages } = JSON.parse(
  readFileSync(path.join("bench", "material", "trackerVoices.json"), "utf8"),
) as { packages: Record<string, Record<string, TrackerVoices>> };

/** All tracker pieces of which it is known which instruments are drums. */
export async function trackerPieces(): Promise<Piece[]> {
  const pieces: Piece[] = [];
  for (const [packageName, known] of Object.entries(trackerPackages)) {
    const folder = fetchPackage(packageName);
    for (const file of folder ? await filesIn(folder) : []) {
      const name = path.basename(file).replace(/\.(mod|xm)$/i, "");
      if (!/\.(mod|xm)$/i.test(file) || !known[name]) continue;
      pieces.push({ name: `${packageName}/${name}`, source: "tracker", half: halfOf(name), file });
    }
  }
  return pieces;
}

/** A tracker piece as a file with what is known of it, played once and kept. */
export async function playedTracker({ name, file }: Piece): Promise<{ mix: string; truth: TrackerTruth }> {
  const base = path.join(cacheFolder, "played", name.replace("/", "-"));
  await mkdir(path.dirname(base), { recursive: true });
  if (!existsSync(`${base}.json`))
    execFileSync("/usr/bin/python3", ["bench/material/trackers.py", file, base], { stdio: "inherit" });
  const { events, rows, patternRows } = JSON.parse(await readFile(`${base}.json`, "utf8")) as {
    events: [time: number, instrument: number, sample: number, velocity: number][];
    rows: number[];
    patternRows: number[];
  };
  const [packageName, own] = name.split("/") as [string, string];
  const listed = trackerPackages[packageName]![own]!;
  const namesOf = (instrument: number, sample: number) => [String(instrument), `${instrument}.${sample}`];
  const strokes: Stroke[] = [];
  const unsure: TrackerTruth["unsure"] = [];
  for (const [time, instrument, sample, velocity] of events) {
    for (const key of Object.keys(voiceOfListed) as ListedVoice[]) {
      const names = namesOf(instrument, sample);
      if (names.some((n) => listed[key]?.includes(n)))
        // Volumes there are amplitudes; velocities go by the square root.
        strokes.push({
          time,
          voice: voiceOfListed[key],
          velocity: Math.sqrt(velocity),
          sample: `${instrument}.${sample}`,
        });
      if (names.some((n) => listed.unsure?.[key]?.includes(n)))
        unsure.push({ time, voice: voiceOfListed[key] });
    }
  }
  const isDrumless = listed.none !== undefined;
  const known = (Object.keys(voiceOfListed) as ListedVoice[])
    .filter((key) => isDrumless || listed[key])
    .map((key) => voiceOfListed[key]);
  return { mix: `${base}.wav`, truth: { strokes, unsure, known, isDrumless, rows, patternRows } };
}
