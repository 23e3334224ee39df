/** What is kept of the parts that the lens lifts out of files: their powers, and sound for listening. */
import { readdir, rm, stat } from "node:fs/promises";
import path from "node:path";
import { eq, inArray } from "drizzle-orm";
import { LRUCache } from "lru-cache";
import { z } from "zod";
import { drumParts, lensParts, ofDrumParts, ofLensParts, type LiftedTrack } from "@/core/lens";
import { crossPowerRange, decibelRange, lengthRange } from "@/core/ranges";
import { twelfthCount } from "@/core/tone";
import type { Database } from "./database";
import { isFileHash, listeningFolder } from "./paths";
import { lifts } from "./schema";

const strokeRange = z.number().min(0).max(10_000);
const mostStrokes = 200_000;

const resultSchema = z.object({
  free: z.object(ofLensParts(() => decibelRange.nullable())),
  strokeLengths: z.object(ofDrumParts(() => strokeRange.nullable())),
  /** Of each drum: how many strokes are kept. */
  strokes: z.object(ofDrumParts(() => z.number().int().min(0).max(mostStrokes))),
  hopSeconds: z.number().min(0.01).max(10),
  frames: z.number().int().min(1).max(100_000),
  steps: z.number().int().min(1).max(100_000),
  durationSeconds: lengthRange,
});

const { minValue, maxValue } = crossPowerRange;
/** Quicker than a schema over millions of numbers. */
const isInRange = (power: number) => power >= minValue! && power <= maxValue!;

/** @returns false, and nothing is stored, where a number is outside its range. */
export async function storeLift(
  db: Database,
  fileHash: string,
  key: string,
  { free, levels, spectrograms, strokeLengths, strokes, durationSeconds }: LiftedTrack,
): Promise<boolean> {
  const { hopSeconds, frames } = spectrograms[lensParts[0]];
  const size = frames * twelfthCount;
  const steps = levels[lensParts[0]].length;
  const ofPart = 3 * size + steps;
  const counts = ofDrumParts((part) => strokes[part].times.length);
  const ofStrokes = drumParts.reduce((sum, part) => sum + 2 * counts[part], 0);
  const all = new Float32Array(lensParts.length * ofPart + ofStrokes);
  lensParts.forEach((part, i) => {
    const { mid, side, cross } = spectrograms[part];
    [mid, side, cross, levels[part]].forEach((own, k) => all.set(own, i * ofPart + k * size));
  });
  let at = lensParts.length * ofPart;
  for (const part of drumParts)
    for (const own of [strokes[part].times, strokes[part].powers]) {
      all.set(own, at);
      at += own.length;
    }
  const parsed = resultSchema.safeParse({
    free,
    strokeLengths,
    strokes: counts,
    hopSeconds,
    frames,
    steps,
    durationSeconds,
  });
  if (!parsed.success || !all.every(isInRange)) {
    console.error(`the parts of ${fileHash} are out of range`);
    return false;
  }
  const row = {
    fileHash,
    key,
    result: parsed.data,
    powers: Buffer.from(all.buffer),
    createdAt: Date.now(),
  };
  await db.insert(lifts).values(row).onConflictDoUpdate({ target: lifts.fileHash, set: row });
  return true;
}

/** Those of some files that were taken apart under a key. */
export async function liftedFiles(
  db: Database,
  hashes: readonly string[],
  key: string,
): Promise<Set<string>> {
  if (hashes.length === 0) return new Set();
  const rows = await db
    .select({ hash: lifts.fileHash, key: lifts.key })
    .from(lifts)
    .where(inArray(lifts.fileHash, [...hashes]));
  return new Set(rows.flatMap((row) => (row.key === key ? [row.hash] : [])));
}

const shared = globalThis as { plainMirrorLifts?: LRUCache<string, LiftedTrack> };
const cache = () => (shared.plainMirrorLifts ??= new LRUCache({ max: 12 }));

/** What is kept of a file's parts; null where there is nothing that can be read. */
export async function loadLift(db: Database, fileHash: string): Promise<LiftedTrack | null> {
  const [stamp] = await db
    .select({ key: lifts.key, createdAt: lifts.createdAt })
    .from(lifts)
    .where(eq(lifts.fileHash, fileHash));
  if (!stamp) return null;
  const name = `${fileHash} ${stamp.key} ${stamp.createdAt}`;
  const known = cache().get(name);
  if (known) return known;
  const [row] = await db.select().from(lifts).where(eq(lifts.fileHash, fileHash));
  const parsed = row && resultSchema.safeParse(row.result);
  if (!row || !parsed?.success) return null;
  const { free, strokeLengths, strokes: counts, hopSeconds, frames, steps, durationSeconds } = parsed.data;
  const size = frames * twelfthCount;
  const bytes = Uint8Array.from(row.powers);
  const ofPart = 3 * size + steps;
  const ofStrokes = drumParts.reduce((sum, part) => sum + 2 * counts[part], 0);
  if (bytes.length !== 4 * (ofPart * lensParts.length + ofStrokes)) return null;
  let at = 0;
  const next = (length: number) => {
    at += 4 * length;
    return new Float32Array(bytes.buffer, at - 4 * length, length);
  };
  // In the order in which they are stored.
  const parts = ofLensParts(() => ({
    spectrogram: { hopSeconds, frames, mid: next(size), side: next(size), cross: next(size) },
    levels: next(steps),
  }));
  const lifted: LiftedTrack = {
    free,
    levels: ofLensParts((part) => parts[part].levels),
    spectrograms: ofLensParts((part) => parts[part].spectrogram),
    strokeLengths,
    strokes: ofDrumParts((part) => ({ times: next(counts[part]), powers: next(counts[part]) })),
    durationSeconds,
  };
  cache().set(name, lifted);
  return lifted;
}

/** Has a file taken apart anew, where what is kept of it cannot be read. */
export async function forgetLift(db: Database, fileHash: string): Promise<void> {
  await db.delete(lifts).where(eq(lifts.fileHash, fileHash));
}

/** A name in the listening folder as the file it is of, and the part; null where it is none. */
export function lensFileOf(name: string): { hash: string; part: string } | null {
  const [hash, part, ending] = name.split(".");
  const isPart = lensParts.some((own) => own === part);
  return hash && part && isPart && ending === "pcm" && isFileHash(hash) ? { hash, part } : null;
}

export async function removeLensFiles(hash: string): Promise<void> {
  for (const part of lensParts)
    await rm(path.join(listeningFolder(), `${hash}.${part}.pcm`), { force: true });
}

/** Files whose parts can be heard at once: others are taken apart again when they are asked for. */
const mostHeard = 12;

/** Removes the sound of those parts that were lifted longest ago. */
export async function thinLensFiles(): Promise<void> {
  const ages = new Map<string, number>();
  for (const name of await readdir(listeningFolder())) {
    const own = lensFileOf(name);
    if (!own) continue;
    const { mtimeMs } = await stat(path.join(listeningFolder(), name));
    ages.set(own.hash, Math.max(mtimeMs, ages.get(own.hash) ?? 0));
  }
  const old = [...ages].sort((a, b) => b[1] - a[1]).slice(mostHeard);
  for (const [hash] of old) await removeLensFiles(hash);
}
