/** Pieces of several sources of which every part is known by itself: what a lens should lift out. */
import { execFileSync } from "node:child_process";
import { existsSync } from "node:fs";
import { mkdir, readFile, rename, writeFile } from "node:fs/promises";
import path from "node:path";
import { parseMidi } from "midi-file";
import { voiceOfNote } from "@/core/drums/generalMidi";
import { drumParts, lensParts, partOfVoice, type LensPart } from "@/core/lens";
import { writeWav } from "@/core/formats/wav";
import { mixDown } from "@/demo/mix";
import { renderParts, renderRate, type StereoTrack } from "@/demo/render";
import type { Part } from "@/demo/song";
import { styleSong } from "@/demo/songs/styles";
import { decodeFile } from "@/server/decoding/decode";
import { cacheFolder } from "./packages";
import { sumOfTracks } from "./tracks";
import {
  drumChannel,
  isBassProgram,
  midiPieces,
  partOfMidi,
  playByFont,
  playedTracker,
  soundFontNames,
  trackerPieces,
  type Piece,
  type SoundFont,
} from "./pieces";

const partNames: readonly LensPart[] = lensParts;

export interface PartedPiece {
  name: string;
  source: "own" | "midi" | "tracker";
  /** Sum of the parts. */
  mix: StereoTrack;
  parts: Partial<Record<LensPart, StereoTrack>>;
}

const seconds = 45;
const folder = path.join(cacheFolder, "parts");

const isSilent = (track: StereoTrack) => track.every((samples) => samples.every((x) => Math.abs(x) < 1e-4));

function summed(name: string, source: PartedPiece["source"], all: PartedPiece["parts"]): PartedPiece {
  const parts = Object.fromEntries(Object.entries(all).filter(([, track]) => !isSilent(track)));
  const mix = sumOfTracks(Object.values(parts));
  return { name, source, mix, parts };
}

async function read(file: string): Promise<StereoTrack> {
  const decoded = await decodeFile(file);
  if (!decoded.ok) throw new Error(`${file} cannot be read`);
  const { channels } = decoded.value.signal;
  const cut = (samples: Float32Array) => Float32Array.from(samples.subarray(0, seconds * renderRate));
  return [cut(channels[0]!), cut(channels[1] ?? channels[0]!)];
}

/** Renders once and keeps the file. */
async function kept(name: string, make: (file: string) => Promise<void> | void): Promise<StereoTrack> {
  await mkdir(folder, { recursive: true });
  const file = path.join(folder, `${name}.wav`);
  if (!existsSync(file)) {
    const unfinished = path.join(folder, `${name}-${process.pid}.wav`);
    await make(unfinished);
    await rename(unfinished, file);
  }
  return read(file);
}

/** A song of the own generator, its drums taken apart by voice. */
export async function ownParts(style: string, seed: number): Promise<PartedPiece> {
  const song = styleSong(style, seed);
  const named = song.parts.flatMap((part): { name: LensPart; part: Part }[] => {
    if (part.sound !== "drums") return [{ name: part.name === "bass" ? "bass" : "music", part }];
    return drumParts.flatMap((name) => {
      const notes = part.notes.filter(({ voice }) => voice && partOfVoice[voice] === name);
      return notes.length > 0 ? [{ name, part: { ...part, notes } }] : [];
    });
  });
  const parts: PartedPiece["parts"] = {};
  for (const name of partNames) {
    const own = named.filter((one) => one.name === name).map(({ part }) => part);
    if (own.length === 0) continue;
    parts[name] = await kept(`own-${style.replaceAll(" ", "-")}-${seed}-${name}`, async (file) => {
      const tracks = await renderParts(own, seconds);
      const mix = mixDown(
        tracks,
        own.map((part) => part.mix),
        { driveDb: 0, ceilingDb: 100 },
      );
      await writeFile(file, writeWav(mix, renderRate));
    });
  }
  return summed(`${style} ${seed}`, "own", parts);
}

/** A MIDI piece, each part played by itself. */
export async function midiParts(piece: Piece, font: SoundFont): Promise<PartedPiece> {
  const bytes = await readFile(piece.file);
  // Programs stand at the beginning of their tracks, by and large: those first named hold.
  const programs = new Map<number, number>();
  for (const track of parseMidi(bytes).tracks)
    for (const event of track)
      if (event.type === "programChange" && !programs.has(event.channel))
        programs.set(event.channel, event.programNumber);
  const partOf = (channel: number, note: number): LensPart => {
    if (channel !== drumChannel) return isBassProgram(programs.get(channel) ?? 0) ? "bass" : "music";
    const voice = voiceOfNote(note);
    return voice ? partOfVoice[voice] : "percussion";
  };
  const parts: PartedPiece["parts"] = {};
  for (const name of partNames) {
    const base = `${path.basename(piece.file, ".mid")}-${font}-${name}`;
    parts[name] = await kept(base, async (file) => {
      const own = path.join(folder, `${base}.mid`);
      const isHeard = (channel: number, note: number) => partOf(channel, note) === name;
      await writeFile(own, partOfMidi(bytes, seconds, isHeard));
      await playByFont(font, own, file);
    });
  }
  return summed(piece.name, "midi", parts);
}

/** A tracker piece; its bass is not known, and counts as music. */
export async function trackerParts(piece: Piece): Promise<PartedPiece> {
  const { truth } = await playedTracker(piece);
  const samples = new Map<LensPart, Set<number>>();
  for (const { voice, sample } of truth.strokes) {
    if (voice === "bass") continue;
    const name = partOfVoice[voice];
    const own = samples.get(name) ?? new Set();
    own.add(Number(sample.split(".")[1]));
    samples.set(name, own);
  }
  const struck = new Set([...samples.values()].flatMap((own) => [...own]));
  samples.set("music", new Set(Array.from({ length: 256 }, (_, i) => i).filter((i) => !struck.has(i))));
  const parts: PartedPiece["parts"] = {};
  for (const [name, own] of samples) {
    parts[name] = await kept(`${piece.name.replace("/", "-")}-${name}`, (file) => {
      const base = file.replace(/\.wav$/, "");
      const arguments_ = ["bench/material/trackers.py", piece.file, base, [...own].join(",")];
      execFileSync("/usr/bin/python3", arguments_, { stdio: "inherit" });
    });
  }
  return summed(piece.name, "tracker", parts);
}

/**
 * Makers of pieces that nothing was fitted on: own songs, tracker pieces, MIDI pieces by three sound fonts by
 * turns.
 *
 * @param ofOthers most of each other source.
 */
export async function measuredPieces(
  styles: readonly string[],
  seed: number,
  ofOthers: number,
): Promise<(() => Promise<PartedPiece>)[]> {
  const measuring = <T extends { half: string }>(pieces: readonly T[]) =>
    pieces.filter(({ half }) => half === "measure").slice(0, ofOthers);
  return [
    ...styles.map((style) => () => ownParts(style, seed)),
    ...measuring(await trackerPieces()).map((piece) => () => trackerParts(piece)),
    ...measuring(await midiPieces()).map(
      (piece, i) => () => midiParts(piece, soundFontNames[i % soundFontNames.length]!),
    ),
  ];
}
