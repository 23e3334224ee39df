/** Decoded samples for listening. */
import { eq } from "drizzle-orm";
import type { ListeningPart } from "@/core/formats/chunks";
import { refuse, success, type Outcome } from "@/core/outcome";
import { compute } from "../jobs/threads";
import type { Database } from "../storage/database";
import { readChunk } from "../storage/listeningCopy";
import { isFileHash, listeningPath } from "../storage/paths";
import { files } from "../storage/schema";
import { restoreListeningCopy } from "../storage/sweep";

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
