"use client";

import { useRef } from "react";
import { useFrames } from "@/components/useFrames";
import { shareAt, type Axis } from "./axis";

const { round } = Math;

/** So many places does it take along the axis: a third of a pixel or less. */
const places = 6000;

/** The line where sound is, drawn before every frame; hidden where that is not on the axis. */
export function Playhead({
  axis,
  position,
  top = 0,
}: {
  axis: Axis;
  /** Where on the axis; null where there is nothing to show. */
  position(): number | null;
  /** Pixels from the top of what it stands in. */
  top?: number;
}) {
  const line = useRef<HTMLDivElement>(null);
  const shown = useRef<number>(null);
  useFrames(() => {
    const at = position();
    const share = at === null ? -1 : round(shareAt(axis, at) * places) / places;
    if (!line.current || share === shown.current) return false;
    shown.current = share;
    line.current.style.visibility = share >= 0 && share < 1 ? "visible" : "hidden";
    // Moved as a layer of its own: nothing below it is laid out or painted again.
    line.current.style.transform = `translateX(${100 * share}cqw)`;
    return true;
  });
  return (
    <div className="timeline-playhead" style={{ top }}>
      <div ref={line} />
    </div>
  );
}
