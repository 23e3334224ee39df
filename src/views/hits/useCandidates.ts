"use client";

import { useEffect, useState } from "react";
import { send, sentenceOf } from "@/components/requests";
import { candidatesAnswerSchema, type CandidatesAnswer } from "@/models/candidates";

export type CandidatesState =
  | { state: "waiting"; last: CandidatesAnswer | null }
  | { state: "there"; answer: CandidatesAnswer }
  | { state: "failed"; sentence: string };

/**
 * The candidates of the study held against a drum. While others are on their way, what was known of the
 * same drum stays.
 *
 * @param key changes with the drum and the candidates; null while there is nothing to ask for yet.
 */
export function useCandidates(trackId: string, hit: string, key: string | null): CandidatesState {
  const address = `/api/items/${trackId}/hits/${hit}/candidates`;
  const [told, setTold] = useState<{ address: string; key: string; outcome: CandidatesState } | null>(null);
  useEffect(() => {
    if (key === null) return;
    let isGone = false;
    void send("GET", address, undefined, candidatesAnswerSchema).then((outcome) => {
      if (isGone) return;
      setTold({
        address,
        key,
        outcome: outcome.ok
          ? { state: "there", answer: outcome.value }
          : { state: "failed", sentence: sentenceOf(outcome.refusal) },
      });
    });
    return () => {
      isGone = true;
    };
  }, [address, key]);
  if (told?.address === address && told.key === key) return told.outcome;
  const last = told?.address === address && told.outcome.state === "there" ? told.outcome.answer : null;
  return { state: "waiting", last };
}
