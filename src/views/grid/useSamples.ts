"use client";

import { useEffect, useState } from "react";
import { framesPerChunk, unpackFrames } from "@/core/formats/chunks";

const kept = new Map<string, Float32Array>();
const mostKept = 48;

async function fetchMono(hash: string, chunk: number): Promise<Float32Array> {
  const key = `${hash}/${chunk}`;
  const known = kept.get(key);
  if (known) return known;
  const response = await fetch(`/api/audio/${hash}/${chunk}`);
  if (!response.ok) throw new Error("no samples");
  const [left, right] = unpackFrames(new Uint8Array(await response.arrayBuffer()));
  const mono = left.map((value, i) => (value + right[i]!) / 2);
  if (kept.size >= mostKept) kept.delete(kept.keys().next().value!);
  kept.set(key, mono);
  return mono;
}

/** Samples of some seconds of a file, both channels averaged. */
export interface SampleWindow {
  samples: Float32Array;
  /** Time of the first. */
  from: number;
}

/** The samples around a window of a file; null until they are there. */
export function useSamples(
  hash: string | null,
  sampleRate: number,
  from: number,
  to: number,
): SampleWindow | null {
  const first = Math.max(0, Math.floor((from * sampleRate) / framesPerChunk));
  const last = Math.max(first, Math.floor((to * sampleRate) / framesPerChunk));
  const key = hash && `${hash} ${first} ${last}`;
  const [found, setFound] = useState<{ key: string; window: SampleWindow } | null>(null);
  useEffect(() => {
    if (!hash || !key) return;
    let gone = false;
    void Promise.all(Array.from({ length: last - first + 1 }, (_, i) => fetchMono(hash, first + i)))
      .then((pieces) => {
        const samples = new Float32Array(pieces.reduce((sum, piece) => sum + piece.length, 0));
        let at = 0;
        for (const piece of pieces) {
          samples.set(piece, at);
          at += piece.length;
        }
        if (!gone) setFound({ key, window: { samples, from: (first * framesPerChunk) / sampleRate } });
      })
      .catch(() => undefined);
    return () => {
      gone = true;
    };
  }, [hash, key, first, last, sampleRate]);
  return found?.key === key ? found.window : null;
}
