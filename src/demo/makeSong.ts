import type { Signal } from "@/core/audio/signal";
import { addNoise, mixDown, type MasterSettings } from "./mix";
import { chance } from "./random";
import { renderParts, renderRate } from "./render";
import { barsOf, straightTimeOf, type Song } from "./song";

/** Seconds of a song with the last notes ringing out. */
export const secondsOf = (song: Song): number => straightTimeOf(song, barsOf(song) * song.beatsPerBar) + 1.5;

/** Renders and mixes a whole song as its parts ask for. */
export async function makeSong(song: Song, master: MasterSettings): Promise<Signal> {
  const tracks = await renderParts(song.parts, secondsOf(song));
  const mix = mixDown(
    tracks,
    song.parts.map((part) => part.mix),
    master,
  );
  if (master.noiseDb !== undefined) addNoise(mix, master.noiseDb, chance(song.seed + 1).next);
  return { sampleRate: renderRate, channels: mix, layout: ["left", "right"] };
}

/** A master treatment that varies with the seed: from open to hard-limited, some with noise. */
export function developmentMaster(seed: number): MasterSettings {
  const c = chance(seed * 31 + 5);
  return {
    driveDb: c.between(4, 16),
    ceilingDb: c.pick([-0.1, -0.5, -1]),
    tiltDb: c.between(-2, 2.5),
    ...(c.next() < 0.25 ? { noiseDb: c.between(-60, -45) } : {}),
  };
}
