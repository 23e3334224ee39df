"use client";

import { useState } from "react";
import { percentAt, type Axis } from "@/components/timeline/axis";
import { EdgeHandle } from "@/components/timeline/EdgeHandle";
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
  axis,
  width,
  top,
  onChange,
}: {
  aligned: AlignedBars;
  /** Seconds of the reference. */
  axis: Axis;
  width: number;
  top: number;
  onChange(spans: CoverageSpan[]): void;
}) {
  const { reference, spans } = aligned;
  const [drag, setDrag] = useState<{ place: number; edge: Edge; by: number } | null>(null);
  const shown = drag ? withEdgeMoved(spans, drag.place, drag.edge, drag.by, aligned) : spans;
  const barWidth = (place: number) => {
    const { referenceFirst } = spans[place]!;
    const seconds = barStart(reference, referenceFirst + 1) - barStart(reference, referenceFirst);
    return (seconds / (axis.to - axis.from)) * width;
  };
  return (
    <>
      {shown.map((span, place) =>
        (["start", "end"] as const).map((edge) => {
          const bar = edge === "start" ? span.referenceFirst : span.referenceFirst + span.bars;
          const seconds = barStart(reference, bar);
          if (seconds < axis.from - 1e-6 || seconds > axis.to + 1e-6) return null;
          const says = `${edge === "start" ? "First" : "Last"} recreated bar: ${edge === "start" ? bar : bar - 1}`;
          return (
            <EdgeHandle
              key={`${place} ${edge}`}
              className={`coverage-edge ${edge}`}
              style={{ left: percentAt(axis, seconds), top }}
              label={says}
              title={`${says}. Drag to change which bars are answered.`}
              step={() => barWidth(place)}
              onDrag={(by) => setDrag(by === 0 ? null : { place, edge, by })}
              onMove={(by) => onChange(withEdgeMoved(spans, place, edge, by, aligned))}
            />
          );
        }),
      )}
    </>
  );
}
