"use client";

import { useRouter } from "next/navigation";
import { useCallback, useEffect, useRef, useState, useTransition } from "react";
import { listenToNews, type News } from "./news";

/** A page that cannot catch up is asked for so often and no more. */
const mostTries = 5;

/**
 * Keeps a page at the newest revision that was heard of: it is asked for again when it lags behind,
 * and once more where that was lost, as when the address changed meanwhile.
 *
 * @param revision that the page shows.
 * @param revisionIn the revision that news asks for; null where it is not about this page.
 * @returns a function that asks for the page again now.
 */
export function useRefresh(revision: number, revisionIn: (news: News) => number | null): () => void {
  const router = useRouter();
  const [wanted, setWanted] = useState(0);
  const [isPending, startTransition] = useTransition();
  const tries = useRef({ wanted: 0, count: 0 });
  const latest = useRef(revisionIn);
  useEffect(() => {
    latest.current = revisionIn;
  });
  useEffect(
    () =>
      listenToNews((news) => {
        const next = latest.current(news);
        if (next !== null) setWanted((now) => Math.max(now, next));
      }),
    [],
  );
  useEffect(() => {
    if (wanted <= revision || isPending) return;
    if (tries.current.wanted !== wanted) tries.current = { wanted, count: 0 };
    if (++tries.current.count > mostTries) return;
    startTransition(() => router.refresh());
  }, [wanted, revision, isPending, router]);
  return useCallback(() => startTransition(() => router.refresh()), [router]);
}
