"use client";

import { useSyncExternalStore } from "react";
import type { JobRecord } from "@/core/study";
import { analysisOf, listenToNews } from "./news";

const subscribe = (onChange: () => void) =>
  listenToNews((news) => {
    if (news.kind === "analysis") onChange();
  });

/** How the analysis of a file stands: the page's own record, or newer news. */
export function useAnalysisNews(fileHash: string, record: JobRecord): JobRecord {
  const news = useSyncExternalStore(
    subscribe,
    () => analysisOf(fileHash),
    () => null,
  );
  // The page's own record wins once the job has ended.
  if (!news || record.state === "done" || record.state === "failed") return record;
  const { message, done, early } = news.progress;
  return { ...record, state: news.state, message, done, ...(early ? { early } : {}) };
}
