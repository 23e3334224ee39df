"use client";

import { useEffect, useState } from "react";
import { send, sentenceOf } from "@/components/requests";
import { layersAnswerSchema, type ShownLayer } from "@/models/candidates";

export type LayersState =
  | { state: "none" }
  | { state: "waiting" }
  | { state: "there"; layers: readonly ShownLayer[] }
  | { state: "failed"; sentence: string };

/** Second layers for a candidate, found on request. */
export function useLayers(address: string | null): LayersState {
  const [told, setTold] = useState<{ address: string; state: LayersState } | null>(null);
  useEffect(() => {
    if (address === null) return;
    let isGone = false;
    void send("GET", address, undefined, layersAnswerSchema).then((outcome) => {
      if (isGone) return;
      setTold({
        address,
        state: outcome.ok
          ? { state: "there", layers: outcome.value.layers }
          : { state: "failed", sentence: sentenceOf(outcome.refusal) },
      });
    });
    return () => {
      isGone = true;
    };
  }, [address]);
  if (address === null) return { state: "none" };
  return told?.address === address ? told.state : { state: "waiting" };
}
