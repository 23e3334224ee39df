/** Development songs with moments written into them, kept in `.cache/moment-songs`. */
import { existsSync } from "node:fs";
import { mkdir, writeFile } from "node:fs/promises";
import path from "node:path";
import { writeWav } from "@/core/formats/wav";
import { developmentMaster } from "@/demo/makeSong";
import { addMoments, mixWithMoments, momentsIn, type SongMoment } from "@/demo/moments";
import { renderRate } from "@/demo/render";
import { styleSong } from "@/demo/songs/styles";
import { truthOf } from "@/demo/truth";
import type { DevelopmentSong } from "./songs";

export interface MomentSong extends DevelopmentSong {
  moments: SongMoment[];
}

const folder = path.join(process.cwd(), ".cache", "moment-songs");

export async function momentSong(style: string, seed: number): Promise<MomentSong> {
  await mkdir(folder, { recursive: true });
  const name = `${style.replaceAll(" ", "-")}-${seed}-moments`;
  const file = path.join(folder, `${name}.wav`);
  const song = styleSong(style, seed);
  const added = addMoments(song);
  if (!existsSync(file)) {
    await writeFile(file, writeWav(await mixWithMoments(song, added, developmentMaster(seed)), renderRate));
  }
  return { name, style, file, truth: truthOf(song), moments: momentsIn(song, added) };
}
