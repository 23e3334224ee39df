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
 * Follows the analyses of some files as they happen.
 *
 * @param onEnded called when one of them has ended, so that its result can be fetched.
 * @returns the latest news of each file.
 */
export function useJobNews(hashes: readonly string[], onEnded: () => void): ReadonlyMap<string, News> {
  const [news, setNews] = useState<ReadonlyMap<string, News>>(new Map());
  const wanted = useRef(new Set<string>());
  const ended = useRef(onEnded);
  useEffect(() => {
    wanted.current = new Set(hashes);
    ended.current = onEnded;
  });
  useEffect(() => {
    const source = new EventSource("/api/events");
    let wasOpen = false;
    // After a lost connection something may have ended unheard.
    source.onopen = () => {
      if (wasOpen) ended.current();
      wasOpen = true;
    };
    source.onmessage = (event: MessageEvent<string>) => {
      const parsed = newsSchema.safeParse(JSON.parse(event.data));
      if (!parsed.success || !wanted.current.has(parsed.data.fileHash)) return;
      setNews((all) => new Map(all).set(parsed.data.fileHash, parsed.data));
      if (parsed.data.state !== "running") ended.current();
    };
    return () => source.close();
  }, []);
  return news;
}
