"use client";

import { useEffect, useState } from "react";
import type { CurveName } from "@/core/analysis/curves";
import { analysisVersion } from "@/core/analysis/result";

/** A stored curve of a file, as raw bytes, with its steps a second. */
export interface StoredCurve {
  data: Uint8Array<ArrayBuffer>;
  rate: number;
}

const known = new Map<string, StoredCurve>();
/** Curves that are kept; a waveform of four minutes takes 160 KB. */
const mostKept = 40;

/** The samples of a curve of 32-bit floats. */
export const floatsOf = ({ data }: StoredCurve): Float32Array =>
  new Float32Array(data.buffer, data.byteOffset, data.byteLength >> 2);

/** A stored curve of a file, fetched once; null until it is there. */
export function useStoredCurve(hash: string | null, name: CurveName): StoredCurve | null {
  const key = hash && `${hash}/${analysisVersion}/${name}`;
  const [fetched, setFetched] = useState<{ key: string; curve: StoredCurve } | null>(null);
  useEffect(() => {
    if (!key || known.has(key)) return;
    const leaving = new AbortController();
    void fetch(`/api/curves/${key}`, { signal: leaving.signal })
      .then(async (response) => {
        if (!response.ok) return;
        const rate = Number(response.headers.get("X-Curve-Rate"));
        const curve = { data: new Uint8Array(await response.arrayBuffer()), rate };
        known.set(key, curve);
        if (known.size > mostKept) known.delete(known.keys().next().value!);
        setFetched({ key, curve });
      })
      // Left as it is: the picture stays empty, and is tried again when it is shown anew.
      .catch(() => undefined);
    return () => leaving.abort();
  }, [key]);
  if (!key) return null;
  return known.get(key) ?? (fetched?.key === key ? fetched.curve : null);
}
