"use client";

import { useState } from "react";
import type { CoverageSpan } from "@/core/align/coverage";
import type { BarRange } from "@/core/grid/grid";
import type { DrumsShown } from "@/models/drumsShown";

const storageKey = "drum bars shown";
const counts = [1, 2, 4, 8];

function remembered(): number {
  try {
    const kept = Number(localStorage.getItem(storageKey));
    return counts.includes(kept) ? kept : 2;
  } catch {
    return 2;
  }
}

type Sides = Omit<DrumsShown, "compared">;

/** The first usual bar, one that is recreated if any is, of the section in which most is struck. */
function fullestBar({ sections, described, placed }: Sides, spans: readonly CoverageSpan[]): number | null {
  let best: { bar: number; hits: number } | null = null;
  const isAnswered = (bar: number) =>
    spans.some(({ referenceFirst, bars }) => bar >= referenceFirst && bar < referenceFirst + bars);
  for (const { firstBar, lastBar } of sections) {
    const usual = described.find(
      ({ bar, kind, letter }) =>
        bar >= firstBar &&
        bar <= lastBar &&
        kind === "typical" &&
        letter !== null &&
        (spans.length === 0 || isAnswered(bar)),
    );
    const hits =
      placed.filter(({ bar }) => bar >= firstBar && bar <= lastBar).length / (lastBar - firstBar + 1);
    if (usual && (!best || hits > 1.15 * best.hits)) best = { bar: usual.bar, hits };
  }
  return best?.bar ?? null;
}

/** Which bars the picture shows: from the selection on, else from where the drums begin. */
export function useBarsShown(shown: Sides | null, spans: readonly CoverageSpan[], selected: BarRange | null) {
  const [count, setCount] = useState<number | null>(null);
  const [turned, setTurned] = useState<{ from: string; by: number }>({ from: "", by: 0 });
  if (!shown) return null;
  const key = selected ? `${selected.first}-${selected.last}` : "all";
  // A selection of a few bars is shown whole; a longer one is turned over page by page.
  const length = selected ? selected.last - selected.first + 1 : Infinity;
  const fitting = counts.find((own) => own >= length);
  const usual = count ?? fitting ?? (typeof window === "undefined" ? 2 : remembered());
  const start = selected?.first ?? fullestBar(shown, spans) ?? shown.bars.first;
  const by = turned.from === key ? turned.by : 0;
  const last = Math.max(shown.bars.first, shown.bars.last - usual + 1);
  const first = Math.min(last, Math.max(shown.bars.first, start + by));
  return {
    first,
    count: Math.min(usual, shown.bars.last - first + 1),
    setCount(next: number) {
      setCount(next);
      try {
        localStorage.setItem(storageKey, String(next));
      } catch {
        // Without storage the choice holds for this visit.
      }
    },
    page: (direction: 1 | -1) => setTurned({ from: key, by: first - start + direction * usual }),
  };
}

export type BarsShown = NonNullable<ReturnType<typeof useBarsShown>>;
