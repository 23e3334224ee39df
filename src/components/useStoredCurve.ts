"use client";

import { useEffect, useState } from "react";

const known = new Map<string, Uint8Array<ArrayBuffer>>();

/** A stored curve of a file as raw bytes, fetched once; null until it is there. */
export function useStoredCurve(
  hash: string | null,
  curve: "overview" | "energies" | "onsets",
): Uint8Array<ArrayBuffer> | null {
  const key = hash && `${hash}/${curve}`;
  const [fetched, setFetched] = useState<{ key: string; data: Uint8Array<ArrayBuffer> } | null>(null);
  useEffect(() => {
    if (!key || known.has(key)) return;
    let gone = false;
    void fetch(`/api/files/${key}`)
      .then((response) => (response.ok ? response.arrayBuffer() : null))
      .then((buffer) => {
        if (!buffer) return;
        known.set(key, new Uint8Array(buffer));
        if (!gone) setFetched({ key, data: known.get(key)! });
      })
      .catch(() => undefined);
    return () => {
      gone = true;
    };
  }, [key]);
  if (!key) return null;
  return known.get(key) ?? (fetched?.key === key ? fetched.data : null);
}
