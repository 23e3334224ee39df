/** Decoded samples for listening. */
import { and, eq, isNull } from "drizzle-orm";
import { addScaled } from "@/core/dsp/vector/sums";
import {
  framesPerChunk,
  packFrames,
  unpackFrames,
  type ListeningPart,
  type StemsOfElement,
} from "@/core/formats/chunks";
import { lensParts, type LensPart } from "@/core/lens/parts";
import { refuse, success, type Outcome } from "@/core/outcome";
import { offsetOf } from "@/core/study";
import { decibelsToAmplitude } from "@/core/units";
import { requestAgain } from "../jobs/queue";
import { compute } from "../jobs/threads";
import type { Database } from "../storage/database";
import { derivedKinds, loadDerived } from "../storage/derived";
import { readChunk } from "../storage/listeningCopy";
import { passageOf } from "../storage/passages";
import { isFileHash, lensPath, listeningPath } from "../storage/paths";
import { files, items } from "../storage/schema";
import { restoreListeningCopy } from "../storage/sweep";
import { liftKey } from "../study/keys";
import { stemOffsetSchema } from "../study/record";

/** A chunk of a file's samples. A lost copy is made again, and the refusal says so. */
export async function readAudio(
  db: Database,
  hash: string,
  chunk: number,
  part: ListeningPart,
): Promise<Outcome<Uint8Array<ArrayBuffer>>> {
  const notYet = () => refuse("not-found", "This file can't be played yet.");
  if (!isFileHash(hash)) return notYet();
  const [row] = await db
    .select({ hash: files.hash, sampleRate: files.sampleRate, durationSeconds: files.durationSeconds })
    .from(files)
    .where(eq(files.hash, hash));
  if (!row) return notYet();
  const path = listeningPath(hash);
  if (typeof part !== "string")
    return "elementId" in part ? readStems(db, row, chunk, part) : readLens(hash, chunk, part);
  try {
    return success(
      part === "whole" ? await readChunk(path, chunk) : await compute("readPart", { path, chunk, part }),
    );
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== "ENOENT") throw error;
    return (await restoreListeningCopy(db, hash))
      ? refuse("not-found", "Its playback copy was lost and is being made again.", "Try again in a moment.")
      : notYet();
  }
}

/** A chunk of the stems of an element, together, in place of the track that has them. */
async function readStems(
  db: Database,
  track: { sampleRate: number; durationSeconds: number },
  chunk: number,
  { trackId, elementId }: StemsOfElement,
): Promise<Outcome<Uint8Array<ArrayBuffer>>> {
  const rows = await db
    .select({
      id: items.id,
      hash: files.hash,
      sampleRate: files.sampleRate,
      measuredOffset: items.measuredOffset,
      offsetSeconds: items.offsetSeconds,
    })
    .from(items)
    .innerJoin(files, eq(files.hash, items.fileHash))
    .where(and(eq(items.parentId, trackId), eq(items.elementId, elementId), isNull(items.removedAt)));
  const gains = (await loadDerived(db, derivedKinds.sumStems, [trackId])).get(trackId)?.value.gainsDb;
  const rate = track.sampleRate;
  const from = chunk * framesPerChunk;
  const to = Math.min(from + framesPerChunk, Math.round(track.durationSeconds * rate));
  if (to <= from) return success(new Uint8Array());
  const sum: [Float32Array, Float32Array] = [new Float32Array(to - from), new Float32Array(to - from)];
  for (const stem of rows) {
    const measured = stemOffsetSchema.safeParse(stem.measuredOffset);
    const offset = offsetOf({ ...stem, measuredOffset: measured.data ?? null });
    if (offset === null) continue;
    try {
      const read = passageOf(
        listeningPath(stem.hash),
        stem.sampleRate,
        Math.round(offset * stem.sampleRate),
        rate,
      );
      const own = await read(from, to);
      const gain = decibelsToAmplitude(gains?.[stem.id] ?? 0);
      sum.forEach((samples, side) => addScaled(samples, own[side]!, gain));
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== "ENOENT") throw error;
      await restoreListeningCopy(db, stem.hash);
      return refuse(
        "not-found",
        "The playback copy of this stem is being made again.",
        "Try again in a moment.",
      );
    }
  }
  return success(packFrames(sum, 0, to - from));
}

/** A chunk of parts that the lens lifts out of a file, together; where they are not there they are lifted now. */
async function readLens(
  hash: string,
  chunk: number,
  parts: readonly LensPart[],
): Promise<Outcome<Uint8Array<ArrayBuffer>>> {
  try {
    const [only] = parts;
    if (only && parts.length === 1) return success(await readChunk(lensPath(hash, only), chunk));
    const whole = unpackFrames(await readChunk(listeningPath(hash), chunk));
    // Of many parts, those that are left out are taken away instead: all of them add up to the whole.
    const others = lensParts.filter((part) => !parts.includes(part));
    const takesAway = others.length < parts.length;
    if (!takesAway) for (const samples of whole) samples.fill(0);
    for (const part of takesAway ? others : parts) {
      const own = unpackFrames(await readChunk(lensPath(hash, part), chunk));
      whole.forEach((samples, side) => addScaled(samples, own[side]!, takesAway ? -1 : 1));
    }
    return success(packFrames(whole, 0, whole[0].length));
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== "ENOENT") throw error;
    await requestAgain("lift", hash, liftKey);
    return refuse("not-found", "This part is being lifted out of the mix.", "Try again in a moment.");
  }
}
