/** A whole study as one zip file: originals, what was corrected, reports, and files for other programs. */
import { stat } from "node:fs/promises";
import { Readable } from "node:stream";
import { asc, eq } from "drizzle-orm";
import { ZipFile } from "yazl";
import { withoutExtension } from "@/core/formats/fileNames";
import { refuse, success, type Outcome } from "@/core/outcome";
import {
  archiveVersion,
  tracksOf,
  type Archive,
  type StudyDocument,
  type StudyResults,
  type TrackRecord,
} from "@/core/study";
import { reportedIn, reportOf } from "@/models/report";
import { reportCsv, reportJson, reportMarkdown } from "@/models/reportFiles";
import type { SavedFile } from "../http";
import type { Database } from "../storage/database";
import { originalPath } from "../storage/paths";
import { edits as editsTable, items as itemsTable } from "../storage/schema";
import { compareInStudy } from "../study/compare";
import { fullDocument } from "../study/document";
import { studyIsGone } from "../study/edit";
import { readStudy } from "../study/read";
import { loadStudy } from "../study/record";
import { drumFormats, exportDrums } from "./drumFiles";
import { exportPlan, planFormats } from "./planFiles";

/** The description of the study in an archive. */
export const descriptionName = "study.json";

/** A name that every system takes as that of a file. */
const fileName = (name: string): string =>
  name
    .replace(/[\\/:*?"<>|\p{Cc}]+/gu, "-")
    .replace(/^\.+|[. ]+$/g, "")
    .slice(0, 150) || "file";

const nameOf = ({ role, number }: Pick<TrackRecord, "role" | "number">) =>
  role === "reference" ? "reference" : `version ${number}`;

const isThere = (hash: string): Promise<boolean> =>
  stat(originalPath(hash)).then(
    (found) => found.isFile(),
    () => false,
  );

/** All items but those that were deleted and have lost their original: nothing brings them back. */
async function withOriginals<
  T extends { id: string; parentId: string | null; removedAt: number | null; fileHash: string },
>(rows: readonly T[]): Promise<T[]> {
  const there = await Promise.all(rows.map((row) => row.removedAt === null || isThere(row.fileHash)));
  const lost = new Set(rows.filter((_, i) => !there[i]).map(({ id }) => id));
  return rows.filter(({ id, parentId }) => !lost.has(id) && (parentId === null || !lost.has(parentId)));
}

const onlyItems = (document: StudyDocument, kept: readonly { id: string }[]): StudyDocument => ({
  ...document,
  items: Object.fromEntries(kept.map(({ id }) => [id, document.items[id]!])),
});

/** The description, and where each original is to lie. */
async function describe(db: Database, studyId: string): Promise<Archive | null> {
  const loaded = await loadStudy(db, studyId);
  if (!loaded) return null;
  const rows = await db
    .select()
    .from(itemsTable)
    .where(eq(itemsTable.studyId, studyId))
    .orderBy(asc(itemsTable.createdAt));
  const log = await db
    .select()
    .from(editsTable)
    .where(eq(editsTable.studyId, studyId))
    .orderBy(asc(editsTable.id));
  const kept = await withOriginals(rows);
  const places = new Map<string, string>();
  for (const { role, number, fileHash, fileName: own } of kept) {
    if (places.has(fileHash)) continue;
    const kind = role === "version" ? `version ${number}` : role;
    places.set(fileHash, `audio/${fileHash.slice(0, 8)} ${kind} ${fileName(own)}`);
  }
  return {
    kind: "plain-mirror-study",
    version: archiveVersion,
    study: {
      id: studyId,
      addedAt: loaded.row.createdAt,
      nextNumber: loaded.row.nextNumber,
      sequence: loaded.row.sequence,
    },
    document: onlyItems(fullDocument(loaded), kept),
    items: kept.map(({ id, role, parentId, number, fileHash, fileName: own, createdAt }) => ({
      id,
      role,
      parentId,
      number,
      hash: fileHash,
      fileName: own,
      addedAt: createdAt,
    })),
    files: [...places].map(([hash, path]) => ({ hash, path })),
    edits: log.map(({ label, patch, sequence, undoneSequence, createdAt }) => ({
      label,
      patch,
      sequence,
      undoneSequence,
      createdAt,
    })),
  };
}

/** What of a study other programs can read: reports, and of each track its plan and drums. */
async function handOvers(
  db: Database,
  results: StudyResults,
): Promise<{ path: string; bytes: Uint8Array }[]> {
  const files: { path: string; bytes: Uint8Array }[] = [];
  const comparison = await compareInStudy(db, results, null, { bars: null, span: null });
  const report = reportOf(results, comparison && reportedIn(results, comparison));
  const text = (path: string, content: string) =>
    files.push({ path, bytes: new TextEncoder().encode(content) });
  text("report.md", reportMarkdown(report));
  text("report.csv", reportCsv(report));
  text("report.json", reportJson(report));
  for (const track of tracksOf(results.study)) {
    const add = (outcome: Outcome<SavedFile>) => {
      // A track without bars has nothing to hand over.
      if (outcome.ok)
        files.push({ path: `${nameOf(track)}/${fileName(outcome.value.name)}`, bytes: outcome.value.bytes });
    };
    for (const format of planFormats) add(await exportPlan(db, track.id, format));
    for (const format of drumFormats) add(await exportDrums(db, track.id, format, null));
    const analysis = results.analyses.get(track.file.hash);
    if (analysis) text(`${nameOf(track)}/measured.json`, JSON.stringify(analysis));
  }
  return files;
}

/** The zip of a study as a stream, with the name it is to be saved under. */
export async function archiveStudy(
  db: Database,
  studyId: string,
): Promise<Outcome<{ name: string; stream: ReadableStream<Uint8Array> }>> {
  const archive = await describe(db, studyId);
  const results = archive && (await readStudy(db, studyId));
  if (!archive || !results) return studyIsGone();
  for (const { hash, path } of archive.files) {
    if (!(await isThere(hash)))
      return refuse(
        "not-found",
        `An original is missing from the data folder: ${path.slice(path.indexOf("/") + 1)}.`,
        "Upload the same file once more; it takes its place again.",
      );
  }
  const zip = new ZipFile();
  const output = zip.outputStream as unknown as Readable;
  zip.on("error", (error) => output.destroy(error instanceof Error ? error : new Error(String(error))));
  zip.addBuffer(Buffer.from(JSON.stringify(archive)), descriptionName);
  for (const { path, bytes } of await handOvers(db, results)) zip.addBuffer(Buffer.from(bytes), path);
  // Sound hardly gets smaller.
  for (const { hash, path } of archive.files) zip.addFile(originalPath(hash), path, { compress: false });
  zip.end();
  return success({
    name: `${withoutExtension(results.study.title)}.zip`,
    stream: Readable.toWeb(output) as ReadableStream<Uint8Array>,
  });
}
