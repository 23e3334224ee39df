/** From a request's body to a stored file: streamed to disk, hashed on the way, looked at, kept. */
import { createHash } from "node:crypto";
import { createWriteStream } from "node:fs";
import { rename, rm } from "node:fs/promises";
import path from "node:path";
import { Readable, Transform } from "node:stream";
import { pipeline } from "node:stream/promises";
import type { ReadableStream as NodeReadableStream } from "node:stream/web";
import { and, eq, notExists, sql } from "drizzle-orm";
import { limits } from "@/core/formats/limits";
import { refuse, type Outcome } from "@/core/outcome";
import type { Database } from "./database";
import { newId } from "./identifier";
import { incomingFolder, originalPath, listeningPath } from "./places";
import { cancelAnalysis, inspectInWorker } from "./queue";
import { analyses, curves, files, jobs, stems, tracks } from "./schema";

class TooLarge extends Error {}

export type StoredFile = typeof files.$inferSelect;

const shared = globalThis as { plainMirrorFilesLock?: Promise<unknown> };

/** Lets only one at a time give a file to a study or clear away files that no study has. */
function alone<T>(work: () => Promise<T>): Promise<T> {
  const turn = (shared.plainMirrorFilesLock ?? Promise.resolve()).then(work);
  shared.plainMirrorFilesLock = turn.catch(() => undefined);
  return turn;
}

/**
 * Stores the body of a request as a file and hands its row, old or new, to `give`, which ties it to
 * a study. Nothing stays behind where the file or its place is refused.
 */
export async function takeIn<T>(
  db: Database,
  body: ReadableStream<Uint8Array> | null,
  declaredBytes: number | null,
  give: (file: StoredFile) => Promise<Outcome<T>>,
): Promise<Outcome<T>> {
  const tooLarge = () =>
    refuse(
      "too-large",
      `This file is larger than the limit of ${limits.largestBytes / 1048576} MB.`,
      "Bring a shorter part, or FLAC instead of WAV.",
    );
  if (declaredBytes !== null && declaredBytes > limits.largestBytes) return tooLarge();
  if (!body) return refuse("no-samples", "This file is empty.");

  const arriving = path.join(incomingFolder(), newId());
  const digest = createHash("sha256");
  let bytes = 0;
  try {
    const measure = new Transform({
      transform(chunk: Buffer, _encoding, done) {
        bytes += chunk.length;
        if (bytes > limits.largestBytes) return done(new TooLarge());
        digest.update(chunk);
        done(null, chunk);
      },
    });
    try {
      await pipeline(
        Readable.fromWeb(body as unknown as NodeReadableStream<Uint8Array>),
        measure,
        createWriteStream(arriving),
      );
    } catch (error) {
      if (error instanceof TooLarge) return tooLarge();
      return refuse(
        "cut-off-upload",
        "The upload broke off before the whole file had arrived.",
        "Drop the file again.",
      );
    }
    if (declaredBytes !== null && bytes < declaredBytes) {
      return refuse(
        "cut-off-upload",
        "The upload broke off before the whole file had arrived.",
        "Drop the file again.",
      );
    }
    const hash = digest.digest("hex");
    const isKnown = async () => (await db.select().from(files).where(eq(files.hash, hash)))[0];
    const inspected = (await isKnown()) ? null : await inspectInWorker(arriving);
    if (inspected && !inspected.ok) return inspected;
    return await alone(async () => {
      let file = await isKnown();
      if (!file) {
        const found = inspected ?? (await inspectInWorker(arriving));
        if (!found.ok) return found;
        await rename(arriving, originalPath(hash));
        [file] = await db
          .insert(files)
          .values({ hash, bytes, ...found.value })
          .returning();
      }
      const given = await give(file!);
      if (!given.ok) await forgetUnused(db);
      return given;
    });
  } finally {
    await rm(arriving, { force: true });
  }
}

/** Removes files that no study uses any more, with everything known of them. */
export const forgetUnusedFiles = (db: Database): Promise<void> => alone(() => forgetUnused(db));

async function forgetUnused(db: Database): Promise<void> {
  const unused = await db
    .select({ hash: files.hash })
    .from(files)
    .where(
      and(
        notExists(
          db
            .select({ one: sql`1` })
            .from(tracks)
            .where(eq(tracks.fileHash, files.hash)),
        ),
        notExists(
          db
            .select({ one: sql`1` })
            .from(stems)
            .where(eq(stems.fileHash, files.hash)),
        ),
      ),
    );
  for (const { hash } of unused) {
    await cancelAnalysis(hash);
    await db.batch([
      db.delete(curves).where(eq(curves.fileHash, hash)),
      db.delete(analyses).where(eq(analyses.fileHash, hash)),
      db.delete(jobs).where(eq(jobs.fileHash, hash)),
      db.delete(files).where(eq(files.hash, hash)),
    ]);
    await rm(originalPath(hash), { force: true });
    await rm(listeningPath(hash), { force: true });
  }
}
