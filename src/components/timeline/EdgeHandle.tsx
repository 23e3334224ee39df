"use client";

import { useRef, type CSSProperties } from "react";

/** An edge on a timeline: dragged by whole steps, or moved with the arrow keys. */
export function EdgeHandle({
  className,
  style,
  label,
  title,
  step,
  onDrag,
  onMove,
}: {
  className: string;
  style: CSSProperties;
  label: string;
  title: string;
  /** Pixels of one step. */
  step(): number;
  /** While it is dragged, so many steps from where it was; 0 once it is let go. */
  onDrag(by: number): void;
  onMove(by: number): void;
}) {
  const drag = useRef<{ x: number; by: number; step: number } | null>(null);
  const leave = () => {
    drag.current = null;
    onDrag(0);
  };
  return (
    <button
      type="button"
      className={`timeline-edge ${className}`}
      style={style}
      aria-label={`${label}; arrow keys move it`}
      title={title}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        drag.current = { x: event.clientX, by: 0, step: Math.max(1, step()) };
      }}
      onPointerMove={(event) => {
        const now = drag.current;
        if (!now) return;
        const by = Math.round((event.clientX - now.x) / now.step);
        if (by === now.by) return;
        now.by = by;
        onDrag(by);
      }}
      onPointerUp={() => {
        const by = drag.current?.by ?? 0;
        leave();
        if (by !== 0) onMove(by);
      }}
      onPointerCancel={leave}
      onKeyDown={(event) => {
        const by = event.key === "ArrowLeft" ? -1 : event.key === "ArrowRight" ? 1 : 0;
        if (by === 0) return;
        event.stopPropagation();
        event.preventDefault();
        onMove(by);
      }}
    />
  );
}
