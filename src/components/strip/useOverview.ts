"use client";

import { useEffect, useState } from "react";

const known = new Map<string, Uint8Array>();

/** The waveform overview of a file, fetched once; null until it is there. */
export function useOverview(hash: string | null): Uint8Array | null {
  const [fetched, setFetched] = useState<{ hash: string; data: Uint8Array } | null>(null);
  useEffect(() => {
    if (!hash || known.has(hash)) return;
    let gone = false;
    void fetch(`/api/files/${hash}/overview`)
      .then((response) => (response.ok ? response.arrayBuffer() : null))
      .then((buffer) => {
        if (!buffer) return;
        known.set(hash, new Uint8Array(buffer));
        if (!gone) setFetched({ hash, data: known.get(hash)! });
      })
      .catch(() => undefined);
    return () => {
      gone = true;
    };
  }, [hash]);
  if (!hash) return null;
  return known.get(hash) ?? (fetched?.hash === hash ? fetched.data : null);
}
