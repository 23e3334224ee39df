/** What the list of studies shows: written when something changes, so that the list reads nothing else. */
import { asc, desc, eq, gt, isNull } from "drizzle-orm";
import {
  studySummarySchema,
  summaryOf,
  type RemovedStudy,
  type StudyResults,
  type StudyRow,
} from "@/core/study";
import type { Database } from "../storage/database";
import { items, studies } from "../storage/schema";

export async function writeSummary(db: Database, results: StudyResults): Promise<void> {
  await db
    .update(studies)
    .set({ summary: summaryOf(results) })
    .where(eq(studies.id, results.study.id));
}

/** All studies, newest first. */
export async function listStudies(db: Database): Promise<StudyRow[]> {
  const rows = await db
    .select({ id: studies.id, title: studies.title, addedAt: studies.createdAt, summary: studies.summary })
    .from(studies)
    .where(isNull(studies.removedAt))
    .orderBy(desc(studies.createdAt));
  return rows.map(({ summary, ...row }) => {
    const parsed = studySummarySchema.safeParse(summary);
    return { ...row, summary: parsed.success ? parsed.data : null };
  });
}

/** Stands as the time of removal of a study that is still being read from an archive; it is cleared away at a start. */
export const stillArriving = 1;

/** Studies that were deleted and can still be brought back, newest first. */
export async function listRemovedStudies(db: Database): Promise<RemovedStudy[]> {
  const rows = await db
    .select({ id: studies.id, title: studies.title, removedAt: studies.removedAt })
    .from(studies)
    .where(gt(studies.removedAt, stillArriving))
    .orderBy(desc(studies.removedAt));
  return rows.flatMap(({ removedAt, ...row }) => (removedAt === null ? [] : [{ ...row, removedAt }]));
}

/** Studies that have a file. */
export const studiesOfFile = async (db: Database, fileHash: string): Promise<string[]> =>
  (
    await db
      .selectDistinct({ studyId: items.studyId })
      .from(items)
      .where(eq(items.fileHash, fileHash))
      .orderBy(asc(items.studyId))
  ).map(({ studyId }) => studyId);
