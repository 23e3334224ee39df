/** Clears away what nobody refers to any more, on disk and in the database. */
import { readdir, rm, stat } from "node:fs/promises";
import path from "node:path";
import { and, eq, inArray, isNotNull, like, lt, notInArray, sql } from "drizzle-orm";
import { analysisVersion } from "@/core/analysis/result";
import { requestAgain } from "../jobs/queue";
import { analyseKey } from "../study/keys";
import { withFilesLock } from "../study/uploads";
import type { Database } from "./database";
import {
  filesFolder,
  incomingFolder,
  isFileHash,
  listeningFolder,
  listeningPath,
  originalPath,
} from "./paths";
import { lensFileOf, removeLensFiles } from "./lifts";
import { analyses, edits, files, items, jobs, studies } from "./schema";

/** How long what was removed can be brought back. */
export const keptDays = 7;

/** Removes for good: studies and items that were removed long ago, and files that nothing has any more. */
export async function clearAway(db: Database, now = Date.now()): Promise<void> {
  const before = now - keptDays * 86_400_000;
  await db.delete(studies).where(lt(studies.removedAt, before));
  await db.delete(items).where(lt(items.removedAt, before));
  await forgetUnusedFiles(db);
}

/** Removes a study that was deleted, at once and for good. */
export async function removeForGood(db: Database, studyId: string): Promise<boolean> {
  const gone = await db
    .delete(studies)
    .where(and(eq(studies.id, studyId), isNotNull(studies.removedAt)))
    .returning({ id: studies.id });
  await forgetUnusedFiles(db);
  return gone.length > 0;
}

/** Removes files that no item has, with everything known of them. */
export const forgetUnusedFiles = (db: Database): Promise<void> =>
  withFilesLock(async () => {
    const used = db.selectDistinct({ hash: items.fileHash }).from(items);
    const unused = await db.select({ hash: files.hash }).from(files).where(notInArray(files.hash, used));
    for (const { hash } of unused) {
      await db.batch([
        db.delete(jobs).where(eq(jobs.subject, hash)),
        db.delete(files).where(eq(files.hash, hash)),
      ]);
      await rm(originalPath(hash), { force: true });
      await rm(listeningPath(hash), { force: true });
      await removeLensFiles(hash);
    }
    await db
      .delete(jobs)
      .where(
        and(
          sql`${jobs.subject} NOT IN (SELECT hash FROM ${files})`,
          sql`substr(${jobs.subject} || '~', 1, instr(${jobs.subject} || '~', '~') - 1) NOT IN (SELECT id FROM ${items})`,
        ),
      );
  });

/** Items that an upload left behind when the server went down before it could show them. */
async function dropHalfAdded(db: Database): Promise<void> {
  const removed = await db
    .select({ id: items.id, studyId: items.studyId })
    .from(items)
    .where(isNotNull(items.removedAt));
  for (const { id, studyId } of removed) {
    const [mention] = await db
      .select({ id: edits.id })
      .from(edits)
      .where(and(eq(edits.studyId, studyId), like(edits.patch, `%${id}%`)))
      .limit(1);
    if (!mention) await db.delete(items).where(eq(items.id, id));
  }
}

const isThere = async (file: string): Promise<boolean> => {
  try {
    return (await stat(file)).isFile();
  } catch {
    return false;
  }
};

/** Strays on disk: uploads that never ended, files that the database does not know, halves of copies. */
async function sweepFolders(db: Database): Promise<void> {
  const known = new Set((await db.select({ hash: files.hash }).from(files)).map(({ hash }) => hash));
  for (const name of await readdir(incomingFolder()))
    await rm(path.join(incomingFolder(), name), { force: true });
  for (const name of await readdir(filesFolder())) {
    if (!isFileHash(name) || !known.has(name)) await rm(path.join(filesFolder(), name), { force: true });
  }
  for (const name of await readdir(listeningFolder())) {
    const hash = lensFileOf(name)?.hash ?? name.replace(/\.pcm$/, "");
    if (!isFileHash(hash) || !known.has(hash)) await rm(path.join(listeningFolder(), name), { force: true });
  }
}

/** Listening copies that were lost are made again from their originals. */
async function renderLostCopies(db: Database): Promise<void> {
  const analysed = await db
    .select({ hash: analyses.fileHash })
    .from(analyses)
    .where(eq(analyses.analysisVersion, analysisVersion));
  for (const { hash } of analysed) {
    if (!(await isThere(listeningPath(hash)))) await requestAgain("render", hash, analyseKey);
  }
}

/** To be called once at start, before anything else is begun. */
export async function sweepAtStart(db: Database): Promise<void> {
  await dropHalfAdded(db);
  await clearAway(db);
  await sweepFolders(db);
  await renderLostCopies(db);
}

/** Has the listening copy of an analysed file made again, where it was found missing. */
export async function restoreListeningCopy(db: Database, hash: string): Promise<boolean> {
  const [row] = await db
    .select({ hash: analyses.fileHash })
    .from(analyses)
    .where(inArray(analyses.fileHash, [hash]));
  if (!row) return false;
  await requestAgain("render", hash, analyseKey);
  return true;
}
