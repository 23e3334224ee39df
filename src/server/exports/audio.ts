/** Decoded samples for listening. */
import { eq } from "drizzle-orm";
import { addScaled } from "@/core/dsp/vector/sums";
import { packFrames, unpackFrames, type ListeningPart } from "@/core/formats/chunks";
import { lensParts, type LensPart } from "@/core/lens/parts";
import { refuse, success, type Outcome } from "@/core/outcome";
import { requestAgain } from "../jobs/queue";
import { compute } from "../jobs/threads";
import type { Database } from "../storage/database";
import { readChunk } from "../storage/listeningCopy";
import { isFileHash, lensPath, listeningPath } from "../storage/paths";
import { files } from "../storage/schema";
import { restoreListeningCopy } from "../storage/sweep";
import { liftKey } from "../study/keys";

/** A chunk of a file's samples. A lost copy is made again, and the refusal says so. */
export async function readAudio(
  db: Database,
  hash: string,
  chunk: number,
  part: ListeningPart,
): Promise<Outcome<Uint8Array<ArrayBuffer>>> {
  const notYet = () => refuse("not-found", "This file can't be played yet.");
  if (!isFileHash(hash)) return notYet();
  const [row] = await db.select({ hash: files.hash }).from(files).where(eq(files.hash, hash));
  if (!row) return notYet();
  const path = listeningPath(hash);
  if (typeof part !== "string") return readLens(hash, chunk, part);
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
