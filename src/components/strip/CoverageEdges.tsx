"use client";

import { useState, type KeyboardEvent, type PointerEvent } from "react";
import type { CoverageSpan } from "@/core/align/coverage";
import { barStart, barsOf } from "@/core/grid/grid";
import type { AlignedBars } from "@/core/study";

type Edge = "start" | "end";

/** A span with one edge moved by whole bars, kept within both tracks and off its neighbours. */
export function withEdgeMoved(
  spans: readonly CoverageSpan[],
  place: number,
  edge: Edge,
  by: number,
  { reference, version }: Pick<AlignedBars, "reference" | "version">,
): CoverageSpan[] {
  const span = spans[place]!;
  const others = spans.filter((_, i) => i !== place);
  const inReference = barsOf(reference);
  const inVersion = barsOf(version);
  const free = (first: number, last: number, key: "referenceFirst" | "versionFirst") =>
    others.every((other) => other[key] > last || other[key] + other.bars <= first);
  let moved = span;
  const step = Math.sign(by);
  for (let i = 0; i < Math.abs(by); i++) {
    const next =
      edge === "start"
        ? {
            referenceFirst: moved.referenceFirst + step,
            versionFirst: moved.versionFirst + step,
            bars: moved.bars - step,
          }
        : { ...moved, bars: moved.bars + step };
    const referenceLast = next.referenceFirst + next.bars - 1;
    const versionLast = next.versionFirst + next.bars - 1;
    if (
      next.bars < 1 ||
      next.referenceFirst < inReference.first ||
      next.versionFirst < inVersion.first ||
      referenceLast > inReference.last ||
      versionLast > inVersion.last ||
      !free(next.referenceFirst, referenceLast, "referenceFirst") ||
      !free(next.versionFirst, versionLast, "versionFirst")
    )
      break;
    moved = next;
  }
  return spans.map((other, i) => (i === place ? moved : other));
}

/** The edges of what is recreated, under the mirror line: dragged, or moved with the arrow keys. */
export function CoverageEdges({
  aligned,
  from,
  to,
  width,
  top,
  onChange,
}: {
  aligned: AlignedBars;
  /** Seconds at the left and right edge. */
  from: number;
  to: number;
  width: number;
  top: number;
  onChange(spans: CoverageSpan[]): void;
}) {
  const { reference, spans } = aligned;
  const [drag, setDrag] = useState<{ place: number; edge: Edge; x: number; by: number } | null>(null);
  const shown = drag ? withEdgeMoved(spans, drag.place, drag.edge, drag.by, aligned) : spans;
  const barWidth = (place: number) => {
    const { referenceFirst } = spans[place]!;
    const seconds = barStart(reference, referenceFirst + 1) - barStart(reference, referenceFirst);
    return (seconds / (to - from)) * width;
  };
  return (
    <>
      {shown.map((span, place) =>
        (["start", "end"] as const).map((edge) => {
          const bar = edge === "start" ? span.referenceFirst : span.referenceFirst + span.bars;
          const seconds = barStart(reference, bar);
          if (seconds < from - 1e-6 || seconds > to + 1e-6) return null;
          const says = `${edge === "start" ? "First" : "Last"} recreated bar: ${edge === "start" ? bar : bar - 1}`;
          return (
            <button
              key={`${place} ${edge}`}
              type="button"
              className={`coverage-edge ${edge}`}
              aria-label={`${says}; arrow keys move it`}
              title={`${says}. Drag to change which bars are answered.`}
              style={{ left: ((seconds - from) / (to - from)) * width, top }}
              onPointerDown={(event: PointerEvent<HTMLButtonElement>) => {
                event.currentTarget.setPointerCapture(event.pointerId);
                setDrag({ place, edge, x: event.clientX, by: 0 });
              }}
              onPointerMove={(event: PointerEvent<HTMLButtonElement>) => {
                if (!drag) return;
                const by = Math.round((event.clientX - drag.x) / Math.max(1, barWidth(drag.place)));
                if (by !== drag.by) setDrag({ ...drag, by });
              }}
              onPointerUp={() => {
                if (drag && drag.by !== 0)
                  onChange(withEdgeMoved(spans, drag.place, drag.edge, drag.by, aligned));
                setDrag(null);
              }}
              onPointerCancel={() => setDrag(null)}
              onKeyDown={(event: KeyboardEvent) => {
                const by = event.key === "ArrowLeft" ? -1 : event.key === "ArrowRight" ? 1 : 0;
                if (by === 0) return;
                event.stopPropagation();
                event.preventDefault();
                onChange(withEdgeMoved(spans, place, edge, by, aligned));
              }}
            />
          );
        }),
      )}
    </>
  );
}
