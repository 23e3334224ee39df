/**
 * News from the server: how analyses go, and which studies have changed. All tabs share one stream:
 * the tab that holds a lock listens and passes on what it hears.
 */
import { z } from "zod";
import { earlyFindingsSchema } from "@/core/analysis/early";

const newsSchema = z.discriminatedUnion("kind", [
  z.object({
    kind: z.literal("analysis"),
    fileHash: z.string(),
    state: z.enum(["queued", "running", "done", "failed", "cancelled"]),
    progress: z.object({
      message: z.string(),
      done: z.number(),
      early: earlyFindingsSchema.optional(),
    }),
  }),
  z.object({ kind: z.literal("study"), studyId: z.string(), revision: z.number() }),
]);

export type News = z.infer<typeof newsSchema>;
export type AnalysisNews = Extract<News, { kind: "analysis" }>;

const name = "plain-mirror-news";
const hello = "hello";

const listeners = new Set<(news: News) => void>();
const revisions = new Map<string, News>();
const analyses = new Map<string, AnalysisNews>();
let stop: (() => void) | null = null;

function hear(news: News): void {
  if (news.kind === "study") revisions.set(news.studyId, news);
  else analyses.set(news.fileHash, news);
  listeners.forEach((listener) => listener(news));
}

function start(): () => void {
  const channel = typeof BroadcastChannel === "undefined" ? null : new BroadcastChannel(name);
  const leaving = new AbortController();
  let source: EventSource | null = null;
  const take = (data: unknown, isOwn: boolean) => {
    const parsed = newsSchema.safeParse(data);
    if (!parsed.success) return;
    hear(parsed.data);
    if (isOwn) channel?.postMessage(parsed.data);
  };
  const open = () => {
    source = new EventSource("/api/events");
    source.onmessage = (event: MessageEvent<string>) => take(JSON.parse(event.data), true);
  };
  if (channel) {
    channel.onmessage = (event: MessageEvent<unknown>) => {
      if (event.data !== hello) take(event.data, false);
      else if (source)
        for (const news of [...revisions.values(), ...analyses.values()]) channel.postMessage(news);
    };
  }
  if (channel && "locks" in navigator) {
    channel.postMessage(hello);
    void navigator.locks
      .request(name, { signal: leaving.signal }, () => {
        open();
        return new Promise<void>((resolve) => leaving.signal.addEventListener("abort", () => resolve()));
      })
      // Only the end of this tab rejects the request.
      .catch(() => undefined);
  } else open();
  return () => {
    leaving.abort();
    source?.close();
    channel?.close();
  };
}

/** Calls back for all news until the returned function is called. */
export function listenToNews(listener: (news: News) => void): () => void {
  listeners.add(listener);
  stop ??= start();
  return () => {
    listeners.delete(listener);
    if (listeners.size > 0) return;
    stop?.();
    stop = null;
  };
}

/** The newest word on the analysis of a file. */
export const analysisOf = (fileHash: string): AnalysisNews | null => analyses.get(fileHash) ?? null;
