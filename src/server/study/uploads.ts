/** From a request's body to an item of a study: streamed to disk, hashed on the way, looked through, kept. */
import { createHash } from "node:crypto";
import { createWriteStream } from "node:fs";
import { rename, rm, stat } from "node:fs/promises";
import path from "node:path";
import { Readable, Transform } from "node:stream";
import { pipeline } from "node:stream/promises";
import type { ReadableStream as NodeReadableStream } from "node:stream/web";
import { and, eq, isNull } from "drizzle-orm";
import { diff } from "@/core/edits/patch";
import { withoutExtension } from "@/core/formats/fileNames";
import { limits, tooShort } from "@/core/formats/limits";
import { defaultAspectWeights, defaultElementWeight } from "@/core/match";
import { refuse, success, type Outcome } from "@/core/outcome";
import { inspectionPool } from "../jobs/processes";
import { requestAgain, studyChanged, studyChangedSoon } from "../jobs/queue";
import type { Database } from "../storage/database";
import { newId } from "../storage/identifier";
import { incomingFolder, originalPath } from "../storage/paths";
import { elements, files, itemRoles, items, jobs, studies } from "../storage/schema";
import { storageTroubleIn } from "../storage/trouble";
import { mayBeLoop, proposedElements } from "@/core/study";
import { applyEdits, inTurn, studyIsGone, type AppliedEdit } from "./edit";
import { analyseKey } from "./keys";

class TooLarge extends Error {}

type StoredFile = typeof files.$inferSelect;

/** A file on its way in. */
export interface Upload {
  body: ReadableStream<Uint8Array> | null;
  /** Length that the sender announced, where it did. */
  bytes: number | null;
  fileName: string;
  note: string;
  /** Of a file that another program writes: whether it was left alone while it was read. Only whole ones are taken. */
  wasLeftAlone?(): Promise<boolean>;
}

/** What an upload became. */
export interface AddedItem {
  studyId: string;
  itemId: string;
  /** 0 for the reference; null for stems. */
  number: number | null;
  /** Set where the same file was there already: nothing was added. */
  recognised?: string;
  /** By which it can be undone. */
  edit?: AppliedEdit;
}

const shared = globalThis as { plainMirrorFilesLock?: Promise<unknown> };

/** Lets only one at a time give a file to a study or clear away files that no study has. */
export function withFilesLock<T>(work: () => Promise<T>): Promise<T> {
  const turn = (shared.plainMirrorFilesLock ?? Promise.resolve()).then(work);
  shared.plainMirrorFilesLock = turn.catch(() => undefined);
  return turn;
}

const brokenOff = () =>
  refuse("cut-off-upload", "The upload broke off before the whole file had arrived.", "Drop the file again.");

const unfinished = () =>
  refuse(
    "unfinished",
    "This file looks unfinished: its end is missing, or its header does not say where it is.",
    "It is taken as soon as it is whole.",
  );

const tooLarge = (most: number) =>
  refuse(
    "too-large",
    `This file is larger than the limit of ${Math.round(most / 1048576)} MB.`,
    "Upload a shorter part, or FLAC instead of WAV.",
  );

/** Streams a body to a new file; gives its size and hash. */
export async function receive(
  { body, bytes: declared }: Pick<Upload, "body" | "bytes">,
  arriving: string,
  most: number = limits.largestBytes,
): Promise<Outcome<{ bytes: number; hash: string }>> {
  if (declared !== null && declared > most) return tooLarge(most);
  if (!body) return refuse("no-samples", "This file is empty.");
  const digest = createHash("sha256");
  let bytes = 0;
  const measure = new Transform({
    transform(chunk: Buffer, _encoding, done) {
      bytes += chunk.length;
      if (bytes > most) return done(new TooLarge());
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
    if (error instanceof TooLarge) return tooLarge(most);
    const trouble = storageTroubleIn(error);
    if (trouble) throw trouble;
    return brokenOff();
  }
  if (declared !== null && bytes < declared) return brokenOff();
  return success({ bytes, hash: digest.digest("hex") });
}

const isThere = async (file: string): Promise<boolean> => {
  try {
    return (await stat(file)).isFile();
  } catch {
    return false;
  }
};

/**
 * Stores the body of a request as a file and hands its row, old or new, to `give`, which ties it to
 * a study. Nothing stays behind where the file or what it is for is refused.
 */
export async function takeIn<T>(
  db: Database,
  upload: Pick<Upload, "body" | "bytes" | "wasLeftAlone">,
  shortestSeconds: number,
  give: (file: StoredFile) => Promise<Outcome<T>>,
): Promise<Outcome<T>> {
  const arriving = path.join(incomingFolder(), newId());
  try {
    const received = await receive(upload, arriving);
    if (!received.ok) return received;
    const { bytes, hash } = received.value;
    if (upload.wasLeftAlone && !(await upload.wasLeftAlone())) return unfinished();
    const known = async () => (await db.select().from(files).where(eq(files.hash, hash)))[0];
    const inspect = (file: string) => inspectionPool().run("inspect", { path: file, shortestSeconds });
    const inspected = (await known()) ? null : await inspect(arriving);
    if (inspected && !inspected.ok) return inspected;
    if (upload.wasLeftAlone && inspected && !inspected.value.isWhole) return unfinished();
    return await withFilesLock(async () => {
      let file = await known();
      // A known file whose original was lost takes its place again.
      const isRestored = file !== undefined && !(await isThere(originalPath(hash)));
      if (!file || isRestored) await rename(arriving, originalPath(hash));
      if (!file) {
        const found = inspected ?? (await inspect(originalPath(hash)));
        if (!found.ok) {
          await rm(originalPath(hash), { force: true });
          return found;
        }
        const { durationSeconds, format, sampleRate, channels, warnings, tags } = found.value;
        [file] = await db
          .insert(files)
          .values({ hash, bytes, durationSeconds, format, sampleRate, channels, warnings, tags })
          .returning();
      }
      // A one-shot that is known already is no track.
      const given =
        file!.durationSeconds < shortestSeconds
          ? tooShort(file!.durationSeconds, shortestSeconds)
          : await give(file!);
      if (!given.ok) await forgetIfUnused(db, hash);
      else if (isRestored && mayBeLoop(file!)) await requestAgain("analyse", hash, analyseKey);
      return given;
    });
  } finally {
    await rm(arriving, { force: true });
  }
}

/** Forgets a file that no item has. */
async function forgetIfUnused(db: Database, hash: string): Promise<void> {
  const [used] = await db.select({ id: items.id }).from(items).where(eq(items.fileHash, hash)).limit(1);
  if (used) return;
  await db.delete(files).where(eq(files.hash, hash));
  await db.delete(jobs).where(eq(jobs.subject, hash));
  await rm(originalPath(hash), { force: true });
}

/** The statements that make a study with the proposed elements. */
const newStudy = (db: Database, id: string, title: string) =>
  [
    db.insert(studies).values({ id, title, aspectWeights: defaultAspectWeights }),
    db.insert(elements).values(
      proposedElements.map((own, position) => ({
        ...own,
        id: newId(),
        studyId: id,
        weight: defaultElementWeight,
        position,
      })),
    ),
  ] as const;

/** Makes an empty study with the proposed elements. */
export async function createStudy(db: Database, title: string): Promise<string> {
  const id = newId();
  await db.batch([...newStudy(db, id, title)]);
  await studyChanged(id);
  return id;
}

const titleFrom = (fileName: string): string =>
  withoutExtension(fileName).replace(/[_]+/g, " ").trim().slice(0, 120) || "Untitled study";

/** The analysis of a file is asked for with the item that brings it: both or neither. */
const analysisJob = (db: Database, hash: string) =>
  db
    .insert(jobs)
    .values({ kind: "analyse", subject: hash, key: analyseKey, state: "queued" })
    .onConflictDoNothing();

/** Makes a study around an uploaded reference; no study is left where the file is refused. */
export function createStudyFrom(db: Database, upload: Upload): Promise<Outcome<AddedItem>> {
  return takeIn<AddedItem>(db, upload, limits.shortestSeconds, async (file) => {
    const studyId = newId();
    const itemId = newId();
    const tags = file.tags as { title?: string };
    await db.batch([
      ...newStudy(db, studyId, (tags.title ?? titleFrom(upload.fileName)).slice(0, 120)),
      db.insert(items).values({
        id: itemId,
        studyId,
        role: "reference",
        number: 0,
        fileHash: file.hash,
        fileName: upload.fileName,
        note: upload.note,
      }),
      analysisJob(db, file.hash),
    ]);
    studyChangedSoon(studyId);
    return success({ studyId, itemId, number: 0 });
  });
}

export type UploadRole = (typeof itemRoles)[number];

const namesOfRoles: Record<UploadRole, string> = {
  reference: "the reference",
  version: "a version",
  stem: "a stem",
  candidate: "a candidate",
  yardstick: "a track of the yardstick",
};

const addedAs = { stem: "Stem", candidate: "Candidate", yardstick: "Yardstick track" } as const;

/**
 * Adds a file to a study as its reference (in place of the old one), as a new version, as a stem
 * of a track, as a sound offered for its drums, or as a track of its yardstick. What was added can be undone like any other edit.
 */
export function addItem(
  db: Database,
  studyId: string,
  role: UploadRole,
  upload: Upload,
  parentId: string | null = null,
): Promise<Outcome<AddedItem>> {
  const shortest = role === "candidate" ? limits.shortestSoundSeconds : limits.shortestSeconds;
  return takeIn<AddedItem>(db, upload, shortest, (file) =>
    inTurn(`upload ${studyId}`, async () => {
      const [study] = await db
        .select()
        .from(studies)
        .where(and(eq(studies.id, studyId), isNull(studies.removedAt)));
      if (!study) return studyIsGone();
      const all = await db
        .select()
        .from(items)
        .where(and(eq(items.studyId, studyId), isNull(items.removedAt)));
      if (
        role === "stem" &&
        !all.some(({ id, role: own }) => id === parentId && (own === "reference" || own === "version"))
      )
        return refuse("not-found", "The track of this stem is not here any more.");
      const same = all.find(
        (own) => own.role === role && own.fileHash === file.hash && own.parentId === parentId,
      );
      if (same) {
        const name = same.number ? `version ${same.number}` : namesOfRoles[role];
        studyChangedSoon(studyId);
        return success({
          studyId,
          itemId: same.id,
          number: same.number,
          recognised: `This file is already here as ${name}. Nothing was added.`,
        });
      }
      const itemId = newId();
      const number = role === "reference" ? 0 : role === "version" ? study.nextNumber : null;
      // Added as removed, then shown by an edit: so that undoing the edit removes it again.
      await db.batch([
        db.insert(items).values({
          id: itemId,
          studyId,
          role,
          parentId,
          number,
          fileHash: file.hash,
          fileName: upload.fileName,
          note: upload.note,
          removedAt: Date.now(),
        }),
        ...(role !== "candidate" || mayBeLoop(file) ? [analysisJob(db, file.hash)] : []),
        db
          .update(studies)
          .set({ nextNumber: study.nextNumber + (role === "version" ? 1 : 0) })
          .where(eq(studies.id, studyId)),
      ]);
      const replaced = role === "reference" ? all.filter((own) => own.role === "reference") : [];
      const patch = [
        ...replaced.flatMap(({ id }) => diff(false, true, ["items", id, "removed"])),
        ...diff(true, false, ["items", itemId, "removed"]),
      ];
      const label =
        role === "version"
          ? `Version ${number} added`
          : role === "stem" || role === "candidate" || role === "yardstick"
            ? `${addedAs[role]} “${upload.fileName}” added`
            : replaced.length > 0
              ? "Reference replaced"
              : "Reference added";
      const edit = await applyEdits(db, studyId, [{ label, patch }]);
      if (!edit.ok) {
        await db.delete(items).where(eq(items.id, itemId));
        return edit;
      }
      studyChangedSoon(studyId);
      return success({ studyId, itemId, number, edit: edit.value[0] });
    }),
  );
}
