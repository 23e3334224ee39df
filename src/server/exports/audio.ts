/** Decoded samples for listening. */
import { eq } from "drizzle-orm";
import {
  lensPartOf,
  packFrames,
  unpackFrames,
  type ListeningPart,
  type SeparatedPart,
} from "@/core/formats/chunks";
import type { LensPart } from "@/core/lens/parts";
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
  const lens = lensPartOf(part);
  if (lens) return readLens(hash, chunk, lens, part !== lens);
  try {
    return success(
      part === "whole"
        ? await readChunk(path, chunk)
        : await compute("readPart", { path, chunk, part: part as SeparatedPart }),
    );
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== "ENOENT") throw error;
    return (await restoreListeningCopy(db, hash))
      ? refuse("not-found", "Its playback copy was lost and is being made again.", "Try again in a moment.")
      : notYet();
  }
}

/** A chunk of what the lens lifts out of a file, or of all the rest; where it is not there it is lifted now. */
async function readLens(
  hash: string,
  chunk: number,
  part: LensPart,
  isRest: boolean,
): Promise<Outcome<Uint8Array<ArrayBuffer>>> {
  try {
    const lifted = await readChunk(lensPath(hash, part), chunk);
    if (!isRest) return success(lifted);
    const [own, whole] = [unpackFrames(lifted), unpackFrames(await readChunk(listeningPath(hash), chunk))];
    const rest = whole.map((samples, side) =>
      samples.map((x, i) => x - (own[side]![i] ?? 0)),
    ) as typeof whole;
    return success(packFrames(rest, 0, rest[0].length));
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== "ENOENT") throw error;
    await requestAgain("lift", hash, liftKey);
    return refuse("not-found", "This part is being lifted out of the mix.", "Try again in a moment.");
  }
}
