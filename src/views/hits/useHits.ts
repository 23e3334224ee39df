"use client";

import { useEffect, useState } from "react";
import { send, sentenceOf } from "@/components/requests";
import { hitsAnswerSchema, type HitsTrack, type ShownHit } from "@/models/hits";

export type HitsState =
  | { state: "none" }
  | { state: "waiting" }
  | { state: "there"; hits: readonly ShownHit[] }
  | { state: "failed"; sentence: string };

const known = new Map<string, readonly ShownHit[]>();
const mostKnown = 12;

/** The typical hits of a track, fetched once for as long as nothing that they depend on changes. */
export function useHits(track: HitsTrack | null): HitsState {
  const key = track?.key ?? null;
  const itemId = track?.itemId ?? null;
  const [told, setTold] = useState<{ key: string; state: HitsState } | null>(null);
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
        state: outcome.ok
          ? { state: "there", hits: outcome.value.hits }
          : { state: "failed", sentence: sentenceOf(outcome.refusal) },
      });
    });
    return () => {
      isGone = true;
    };
  }, [key, itemId]);
  if (key === null) return { state: "none" };
  const hits = known.get(key);
  if (hits) return { state: "there", hits };
  return told?.key === key ? told.state : { state: "waiting" };
}
