/**
 * Opens an archive: a new study with everything of the one that it was made of. What was measured is
 * worked out anew from the originals, so nothing in an archive is believed that can be measured.
 */
import { rm } from "node:fs/promises";
import path from "node:path";
import { Readable } from "node:stream";
import { text } from "node:stream/consumers";
import { eq } from "drizzle-orm";
import { openPromise, type Entry, type ZipFile } from "yauzl";
import { limits } from "@/core/formats/limits";
import { defaultAspectWeights } from "@/core/match";
import { refuse, success, type Outcome } from "@/core/outcome";
import { readArchive, type Archive } from "@/core/study";
import { descriptionName } from "../exports/archive";
import { studyChanged } from "../jobs/queue";
import type { Database } from "../storage/database";
import { newId } from "../storage/identifier";
import { incomingFolder } from "../storage/paths";
import { edits as editsTable, items as itemsTable, studies } from "../storage/schema";
import { forgetUnusedFiles } from "../storage/sweep";
import { checked, fullDocument, writing, type Statement } from "./document";
import { loadStudy } from "./record";
import { stillArriving } from "./summary";
import { receive, takeIn, type AddedItem, type Upload } from "./uploads";

const longestDescription = 256 * 1024 ** 2;
const mostEntries = 20_000;

const damaged = (why: string) =>
  refuse(
    "damaged",
    `This archive can't be opened: ${why}.`,
    "Save the study once more, then open that file.",
  );

/** A zip file whose entries have been read. */
interface Opened {
  zip: ZipFile;
  entries: Map<string, Entry>;
}

/** Opens a zip file and reads its directory; null where it is none. */
async function openZip(file: string): Promise<Opened | null> {
  const zip = await openPromise(file, { autoClose: false }).catch(() => null);
  if (!zip) return null;
  try {
    const entries = new Map<string, Entry>();
    for await (const entry of zip.eachEntry()) {
      entries.set(entry.fileName, entry);
      if (entries.size > mostEntries) throw new Error("no archive of a study has so many entries");
    }
    return { zip, entries };
  } catch {
    zip.close();
    return null;
  }
}

const streamOf = ({ zip }: Opened, entry: Entry): Promise<Readable | null> =>
  entry.canDecodeFileData() ? zip.openReadStreamPromise(entry).catch(() => null) : Promise.resolve(null);

async function textOf(opened: Opened, entry: Entry): Promise<string | null> {
  if (entry.uncompressedSize > longestDescription) return null;
  try {
    // The package ends a stream that is longer than its entry says.
    const stream = await streamOf(opened, entry);
    return stream && (await text(stream));
  } catch {
    return null;
  }
}

/** Takes in the original of one file, with all items that it belongs to, still hidden. */
async function takeFile(
  db: Database,
  opened: Opened,
  { study, items, document }: Archive,
  file: Archive["files"][number],
): Promise<Outcome<null>> {
  const own = items.filter(({ hash }) => hash === file.hash);
  const [first] = own;
  const entry = opened.entries.get(file.path);
  const stream = entry && (await streamOf(opened, entry));
  if (!first || !stream) return damaged(`${first?.fileName ?? "a file"} is missing`);
  // The shortest of what it is used as decides.
  const shortest = own.some(({ role }) => role === "candidate")
    ? limits.shortestSoundSeconds
    : limits.shortestSeconds;
  return takeIn<null>(
    db,
    { body: Readable.toWeb(stream) as ReadableStream<Uint8Array>, bytes: entry.uncompressedSize },
    shortest,
    async ({ hash }) => {
      if (hash !== file.hash) return damaged(`${first.fileName} is not the file that it was`);
      await db.insert(itemsTable).values(
        own.map(({ id, role, number, fileName, addedAt }) => ({
          id,
          studyId: study.id,
          role,
          number,
          fileHash: hash,
          fileName,
          createdAt: addedAt,
          note: document.items[id]!.note,
          removedAt: stillArriving,
        })),
      );
      return success(null);
    },
  );
}

/** Writes all that people made of the study, and shows it. */
async function finish(db: Database, { study, items, edits, document }: Archive): Promise<Outcome<null>> {
  const loaded = await loadStudy(db, study.id, { evenRemoved: true });
  if (!loaded) return damaged("it was deleted while it was being read");
  const parents = items.flatMap(({ id, parentId }) =>
    parentId === null ? [] : [db.update(itemsTable).set({ parentId }).where(eq(itemsTable.id, id))],
  );
  const before = fullDocument(loaded);
  // Which folder is watched is for whoever opens it to say.
  const wanted = { ...document, study: { ...document.study, folder: null, removed: false } };
  const valid = await checked(db, loaded, before, wanted);
  if (!valid.ok) return valid;
  const log = edits.map((own) => db.insert(editsTable).values({ ...own, studyId: study.id }));
  const { addedAt, nextNumber, sequence } = study;
  const statements: Statement[] = [
    ...parents,
    ...writing(db, study.id, before, valid.value),
    ...log,
    db
      .update(studies)
      .set({ createdAt: addedAt, nextNumber, sequence, removedAt: null })
      .where(eq(studies.id, study.id)),
  ];
  await db.batch(statements as [Statement, ...Statement[]]);
  return success(null);
}

async function takeStudy(db: Database, opened: Opened): Promise<Outcome<AddedItem>> {
  const entry = opened.entries.get(descriptionName);
  const description = entry && (await textOf(opened, entry));
  if (!description) return damaged("it holds no description of a study");
  const read = readArchive(description, newId);
  if (!read.ok) return read;
  const archive = read.value;
  const { id, addedAt } = archive.study;
  await db.insert(studies).values({
    id,
    title: archive.document.study.title,
    aspectWeights: defaultAspectWeights,
    createdAt: addedAt,
    removedAt: stillArriving,
  });
  let isDone = false;
  try {
    for (const file of archive.files) {
      const taken = await takeFile(db, opened, archive, file);
      if (!taken.ok) return taken;
    }
    const finished = await finish(db, archive);
    if (!finished.ok) return finished;
    isDone = true;
  } finally {
    if (!isDone) {
      await db.delete(studies).where(eq(studies.id, id));
      await forgetUnusedFiles(db);
    }
  }
  await studyChanged(id);
  const reference = archive.items.find(
    (own) => own.role === "reference" && !archive.document.items[own.id]!.removed,
  );
  return success({ studyId: id, itemId: reference?.id ?? "", number: 0 });
}

/** Makes a study of an archive that is being sent; nothing is left where it is refused. */
export async function openArchive(db: Database, upload: Upload): Promise<Outcome<AddedItem>> {
  const arriving = path.join(incomingFolder(), newId());
  try {
    const received = await receive(upload, arriving, limits.largestArchiveBytes);
    if (!received.ok) return received;
    const opened = await openZip(arriving);
    if (!opened) return damaged("it is no zip file, or a damaged one");
    try {
      return await takeStudy(db, opened);
    } finally {
      opened.zip.close();
    }
  } finally {
    await rm(arriving, { force: true });
  }
}
