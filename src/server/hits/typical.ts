/** Typical hits of a track: measured when they are asked for, and as files to save. */
import { createHash } from "node:crypto";
import { LRUCache } from "lru-cache";
import { analysisVersion } from "@/core/analysis/result";
import { writeWav } from "@/core/formats/wav";
import { pitchName } from "@/core/harmony/notes";
import type { MeasuredHit } from "@/core/hits";
import { leftOutOf } from "@/core/hits/correction";
import { refuse, success, type Outcome } from "@/core/outcome";
import { noteOf, outlineOf, type HitsAnswer } from "@/models/hits";
import type { SavedFile } from "../http";
import { compute } from "../jobs/threads";
import type { Database } from "../storage/database";
import { listeningPath } from "../storage/paths";
import { restoreListeningCopy } from "../storage/sweep";
import { itemIsGone, readItem } from "../study/items";

/** Tracks whose hits are kept at hand: some megabytes each. */
const kept = new LRUCache<string, Promise<MeasuredHit[]>>({ max: 12 });

export const hitName = ({ hit: { voice, kind } }: MeasuredHit): string => `${voice}-${kind + 1}`;

export const copyIsComing = () =>
  refuse("not-found", "Its playback copy was lost and is being made again.", "Try again in a moment.");

/** The hits as they count now; the same hits are averaged once. */
export async function hitsOf(db: Database, itemId: string) {
  const found = await readItem(db, itemId);
  if (!found) return itemIsGone();
  const { item, drums, sampleRate, bassNotes } = found;
  const { hash } = item.file;
  const struck = drums.hits;
  const leftOut = [
    ...leftOutOf(
      item.corrections.hits,
      struck.map(({ time }) => time),
    ),
  ];
  const key = createHash("sha256")
    .update(JSON.stringify([analysisVersion, hash, struck, bassNotes, leftOut]))
    .digest("hex");
  let work = kept.get(key);
  if (!work) {
    work = compute("hits", { path: listeningPath(hash), sampleRate, struck, bassStarts: bassNotes, leftOut });
    kept.set(key, work);
    work.catch(() => kept.delete(key));
  }
  try {
    return success({ hits: await work, key, found, leftOut: new Set(leftOut) });
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== "ENOENT") throw error;
    await restoreListeningCopy(db, hash);
    return copyIsComing();
  }
}

/** What the Hits view shows of a track. */
export async function readHits(db: Database, itemId: string): Promise<Outcome<HitsAnswer>> {
  const found = await hitsOf(db, itemId);
  if (!found.ok) return found;
  const { hits, found: item, leftOut } = found.value;
  return success({
    hits: hits.map((own) => {
      const { voice, kind, count, used, clean, known, rate, samples } = own.hit;
      const entered = new Set(used);
      const strokes = item.drums.hits.filter((hit) => hit.voice === voice && (hit.kind ?? 0) === kind);
      return {
        name: hitName(own),
        voice,
        count,
        used: used.length,
        clean,
        known,
        measures: own.measures,
        outline: outlineOf(samples, rate),
        strokes: strokes.map(({ time, velocity }) => [
          Math.round(1e5 * time) / 1e5,
          Math.round(1000 * velocity) / 1000,
          leftOut.has(time) ? 2 : entered.has(time) ? 1 : 0,
        ]),
      };
    }),
  });
}

/** A typical hit as 24-bit WAV, named by study, voice and note. */
export async function exportHit(db: Database, itemId: string, name: string): Promise<Outcome<SavedFile>> {
  const found = await hitsOf(db, itemId);
  if (!found.ok) return found;
  const own = found.value.hits.find((hit) => hitName(hit) === name);
  if (!own) return refuse("not-found", "This track has no such hit.");
  const { samples, rate } = own.hit;
  const { fundamentalHz } = own.measures;
  const note = fundamentalHz === null ? "" : ` ${pitchName(noteOf(fundamentalHz).midi)}`;
  return success({
    name: `${found.value.found.study.title} ${name}${note}.wav`,
    type: "audio/wav",
    bytes: writeWav(samples, rate, "int24"),
  });
}
