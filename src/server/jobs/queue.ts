/**
 * The queue of all work. Jobs stand in the database, so that a restart takes up what was not
 * finished: whatever is not done and not running in this process is waiting, whatever its row says.
 */
import { and, asc, eq, inArray, sql } from "drizzle-orm";
import { refuse, type Refusal } from "@/core/outcome";
import { itemsOf, type StudyResults } from "@/core/study";
import { Cancelled } from "../decoding/processPool";
import { database, type Database } from "../storage/database";
import { items, jobs, studies, type JobKind, type JobState } from "../storage/schema";
import { storageTroubleIn } from "../storage/trouble";
import { loadStudy } from "../study/record";
import { keepFoundElements } from "../study/foundElements";
import { parsePairSubject } from "../study/keys";
import { readStudy, resultsOf } from "../study/read";
import { tieStems } from "../study/tieStems";
import { writeSummary } from "../study/summary";
import { desiredJobs, enqueue } from "./desired";
import { executors } from "./execute";
import { inTurn, type Following } from "./inTurn";
import { analysisProcesses, cancelProcesses } from "./processes";
import { announceAnalysis, announceStudy, setProgress, type Progress } from "./progress";
import { cancelThreads } from "./threads";

type Job = typeof jobs.$inferSelect;

interface Running {
  job: Job;
  abort: AbortController;
  /** It was broken off for what is more pressing, and is begun again afterwards. */
  gaveWay: boolean;
}

interface Queue {
  running: Map<number, Running>;
  /** Jobs that are tried again, not before a time. */
  notBefore: Map<number, number>;
  filling: Promise<void>;
  again: boolean;
  timer: NodeJS.Timeout | null;
  stopped: boolean;
  /** When lifts were last broken off for a new file. */
  gaveWay: Map<number, number>;
  /** Studies with quick work under way, and when their pages are told of it next. */
  telling: Map<string, NodeJS.Timeout>;
  /** What follows last from changes of each study. */
  following: Map<string, Following>;
}

const shared = globalThis as { plainMirrorQueue?: Queue };

const queue = (): Queue =>
  (shared.plainMirrorQueue ??= {
    running: new Map(),
    notBefore: new Map(),
    gaveWay: new Map(),
    filling: Promise.resolve(),
    again: false,
    timer: null,
    stopped: false,
    telling: new Map(),
    following: new Map(),
  });

/** Kinds that share places; within a lane what somebody waits for soonest comes first. */
const lanes: readonly { kinds: readonly JobKind[]; places: number; whenQuiet?: true }[] = [
  { kinds: ["compare", "plan", "align", "lens"], places: 2 },
  { kinds: ["render", "placeStem", "analyse"], places: analysisProcesses },
  // Takes long and much memory, nobody waits for more than one, and it would hold up what gives a score.
  { kinds: ["sumStems", "lift"], places: 1, whenQuiet: true },
];

const mostAttempts = 3;
const retryMs = 1_000;
/** While the data folder cannot be used. */
const troubleRetryMs = 3_000;

/** Looks for waiting jobs and starts them while places are free. */
export function wake(): void {
  const q = queue();
  if (q.stopped) return;
  q.again = true;
  q.filling = q.filling.then(async () => {
    if (!q.again || q.stopped) return;
    q.again = false;
    try {
      for (const lane of lanes) await fillLane(q, lane);
    } catch (error) {
      if (!storageTroubleIn(error)) console.error("the queue could not be read", error);
      wakeIn(troubleRetryMs);
    }
  });
}

function wakeIn(ms: number): void {
  const q = queue();
  if (q.timer || q.stopped) return;
  q.timer = setTimeout(() => {
    q.timer = null;
    wake();
  }, ms);
  q.timer.unref();
}

async function fillLane(q: Queue, { kinds, places, whenQuiet }: (typeof lanes)[number]): Promise<void> {
  const busy = [...q.running.values()].filter(({ job }) => kinds.includes(job.kind)).length;
  // Lanes before it have been filled: what they wait for they have begun.
  if (busy >= places || (whenQuiet && q.running.size > busy)) return;
  const db = await database();
  const rank = sql`CASE ${jobs.kind} ${sql.join(
    kinds.map((kind, i) => sql`WHEN ${kind} THEN ${i}`),
    sql` `,
  )} END`;
  const waiting = await db
    .select()
    .from(jobs)
    .where(and(inArray(jobs.state, ["queued", "running"]), inArray(jobs.kind, [...kinds])))
    .orderBy(asc(rank), asc(jobs.id))
    .limit(places + q.running.size + q.notBefore.size + 1);
  const now = Date.now();
  let free = places - busy;
  for (const job of waiting) {
    if (free === 0) return;
    if (q.running.has(job.id)) continue;
    const notBefore = q.notBefore.get(job.id) ?? 0;
    if (notBefore > now) {
      wakeIn(notBefore - now);
      continue;
    }
    q.notBefore.delete(job.id);
    free--;
    const running = { job, abort: new AbortController(), gaveWay: false };
    q.running.set(job.id, running);
    if (job.kind === "analyse") breakOffLifts(q);
    void run(running).catch((error: unknown) => console.error("a job could not be ended", error));
  }
}

/** Where files come one after another, a lift that has given way is let be for so long: it must end one day. */
const letBeMs = 120_000;

/** A new file gets its score first: a lift takes a core for as long as an analysis, and loses at most half a minute. */
function breakOffLifts(q: Queue): void {
  const now = Date.now();
  for (const running of q.running.values()) {
    const { id, kind } = running.job;
    if (kind !== "lift" || now - (q.gaveWay.get(id) ?? 0) < letBeMs) continue;
    q.gaveWay.set(id, now);
    running.gaveWay = true;
    running.abort.abort();
  }
}

const brokenOff = (): Refusal =>
  refuse("internal", "This could not be worked out.", "Try again; if it fails again, the log says why.")
    .refusal;

/** Writes how a job ended, unless it was changed or cancelled meanwhile. */
async function settle(job: Job, state: JobState, refusal: Refusal | null, attempts: number): Promise<void> {
  const db = await database();
  await db
    .update(jobs)
    .set({ state, refusal, attempts })
    .where(and(eq(jobs.id, job.id), eq(jobs.key, job.key), inArray(jobs.state, ["queued", "running"])));
}

async function run(running: Running): Promise<void> {
  const { job, abort } = running;
  const q = queue();
  const isAnalysis = job.kind === "analyse";
  const onProgress = (progress: Progress) => {
    setProgress(job.kind, job.subject, progress);
    if (isAnalysis) announceAnalysis(job.subject, "running", progress);
  };
  let told: { state: JobState; message: string } = { state: "done", message: "Done" };
  let isOver = true;
  try {
    const db = await database();
    await db
      .update(jobs)
      .set({ state: "running" })
      .where(and(eq(jobs.id, job.id), eq(jobs.state, "queued")));
    const outcome = await executors[job.kind]({ db, subject: job.subject, signal: abort.signal, onProgress });
    if (abort.signal.aborted) throw new Cancelled();
    if (outcome && !outcome.ok) {
      told = { state: "failed", message: outcome.refusal.sentence };
      await settle(job, "failed", outcome.refusal, job.attempts + 1);
    } else await settle(job, "done", null, 0);
  } catch (error) {
    // At an end of the server the database may be closed before a job has noticed; the next start takes it up.
    if (error instanceof Cancelled || abort.signal.aborted || q.stopped) {
      told = { state: "cancelled", message: "Cancelled" };
      if (running.gaveWay && !q.stopped)
        await settle(job, "queued", null, job.attempts).catch(() => undefined);
    } else {
      const trouble = storageTroubleIn(error);
      const message = trouble ? `Waiting. ${trouble.refusal.sentence}` : "Trying again";
      told = { state: "queued", message };
      isOver = false;
      if (trouble) q.notBefore.set(job.id, Date.now() + troubleRetryMs);
      else {
        console.error(`${job.kind} of ${job.subject} failed`, error);
        const attempts = job.attempts + 1;
        const failed = attempts >= mostAttempts;
        if (failed) told = { state: "failed", message: brokenOff().sentence };
        isOver = failed;
        await settle(job, failed ? "failed" : "queued", failed ? brokenOff() : null, attempts).catch(
          () => undefined,
        );
        if (!failed) q.notBefore.set(job.id, Date.now() + retryMs * attempts);
      }
      setProgress(job.kind, job.subject, { message, done: 0 });
    }
  } finally {
    q.running.delete(job.id);
    if (isOver) setProgress(job.kind, job.subject, null);
    if (isAnalysis)
      announceAnalysis(job.subject, told.state, { message: told.message, done: isOver ? 1 : 0 });
    if (!q.stopped) {
      await studiesChanged(job).catch((error: unknown) => {
        if (!storageTroubleIn(error)) console.error("what follows from a job could not be begun", error);
        wakeIn(troubleRetryMs);
      });
      wake();
    }
  }
}

/** Begins what follows in all studies that a job is about. */
async function studiesChanged({ kind, subject }: Job): Promise<void> {
  const db = await database();
  const { itemId, against } = parsePairSubject(subject);
  const isOfFile = kind === "analyse" || kind === "render" || kind === "lift";
  const rows = await db
    .selectDistinct({ studyId: items.studyId })
    .from(items)
    .where(eq(isOfFile ? items.fileHash : items.id, itemId));
  for (const { studyId } of rows) {
    if (against) await continueStandIn(studyId, against);
    await studyChanged(studyId, { afterJob: true });
  }
}

/** Kinds that are done in tenths of a second: pages are told of their end rather than of their beginning. */
const quickKinds: readonly JobKind[] = ["plan", "align", "compare", "lens"];
/** When they take longer, pages are told that something is being worked out, */
const tellWorkingMs = 250;
/** and every now and then what of it is there. */
const tellAgainMs = 3_000;
/** Jobs that end together are told of as one. */
const togetherMs = 20;

/** Tells the pages of a study in a while, in place of what they were to be told before. */
function tellIn(ms: number, studyId: string, isWorking: boolean): void {
  const { telling } = queue();
  clearTimeout(telling.get(studyId));
  const timer = setTimeout(() => {
    telling.delete(studyId);
    announceStudy(studyId);
    // Again and again until its work is done.
    if (isWorking) tellIn(tellAgainMs, studyId, true);
  }, ms);
  timer.unref();
  telling.set(studyId, timer);
}

/** Tells the pages of a study of a change: now, or in a while if quick work is under way that will say so itself. */
function tell(studyId: string, isWorking: boolean, afterJob: boolean): void {
  const { telling } = queue();
  if (isWorking) {
    if (!telling.has(studyId)) tellIn(tellWorkingMs, studyId, true);
  } else if (afterJob) tellIn(togetherMs, studyId, false);
  else {
    clearTimeout(telling.get(studyId));
    telling.delete(studyId);
    announceStudy(studyId);
  }
}

/**
 * To be called after every change of a study: puts in the queue what the change asks for, writes the
 * summary for the list of studies, and tells the pages.
 */
export const studyChanged = (studyId: string, { afterJob = false } = {}): Promise<void> =>
  inTurn(queue().following, studyId, afterJob, (isAfterJob) => follow(studyId, isAfterJob));

async function follow(studyId: string, afterJob: boolean): Promise<void> {
  const db = await database();
  const loaded = await loadStudy(db, studyId);
  let isWorking = false;
  if (loaded) {
    let results = await resultsOf(db, loaded);
    const changes = [await keepFoundElements(db, results), await tieStems(db, results)];
    if (changes.includes(true)) results = (await readStudy(db, studyId)) ?? results;
    for (const job of desiredJobs(results)) {
      const waits = await enqueue(db, job);
      isWorking ||= waits && quickKinds.includes(job.kind);
    }
    // One that is about to end tells of itself.
    const own = new Set(itemsOf(results.study).map(({ id }) => id));
    isWorking ||= [...queue().running.values()].some(
      ({ job }) => quickKinds.includes(job.kind) && own.has(parsePairSubject(job.subject).itemId),
    );
    await writeSummary(db, results);
    wake();
  }
  tell(studyId, isWorking, afterJob);
}

/**
 * Begins what comparing with a version in place of the reference asks for, as far as it is missing. To
 * be called when somebody looks at it: it is not kept up to date otherwise.
 */
export async function compareWithStandIn(db: Database, results: StudyResults): Promise<void> {
  let waits = false;
  for (const job of desiredJobs(results)) {
    if (job.kind === "align" || job.kind === "compare" || job.kind === "lens")
      waits = (await enqueue(db, job)) || waits;
  }
  if (waits) wake();
}

/** What follows from a job about two versions. */
async function continueStandIn(studyId: string, against: string): Promise<void> {
  const db = await database();
  const [row] = await db.select({ number: items.number }).from(items).where(eq(items.id, against));
  const results = row?.number ? await readStudy(db, studyId, row.number) : null;
  if (results) await compareWithStandIn(db, results);
}

/** `studyChanged` after the answer has gone out; what goes wrong is logged and made up for at the next change. */
export function studyChangedSoon(studyId: string): void {
  void studyChanged(studyId).catch((error: unknown) => {
    if (!storageTroubleIn(error)) console.error("what follows from a change could not be begun", error);
  });
}

/** Takes up the work after a start. */
export async function resumeQueue(): Promise<void> {
  const db = await database();
  for (const { id } of await db.select({ id: studies.id }).from(studies)) {
    try {
      await studyChanged(id);
    } catch (error) {
      if (storageTroubleIn(error)) throw error;
      // One damaged study does not keep the others from going on.
      console.error(`study ${id} could not be taken up`, error);
    }
  }
  wake();
}

/** Stops a waiting or running analysis. Without effect on one that has ended. */
export async function cancelAnalysis(fileHash: string): Promise<void> {
  const db = await database();
  await db
    .update(jobs)
    .set({ state: "cancelled" })
    .where(
      and(eq(jobs.kind, "analyse"), eq(jobs.subject, fileHash), inArray(jobs.state, ["queued", "running"])),
    );
  for (const { job, abort } of queue().running.values()) {
    if (job.kind === "analyse" && job.subject === fileHash) abort.abort();
  }
  announceAnalysis(fileHash, "cancelled", { message: "Cancelled", done: 0 });
}

/** Has a job done once more, as when somebody asks for it or its result was lost. */
export async function requestAgain(kind: JobKind, subject: string, key: string): Promise<void> {
  await enqueue(await database(), { kind, subject, key }, { again: true });
  if (kind === "analyse") announceAnalysis(subject, "queued", { message: "Waiting", done: 0 });
  wake();
}

/** Whether nothing waits and nothing runs. */
export async function isIdle(): Promise<boolean> {
  const db = await database();
  const [row] = await db
    .select({ id: jobs.id })
    .from(jobs)
    .where(inArray(jobs.state, ["queued", "running"]))
    .limit(1);
  return queue().running.size === 0 && !row;
}

/** Ends all work in an orderly way. Running jobs are taken up at the next start. */
export async function stopQueue(): Promise<void> {
  const q = shared.plainMirrorQueue;
  if (q) {
    q.stopped = true;
    if (q.timer) clearTimeout(q.timer);
    for (const timer of q.telling.values()) clearTimeout(timer);
    for (const { abort } of q.running.values()) abort.abort();
    await q.filling;
  }
  cancelProcesses();
  await cancelThreads();
  delete shared.plainMirrorQueue;
}
