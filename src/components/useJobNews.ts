"use client";

import { useEffect, useRef, useState } from "react";
import { z } from "zod";

const newsSchema = z.object({
  fileHash: z.string(),
  state: z.enum(["queued", "running", "done", "failed", "cancelled"]),
  progress: z.object({ says: z.string(), done: z.number() }),
});

export type News = z.infer<typeof newsSchema>;

/**
 * Follows all analyses as they happen. News of files that the page does not know yet is kept too:
 * the end of a short analysis may be told before the page shows its file.
 *
 * @param pending whether the page waits for an analysis.
 * @param onEnded called when one has ended, so that its result can be fetched.
 * @returns the latest news of each file, by its hash.
 */
export function useJobNews(pending: boolean, onEnded: () => void): ReadonlyMap<string, News> {
  const [news, setNews] = useState<ReadonlyMap<string, News>>(new Map());
  const latest = useRef({ pending, onEnded });
  useEffect(() => {
    latest.current = { pending, onEnded };
  });
  useEffect(() => {
    const source = new EventSource("/api/events");
    let wasOpen = false;
    // Between reading the page and hearing the news, something may have ended unheard.
    source.onopen = () => {
      if (wasOpen || latest.current.pending) latest.current.onEnded();
      wasOpen = true;
    };
    source.onmessage = (event: MessageEvent<string>) => {
      const parsed = newsSchema.safeParse(JSON.parse(event.data));
      if (!parsed.success) return;
      setNews((all) => new Map(all).set(parsed.data.fileHash, parsed.data));
      if (parsed.data.state !== "running") latest.current.onEnded();
    };
    return () => source.close();
  }, []);
  return news;
}
