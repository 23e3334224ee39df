"use client";

import { useEffect, useState } from "react";
import { floatsOf, useStoredCurve } from "@/components/useStoredCurve";
import { lowEndBand, type LowEndBand } from "@/core/lowEnd";

/** Bands that were made: two sides at a few cut-offs. */
const made = new Map<string, LowEndBand>();
const mostMade = 6;

/** The low end of a file below a cut-off, and what of it is deeper still; null until it is there. */
export function useLowEnd(hash: string, cutOff: number, deepest: number): LowEndBand | null {
  const kick = useStoredCurve(hash, "lowKick");
  const rest = useStoredCurve(hash, "lowRest");
  const side = useStoredCurve(hash, "lowSide");
  const key = `${hash} ${cutOff} ${deepest}`;
  const [ready, setReady] = useState<string | null>(null);
  useEffect(() => {
    if (!kick || !rest || !side || made.has(key)) return;
    // After the picture that stands has been drawn: filtering takes some fifty milliseconds.
    const later = setTimeout(() => {
      const samples = { kick: floatsOf(kick), rest: floatsOf(rest), side: floatsOf(side) };
      made.set(key, lowEndBand({ rate: kick.rate, ...samples }, cutOff, deepest));
      if (made.size > mostMade) made.delete(made.keys().next().value!);
      setReady(key);
    });
    return () => clearTimeout(later);
  }, [kick, rest, side, key, cutOff, deepest]);
  return ready === key || (kick && rest && side) ? (made.get(key) ?? null) : null;
}
