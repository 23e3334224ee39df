/** Reads studies from the database into the plain records of the core. */
import { asc, desc, eq, inArray } from "drizzle-orm";
import type { AnalysesByFile, JobRecord, Standing, StudyRecord, TrackRecord } from "@/core/study";
import { standingsOf } from "@/core/study";
import type { Database } from "./database";
import { progressOf } from "./queue";
import { loadAnalyses } from "./results";
import { elements, files, jobs, studies, tracks } from "./schema";

const waitingWords: Record<JobRecord["state"], string> = {
  queued: "Waiting",
  running: "Starting",
  done: "Done",
  failed: "Failed",
  cancelled: "Cancelled",
};

async function readTracks(db: Database, studyIds: readonly string[]): Promise<Map<string, TrackRecord[]>> {
  const rows =
    studyIds.length === 0
      ? []
      : await db
          .select({ track: tracks, file: files, job: jobs })
          .from(tracks)
          .innerJoin(files, eq(files.hash, tracks.fileHash))
          .leftJoin(jobs, eq(jobs.fileHash, tracks.fileHash))
          .where(inArray(tracks.studyId, [...studyIds]))
          .orderBy(asc(tracks.number));
  const byStudy = new Map<string, TrackRecord[]>();
  for (const { track, file, job } of rows) {
    const state = job?.state ?? "queued";
    const progress = progressOf(file.hash);
    const record: TrackRecord = {
      id: track.id,
      role: track.role,
      number: track.number,
      fileName: track.fileName,
      note: track.note,
      addedAt: track.createdAt,
      file: {
        hash: file.hash,
        bytes: file.bytes,
        format: file.format,
        durationSeconds: file.durationSeconds,
        sampleRate: file.sampleRate,
        channels: file.channels,
        warnings: file.warnings,
        claims: file.claims,
      },
      job: {
        state,
        says: progress?.says ?? waitingWords[state],
        done: progress?.done ?? (state === "done" ? 1 : 0),
        refusal: job?.refusal ?? null,
      },
    };
    byStudy.set(track.studyId, [...(byStudy.get(track.studyId) ?? []), record]);
  }
  return byStudy;
}

/** A study with the analyses of its files and the standing of its versions. */
export interface ReadStudy {
  study: StudyRecord;
  analyses: AnalysesByFile;
  standings: Standing[];
}

async function readStudies(db: Database, rows: (typeof studies.$inferSelect)[]): Promise<ReadStudy[]> {
  const ids = rows.map(({ id }) => id);
  const tracksOf = await readTracks(db, ids);
  const elementRows =
    ids.length === 0
      ? []
      : await db
          .select()
          .from(elements)
          .where(inArray(elements.studyId, ids))
          .orderBy(asc(elements.position));
  const hashes = [...tracksOf.values()].flat().map((track) => track.file.hash);
  const analyses = await loadAnalyses(db, [...new Set(hashes)]);
  return rows.map((row) => {
    const all = tracksOf.get(row.id) ?? [];
    const study: StudyRecord = {
      id: row.id,
      title: row.title,
      addedAt: row.createdAt,
      aspectWeights: row.aspectWeights,
      reference: all.find((track) => track.role === "reference") ?? null,
      versions: all.filter((track) => track.role === "version"),
      elements: elementRows
        .filter((element) => element.studyId === row.id)
        .map(({ id, name, fromHz, toHz, state, note, weight, position }) => ({
          id,
          name,
          fromHz,
          toHz,
          state,
          note,
          weight,
          position,
        })),
    };
    return { study, analyses, standings: standingsOf(study, analyses) };
  });
}

/** All studies, newest first. */
export const readAllStudies = async (db: Database): Promise<ReadStudy[]> =>
  readStudies(db, await db.select().from(studies).orderBy(desc(studies.createdAt)));

/** One study, or null where there is none with this id. */
export async function readStudy(db: Database, id: string): Promise<ReadStudy | null> {
  const rows = await db.select().from(studies).where(eq(studies.id, id));
  return (await readStudies(db, rows))[0] ?? null;
}
