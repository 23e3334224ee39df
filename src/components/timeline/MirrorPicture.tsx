"use client";

import type { ReactNode } from "react";
import type { BarRange } from "@/core/grid/grid";
import type { Seconds } from "@/core/units";
import { usePlayback } from "@/listening/Playback";
import { pointedAt, stretchOn, type Axis } from "./axis";
import { Playhead } from "./Playhead";
import { useRangeDrag } from "./useRangeDrag";

/**
 * A picture over bars on the mirror line: pressed to hear, dragged to select, with playhead and
 * selection. What is drawn in it lies from 0 to 100 across and from 0 to `height` down, the line in
 * the middle.
 */
export function MirrorPicture({
  bars,
  until = bars.last + 1,
  beatsPerBar,
  height,
  label,
  startOfBar,
  selected,
  onBars,
  onPointed,
  children,
}: {
  bars: BarRange;
  /** Where it ends, in bars; after the last bar when left out. */
  until?: number;
  beatsPerBar: number;
  height: number;
  label: string;
  startOfBar(bar: number): Seconds;
  selected: BarRange | null;
  onBars(bars: BarRange): void;
  /** The place under the pointer, in bars; null when it leaves. */
  onPointed?(at: number | null): void;
  children: ReactNode;
}) {
  const playback = usePlayback();
  const axis: Axis = { from: bars.first, to: until };
  const barAt = (at: number) => Math.min(bars.last, Math.floor(at));
  const { dragged, handlers } = useRangeDrag(
    axis,
    selected && { from: selected.first, to: selected.last + 0.999 },
    {
      onPoint: (at) => playback.seek(startOfBar(barAt(at))),
      onRange: ({ from, to }) => onBars({ first: barAt(from), last: barAt(to) }),
    },
  );
  const marked = dragged ? { first: barAt(dragged.from), last: barAt(dragged.to) } : selected;
  const frame = marked && stretchOn(axis, marked.first, marked.last + 1);
  return (
    <div className="mirror-picture">
      <svg
        viewBox={`0 0 100 ${height}`}
        preserveAspectRatio="none"
        style={{ height }}
        role="img"
        aria-label={label}
        {...handlers}
        onPointerMove={(event) => {
          handlers.onPointerMove(event);
          onPointed?.(pointedAt(axis, event, event.currentTarget));
        }}
        onPointerLeave={() => onPointed?.(null)}
      >
        {children}
        <line x1={0} x2={100} y1={height / 2} y2={height / 2} />
      </svg>
      {frame && <div className="selection-frame" style={{ top: 0, left: frame.left, width: frame.width }} />}
      <Playhead axis={axis} position={() => playback.beat() / beatsPerBar + 1} />
    </div>
  );
}

/** One value of every bar: the reference's upwards, what answers it downwards. */
export function MirrorBars({
  rows,
  height,
  scale,
}: {
  rows: readonly { bar: number; reference: number | null; version: number | null }[];
  height: number;
  /** 0 at the line, 1 at the edges. */
  scale(value: number): number;
}) {
  const width = 100 / rows.length;
  const half = height / 2;
  return (
    <>
      {rows.map((row, i) => (
        <g key={row.bar}>
          {row.reference !== null && (
            <rect
              className="up"
              x={i * width + width * 0.06}
              width={width * 0.88}
              y={half - scale(row.reference) * (half - 2)}
              height={scale(row.reference) * (half - 2)}
            />
          )}
          {row.version !== null && (
            <rect
              className="down"
              x={i * width + width * 0.06}
              width={width * 0.88}
              y={half}
              height={scale(row.version) * (half - 2)}
            />
          )}
        </g>
      ))}
    </>
  );
}
