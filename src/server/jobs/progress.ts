/** How far running work is, and who wants to hear of it. Kept in memory: the database knows only states. */
import { EventEmitter } from "node:events";
import type { Progress } from "../decoding/protocol";
import type { JobKind, JobState } from "../storage/schema";

export type { Progress };

/** What listeners are told. */
export type News =
  /** Of the analysis of a file. */
  | { kind: "analysis"; fileHash: string; state: JobState; progress: Progress }
  /** Something of a study has changed; pages that show an older revision ask for it again. */
  | { kind: "study"; studyId: string; revision: number };

interface Board {
  emitter: EventEmitter;
  progress: Map<string, Progress>;
  revisions: Map<string, number>;
}

const shared = globalThis as { plainMirrorNews?: Board };
const board = (): Board =>
  (shared.plainMirrorNews ??= {
    emitter: new EventEmitter().setMaxListeners(0),
    progress: new Map(),
    revisions: new Map(),
  });

const keyOf = (kind: JobKind, subject: string) => `${kind} ${subject}`;

export const progressOf = (kind: JobKind, subject: string): Progress | null =>
  board().progress.get(keyOf(kind, subject)) ?? null;

export function setProgress(kind: JobKind, subject: string, progress: Progress | null): void {
  if (progress) board().progress.set(keyOf(kind, subject), progress);
  else board().progress.delete(keyOf(kind, subject));
}

/** The newest revision of a study; it only grows, also over restarts. */
export const revisionOf = (studyId: string): number => {
  const { revisions } = board();
  const known = revisions.get(studyId);
  if (known !== undefined) return known;
  revisions.set(studyId, Date.now());
  return revisions.get(studyId)!;
};

/** A revision that no study has passed yet. */
export const newestRevision = (): number => Math.max(Date.now(), ...board().revisions.values());

/** Says that something of a study has changed. */
export function announceStudy(studyId: string): number {
  const revision = Math.max(revisionOf(studyId) + 1, Date.now());
  board().revisions.set(studyId, revision);
  board().emitter.emit("news", { kind: "study", studyId, revision } satisfies News);
  return revision;
}

export const announceAnalysis = (fileHash: string, state: JobState, progress: Progress): void => {
  board().emitter.emit("news", { kind: "analysis", fileHash, state, progress } satisfies News);
};

/** Revisions of all studies that anybody has asked for since the start. */
export const knownRevisions = (): News[] =>
  [...board().revisions].map(([studyId, revision]) => ({ kind: "study", studyId, revision }));

/** Calls back for all news until the returned function is called. */
export function listen(onNews: (news: News) => void): () => void {
  board().emitter.on("news", onNews);
  return () => board().emitter.off("news", onNews);
}
