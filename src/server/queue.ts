/**
 * The queue of analyses. Jobs stand in the database, so that a restart takes up what was not
 * finished; worker threads do the work; whoever listens hears of progress.
 */
import { EventEmitter } from "node:events";
import { rm } from "node:fs/promises";
import { cpus } from "node:os";
import { MessageChannel } from "node:worker_threads";
import { and, asc, eq, inArray, ne } from "drizzle-orm";
import { Piscina } from "piscina";
import { analysisVersion } from "@/core/analysis/result";
import type { Outcome } from "@/core/outcome";
import { database } from "./database";
import { originalPath, listeningPath, workerFile } from "./places";
import { storeResult } from "./results";
import { analyses, files, jobs, type JobState } from "./schema";
import type { analyseFile, inspect, Inspection, Progress } from "./worker";

/** What listeners are told about the analysis of a file. */
export interface JobNews {
  fileHash: string;
  state: JobState;
  progress: Progress;
}

interface Queue {
  pool: Piscina;
  news: EventEmitter;
  running: Map<string, { abort: AbortController; progress: Progress }>;
  filling: Promise<void>;
}

const shared = globalThis as { plainMirrorQueue?: Queue };

// One thread is kept for looking at uploads, so that they never wait behind long analyses.
const analysisThreads = Math.max(1, Math.min(4, cpus().length - 1));

const queue = (): Queue =>
  (shared.plainMirrorQueue ??= {
    pool: new Piscina({
      filename: workerFile(),
      minThreads: 0,
      maxThreads: analysisThreads + 1,
      idleTimeout: 20_000,
      // Some decoders use threads or large tables of their own; a fresh heap limit keeps 20-minute files safe.
      resourceLimits: { maxOldGenerationSizeMb: 1024 },
    }),
    news: new EventEmitter().setMaxListeners(0),
    running: new Map(),
    filling: Promise.resolve(),
  });

/** Runs a task of the worker bundle that is no analysis. */
export const runInWorker = <T>(name: string, task: unknown): Promise<T> =>
  queue().pool.run(task, { name }) as Promise<T>;

/** Tells listeners that something which depends on a file has been worked out. */
export const tellDone = (fileHash: string): unknown =>
  tell({ fileHash, state: "done", progress: { says: "Done", done: 1 } });

/** Decodes an uploaded file in a worker to see whether it is sound. */
export const inspectInWorker = (path: string): Promise<Outcome<Inspection>> =>
  queue().pool.run({ path } satisfies Parameters<typeof inspect>[0], { name: "inspect" }) as Promise<
    Outcome<Inspection>
  >;

/** Calls back for every change of any job until the returned function is called. */
export function listen(onNews: (news: JobNews) => void): () => void {
  queue().news.on("news", onNews);
  return () => queue().news.off("news", onNews);
}

const tell = (news: JobNews) => queue().news.emit("news", news);

/** How far the running analysis of a file is. */
export const progressOf = (fileHash: string): Progress | null =>
  queue().running.get(fileHash)?.progress ?? null;

/** Puts a file in the queue unless a current result or a waiting job is there already. */
export async function requestAnalysis(fileHash: string): Promise<void> {
  const db = await database();
  const [result] = await db
    .select({ version: analyses.analysisVersion })
    .from(analyses)
    .where(eq(analyses.fileHash, fileHash));
  const [job] = await db.select().from(jobs).where(eq(jobs.fileHash, fileHash));
  if (job && (job.state === "queued" || job.state === "running")) return;
  if (result?.version === analysisVersion && job?.state === "done") return;
  await db
    .insert(jobs)
    .values({ fileHash, state: "queued" })
    .onConflictDoUpdate({
      target: jobs.fileHash,
      set: { state: "queued", refusal: null },
    });
  tell({ fileHash, state: "queued", progress: { says: "Waiting", done: 0 } });
  fill();
}

/** Stops a waiting or running analysis. Without effect on one that has ended. */
export async function cancelAnalysis(fileHash: string): Promise<void> {
  const db = await database();
  await db
    .update(jobs)
    .set({ state: "cancelled" })
    .where(and(eq(jobs.fileHash, fileHash), inArray(jobs.state, ["queued", "running"])));
  queue().running.get(fileHash)?.abort.abort();
  tell({ fileHash, state: "cancelled", progress: { says: "Cancelled", done: 0 } });
}

/**
 * Takes up the work after a start: jobs that were running when the server went down run again, and
 * results made by another version of the analysis are made anew.
 */
export async function resumeQueue(): Promise<void> {
  const db = await database();
  await db.update(jobs).set({ state: "queued" }).where(eq(jobs.state, "running"));
  const outdated = await db
    .select({ fileHash: analyses.fileHash })
    .from(analyses)
    .where(ne(analyses.analysisVersion, analysisVersion));
  for (const { fileHash } of outdated) {
    await db
      .update(jobs)
      .set({ state: "queued" })
      .where(and(eq(jobs.fileHash, fileHash), eq(jobs.state, "done")));
  }
  fill();
}

/** Starts waiting jobs while threads are free; calls run one after the other. */
function fill(): void {
  const q = queue();
  q.filling = q.filling.then(async () => {
    const db = await database();
    while (q.running.size < analysisThreads) {
      const [next] = await db
        .select()
        .from(jobs)
        .where(eq(jobs.state, "queued"))
        .orderBy(asc(jobs.createdAt))
        .limit(1);
      if (!next) return;
      await db.update(jobs).set({ state: "running" }).where(eq(jobs.fileHash, next.fileHash));
      void run(next.fileHash);
    }
  });
}

async function run(fileHash: string): Promise<void> {
  const q = queue();
  const abort = new AbortController();
  const entry = { abort, progress: { says: "Starting", done: 0 } };
  q.running.set(fileHash, entry);
  const { port1, port2 } = new MessageChannel();
  port1.on("message", (progress: Progress) => {
    entry.progress = progress;
    tell({ fileHash, state: "running", progress });
  });
  const db = await database();
  const task: Parameters<typeof analyseFile>[0] = {
    path: originalPath(fileHash),
    listeningCopy: listeningPath(fileHash),
    port: port2,
  };
  try {
    const outcome = (await q.pool.run(task, {
      name: "analyseFile",
      signal: abort.signal,
      transferList: [port2],
    })) as Awaited<ReturnType<typeof analyseFile>>;
    if (abort.signal.aborted) return;
    const [stillThere] = await db.select({ hash: files.hash }).from(files).where(eq(files.hash, fileHash));
    if (!stillThere) return;
    if (outcome.ok) await storeResult(db, fileHash, outcome.value.analysis, outcome.value.curves);
    const state = outcome.ok ? "done" : "failed";
    await db
      .update(jobs)
      .set({ state, refusal: outcome.ok ? null : outcome.refusal })
      .where(eq(jobs.fileHash, fileHash));
    tell({ fileHash, state, progress: { says: outcome.ok ? "Done" : outcome.refusal.sentence, done: 1 } });
  } catch (error) {
    if (abort.signal.aborted) {
      await rm(listeningPath(fileHash), { force: true });
      return;
    }
    console.error("analysis failed", error);
    await db
      .update(jobs)
      .set({
        state: "failed",
        refusal: {
          code: "damaged",
          sentence: "The analysis of this file broke off.",
          remedy: "Try again; if it happens again, export the file once more.",
        },
      })
      .where(eq(jobs.fileHash, fileHash));
    tell({ fileHash, state: "failed", progress: { says: "Failed", done: 1 } });
  } finally {
    port1.close();
    q.running.delete(fileHash);
    fill();
  }
}

/** Ends all workers; for tests and an orderly end. Running jobs are taken up at the next start. */
export async function destroyQueue(): Promise<void> {
  const q = shared.plainMirrorQueue;
  if (!q) return;
  delete shared.plainMirrorQueue;
  for (const { abort } of q.running.values()) abort.abort();
  await q.filling;
  await q.pool.destroy();
}
