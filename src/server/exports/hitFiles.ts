/** Typical hits of a track: measured when they are asked for, and as files to save. */
import { createHash } from "node:crypto";
import { LRUCache } from "lru-cache";
import { analysisVersion } from "@/core/analysis/result";
import { writeWav } from "@/core/formats/wav";
import { pitchName } from "@/core/harmony/notes";
import type { MeasuredHit } from "@/core/hits";
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

/** The hits as they count now; the same hits are averaged once. */
async function hitsOf(db: Database, itemId: string) {
  const found = await readItem(db, itemId);
  if (!found) return itemIsGone();
  const { item, drums, sampleRate, bassNotes, study } = found;
  const { hash } = item.file;
  const struck = drums.hits;
  const key = createHash("sha256")
    .update(JSON.stringify([analysisVersion, hash, struck, bassNotes]))
    .digest("hex");
  let work = kept.get(key);
  if (!work) {
    work = compute("hits", { path: listeningPath(hash), sampleRate, struck, bassStarts: bassNotes });
    kept.set(key, work);
    work.catch(() => kept.delete(key));
  }
  try {
    return success({ hits: await work, title: study.title });
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== "ENOENT") throw error;
    await restoreListeningCopy(db, hash);
    return refuse(
      "not-found",
      "Its playback copy was lost and is being made again.",
      "Try again in a moment.",
    );
  }
}

/** What the Hits view shows of a track. */
export async function readHits(db: Database, itemId: string): Promise<Outcome<HitsAnswer>> {
  const found = await hitsOf(db, itemId);
  if (!found.ok) return found;
  return success({
    hits: found.value.hits.map((own) => {
      const { voice, count, used, clean, known, rate, samples } = own.hit;
      return {
        name: hitName(own),
        voice,
        count,
        used: used.length,
        clean,
        known,
        measures: own.measures,
        outline: outlineOf(samples, rate),
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
    name: `${found.value.title} ${name}${note}.wav`,
    type: "audio/wav",
    bytes: writeWav(samples, rate, "int24"),
  });
}
