/** Development songs with what is heard in them, kept so that a fit or an experiment need not listen again. */
import { existsSync } from "node:fs";
import { mkdir, readFile, writeFile } from "node:fs/promises";
import path from "node:path";
import { deserialize, serialize } from "node:v8";
import { analyse } from "@/core/analysis/analyse";
import type { TrackAnalysis, TrackCurves } from "@/core/analysis/result";
import { styles } from "@/demo/songs/styles";
import { decodeFile } from "@/server/decoding/decode";
import { developmentSongs, type DevelopmentSong } from "./songs";

export interface HeardSong {
  song: DevelopmentSong;
  analysis: TrackAnalysis;
  curves: TrackCurves;
}

/** Emptied by hand where the curves of an analysis have changed. */
const folder = path.join(process.cwd(), ".cache", "heard");

export async function hear(song: DevelopmentSong): Promise<HeardSong> {
  await mkdir(folder, { recursive: true });
  const file = path.join(folder, `${song.name}.bin`);
  if (!existsSync(file)) {
    const decoded = await decodeFile(song.file);
    if (!decoded.ok) throw new Error(`${song.file}: ${decoded.refusal.sentence}`);
    await writeFile(file, serialize(await analyse(decoded.value.signal)));
  }
  return { song, ...(deserialize(await readFile(file)) as Omit<HeardSong, "song">) };
}

/** Songs of some seeds of each style, one after the other: their curves together would fill the memory. */
export async function* heardSongs(
  seeds: readonly number[],
  only: readonly string[] = styles,
): AsyncGenerator<HeardSong> {
  await mkdir(folder, { recursive: true });
  for (const style of only) {
    for (const seed of seeds) {
      const [song] = await developmentSongs([seed], [style]);
      yield await hear(song!);
    }
  }
}
