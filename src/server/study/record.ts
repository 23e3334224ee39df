/** Reads studies from the database into the plain records of the core. */
import { and, asc, eq, inArray, isNull, like, or, sql } from "drizzle-orm";
import { LRUCache } from "lru-cache";
import { z } from "zod";
import { defaultAspectWeights, nothingIntended } from "@/core/match";
import { lengthRange } from "@/core/ranges";
import {
  correctionSchemas,
  coverageSchema,
  inOrder,
  intendedSchema,
  noCorrections,
  studyEditsSchema,
  type Corrections,
  type CandidateRecord,
  type FileRecord,
  type ItemRecord,
  type JobRecord,
  type StemOffset,
  type StemRecord,
  type StudyRecord,
  type TrackRecord,
} from "@/core/study";
import { tagsSchema } from "../decoding/tags";
import { progressOf } from "../jobs/progress";
import type { Database } from "../storage/database";
import { corrections, elements, files, items, jobs, studies } from "../storage/schema";

const stateLabels: Record<JobRecord["state"], string> = {
  queued: "Waiting",
  running: "Starting",
  done: "Done",
  failed: "Failed",
  cancelled: "Cancelled",
};

export const stemOffsetSchema = z.object({
  seconds: z.number().min(-1300).max(1300),
  confidence: z.number().min(0).max(1),
});

/** What is stored, or something in its place where it can no longer be read. */
function readOr<T>(schema: z.ZodType<T>, stored: unknown, fallback: T): T {
  const parsed = schema.safeParse(stored);
  if (!parsed.success && stored !== null && stored !== undefined)
    console.error("something stored can't be read and is left out", parsed.error.issues[0]);
  return parsed.success ? parsed.data : fallback;
}

/** Files do not change once they are there; reading what they say takes longer than finding it. */
const sharedFiles = globalThis as { plainMirrorFiles?: LRUCache<string, FileRecord> };
const fileCache = () => (sharedFiles.plainMirrorFiles ??= new LRUCache({ max: 2000 }));

function fileRecord(file: typeof files.$inferSelect): FileRecord {
  const key = `${file.hash} ${file.createdAt}`;
  const known = fileCache().get(key);
  if (known) return known;
  const record = {
    hash: file.hash,
    bytes: file.bytes,
    format: file.format,
    durationSeconds: readOr(lengthRange, file.durationSeconds, 1),
    sampleRate: file.sampleRate,
    channels: file.channels,
    warnings: readOr(z.array(z.string()), file.warnings, []),
    tags: readOr(tagsSchema, file.tags, {}),
  };
  fileCache().set(key, record);
  return record;
}

type JobRow = typeof jobs.$inferSelect;

function jobRecord(hash: string, job: JobRow | undefined): JobRecord {
  const state = job?.state ?? "queued";
  const progress = state === "running" || state === "queued" ? progressOf("analyse", hash) : null;
  return {
    state,
    message: progress?.message ?? stateLabels[state],
    done: progress?.done ?? (state === "done" ? 1 : 0),
    refusal: job?.refusal ?? null,
    ...(progress?.early ? { early: progress.early } : {}),
  };
}

/** A study's row, record and the items that were removed but can still come back. */
export interface LoadedStudy {
  row: typeof studies.$inferSelect;
  study: StudyRecord;
  /** Removed tracks, stems and candidates, as records of their own. */
  removed: ItemRecord[];
  /** Elements that were removed, by id. */
  removedElements: (typeof elements.$inferSelect)[];
  /** Jobs about the items of the study and their files. */
  jobs: JobRow[];
}

const correctionRows = (db: Database, studyId: string) =>
  db
    .select({ itemId: corrections.itemId, subject: corrections.subject, value: corrections.value })
    .from(corrections)
    .innerJoin(items, eq(items.id, corrections.itemId))
    .where(eq(items.studyId, studyId));

function correctionsFrom(rows: Awaited<ReturnType<typeof correctionRows>>): Map<string, Corrections> {
  const result = new Map<string, Corrections>();
  for (const { itemId, subject, value } of rows) {
    const own = { ...(result.get(itemId) ?? noCorrections) };
    if (subject === "grid") own.grid = readOr(correctionSchemas.grid, value, {});
    else if (subject === "harmony") own.harmony = readOr(correctionSchemas.harmony, value, {});
    else if (subject === "form") own.form = readOr(correctionSchemas.form, value, {});
    else if (subject === "drums") own.drums = readOr(correctionSchemas.drums, value, {});
    else if (subject === "equaliser") own.equaliser = readOr(correctionSchemas.equaliser, value, {});
    else if (subject === "hits") own.hits = readOr(correctionSchemas.hits, value, {});
    else if (subject === "bass") own.bass = readOr(correctionSchemas.bass, value, {});
    else own.presence = readOr(correctionSchemas.presence, value, {});
    result.set(itemId, own);
  }
  return result;
}

/** One study, or null where there is none with this id or it was deleted. */
export async function loadStudy(
  db: Database,
  id: string,
  { evenRemoved = false }: { evenRemoved?: boolean } = {},
): Promise<LoadedStudy | null> {
  const own = eq(items.studyId, id);
  const [[row], itemRows, elementRows, correctionsHere, jobRows] = await db.batch([
    db
      .select()
      .from(studies)
      .where(evenRemoved ? eq(studies.id, id) : and(eq(studies.id, id), isNull(studies.removedAt))),
    db
      .select({ item: items, file: files })
      .from(items)
      .innerJoin(files, eq(files.hash, items.fileHash))
      .where(own)
      .orderBy(asc(items.number), asc(items.createdAt)),
    db.select().from(elements).where(eq(elements.studyId, id)).orderBy(asc(elements.position)),
    correctionRows(db, id),
    db
      .select()
      .from(jobs)
      .where(
        or(
          inArray(jobs.subject, db.select({ subject: items.fileHash }).from(items).where(own)),
          inArray(jobs.subject, db.select({ subject: items.id }).from(items).where(own)),
          // Of two versions: see `pairSubject`.
          and(
            like(jobs.subject, "%~%"),
            inArray(
              sql`substr(${jobs.subject}, 1, instr(${jobs.subject}, '~') - 1)`,
              db.select({ subject: items.id }).from(items).where(own),
            ),
          ),
        ),
      ),
  ]);
  if (!row) return null;
  const correctionsById = correctionsFrom(correctionsHere);
  const analysisJobs = new Map(
    jobRows.flatMap((job) => (job.kind === "analyse" ? [[job.subject, job]] : [])),
  );
  type Row = (typeof itemRows)[number];
  const common = ({ item, file }: Row) => ({
    id: item.id,
    fileName: item.fileName,
    file: fileRecord(file),
    job: jobRecord(file.hash, analysisJobs.get(file.hash)),
  });
  const correctionsFor = ({ item }: Row) => correctionsById.get(item.id) ?? noCorrections;
  const stemOf = (own: Row): StemRecord => ({
    ...common(own),
    corrections: correctionsFor(own),
    elementId: own.item.elementId,
    measuredOffset: readOr<StemOffset | null>(stemOffsetSchema.nullable(), own.item.measuredOffset, null),
    offsetSeconds: own.item.offsetSeconds,
  });
  const trackOf = (own: Row): TrackRecord => ({
    ...common(own),
    corrections: correctionsFor(own),
    role: own.item.role === "reference" ? "reference" : "version",
    number: own.item.number ?? 0,
    note: own.item.note,
    addedAt: own.item.createdAt,
    starred: own.item.starred,
    place: own.item.place,
    coverage: readOr(coverageSchema.nullable(), own.item.coverage, null),
    stems: itemRows
      .filter(({ item }) => item.parentId === own.item.id && item.removedAt === null)
      .map(stemOf),
  });
  const candidateOf = (own: Row): CandidateRecord => ({ ...common(own), chosenFor: own.item.chosenFor });
  const recordOf = (own: Row): ItemRecord => {
    if (own.item.role === "stem") return stemOf(own);
    if (own.item.role === "yardstick") return common(own);
    return own.item.role === "candidate" ? candidateOf(own) : trackOf(own);
  };
  const tracks = itemRows.filter(({ item: { role } }) => role === "reference" || role === "version");
  const kept = tracks.filter(({ item }) => item.removedAt === null).map(trackOf);
  const study: StudyRecord = {
    id: row.id,
    title: row.title,
    addedAt: row.createdAt,
    aspectWeights: { ...defaultAspectWeights, ...row.aspectWeights },
    marks: readOr(studyEditsSchema.shape.marks, row.marks, {}),
    target: row.target,
    styleAspects: readOr(studyEditsSchema.shape.styleAspects, row.styleAspects, []),
    folder: row.folder,
    standIn: null,
    intended: readOr(intendedSchema, row.intended, { ...nothingIntended, drums: [] }),
    reference: kept.find(({ role }) => role === "reference") ?? null,
    versions: inOrder(kept.filter(({ role }) => role === "version")),
    candidates: itemRows
      .filter(({ item }) => item.role === "candidate" && item.removedAt === null)
      .map(candidateOf),
    yardstick: itemRows
      .filter(({ item }) => item.role === "yardstick" && item.removedAt === null)
      .map(common),
    elements: elementRows
      .filter(({ removedAt }) => removedAt === null)
      .map(({ id: own, name, lens, fromHz, toHz, state, note, weight, target, hidden }) => ({
        id: own,
        name,
        lens,
        fromHz,
        toHz,
        state,
        note,
        weight,
        target,
        hidden,
      })),
  };
  return {
    row,
    study,
    removed: itemRows.filter(({ item }) => item.removedAt !== null).map(recordOf),
    removedElements: elementRows.filter(({ removedAt }) => removedAt !== null),
    jobs: jobRows,
  };
}
