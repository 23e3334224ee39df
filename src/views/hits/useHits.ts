"use client";

import { useEffect, useState } from "react";
import { send, sentenceOf } from "@/components/requests";
import { hitsAnswerSchema, type HitsTrack, type ShownHit } from "@/models/hits";

export type HitsState =
  | { state: "none" }
  | { state: "waiting" }
  /** Current is false while they are averaged again after a change. */
  | { state: "there"; hits: readonly ShownHit[]; current: boolean }
  | { state: "failed"; sentence: string };

const known = new Map<string, readonly ShownHit[]>();
const mostKnown = 12;

/** The typical hits of a track, fetched once for as long as nothing that they depend on changes. */
export function useHits(track: HitsTrack | null): HitsState {
  const key = track?.key ?? null;
  const itemId = track?.itemId ?? null;
  const [told, setTold] = useState<{ key: string; itemId: string; state: HitsState } | null>(null);
  useEffect(() => {
    if (key === null || itemId === null || known.has(key)) return;
    let isGone = false;
    void send("GET", `/api/items/${itemId}/hits`, undefined, hitsAnswerSchema).then((outcome) => {
      if (outcome.ok) {
        known.set(key, outcome.value.hits);
        if (known.size > mostKnown) known.delete(known.keys().next().value!);
      }
      if (isGone) return;
      setTold({
        key,
        itemId,
        state: outcome.ok
          ? { state: "there", hits: outcome.value.hits, current: true }
          : { state: "failed", sentence: sentenceOf(outcome.refusal) },
      });
    });
    return () => {
      isGone = true;
    };
  }, [key, itemId]);
  if (key === null) return { state: "none" };
  const hits = known.get(key);
  if (hits) return { state: "there", hits, current: true };
  if (told?.key === key) return told.state;
  const last = told?.itemId === itemId && told.state.state === "there" ? told.state.hits : null;
  return last ? { state: "there", hits: last, current: false } : { state: "waiting" };
}
