/**
 * The development songs: written, rendered, mixed and, where ffmpeg is installed, some of them
 * encoded. Made once and kept in `.cache/development-songs`.
 */
import { execFileSync } from "node:child_process";
import { existsSync } from "node:fs";
import { mkdir, rename, rm, writeFile } from "node:fs/promises";
import path from "node:path";
import { writeWav } from "@/core/formats/wav";
import { developmentMaster, makeSong } from "@/demo/makeSong";
import { styles, styleSong } from "@/demo/songs/styles";
import { truthOf, type SongTruth } from "@/demo/truth";

export interface DevelopmentSong {
  name: string;
  style: string;
  file: string;
  truth: SongTruth;
}

const folder = path.join(process.cwd(), ".cache", "development-songs");

const hasFfmpeg = (() => {
  try {
    execFileSync("ffmpeg", ["-version"], { stdio: "ignore" });
    return true;
  } catch {
    return false;
  }
})();

/** How the song of a seed is stored: most as 16-bit WAV, some encoded. */
function encodingOf(seed: number): { extension: string; options: string[] } | null {
  if (!hasFfmpeg) return null;
  return (
    {
      1: { extension: "mp3", options: ["-b:a", "160k"] },
      4: { extension: "ogg", options: ["-c:a", "libvorbis", "-q:a", "4"] },
    }[seed % 6] ?? null
  );
}

async function make(style: string, seed: number): Promise<DevelopmentSong> {
  const name = `${style.replaceAll(" ", "-")}-${seed}`;
  const encoding = encodingOf(seed);
  const file = path.join(folder, `${name}.${encoding?.extension ?? "wav"}`);
  const song = styleSong(style, seed);
  if (!existsSync(file)) {
    const signal = await makeSong(song, developmentMaster(seed));
    // Whole or not there: several processes may make it.
    const unfinished = path.join(folder, `${process.pid}-${name}`);
    const wav = `${unfinished}.wav`;
    await writeFile(wav, writeWav(signal.channels, signal.sampleRate));
    if (encoding) {
      const encoded = `${unfinished}.${encoding.extension}`;
      execFileSync("ffmpeg", ["-loglevel", "error", "-y", "-i", wav, ...encoding.options, encoded]);
      await rm(wav);
      await rename(encoded, file);
    } else await rename(wav, file);
  }
  return { name, style, file, truth: truthOf(song) };
}

/** Makes what is missing and lists all development songs, `seeds` of each style. */
export async function developmentSongs(
  seeds: readonly number[],
  only: readonly string[] = styles,
  onMade?: (name: string) => void,
): Promise<DevelopmentSong[]> {
  await mkdir(folder, { recursive: true });
  const songs: DevelopmentSong[] = [];
  for (const style of only) {
    for (const seed of seeds) {
      const song = await make(style, seed);
      onMade?.(song.name);
      songs.push(song);
    }
  }
  return songs;
}
