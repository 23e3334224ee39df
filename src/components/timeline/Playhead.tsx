"use client";

import { useRef } from "react";
import { useFrames } from "@/components/useFrames";
import { shareAt, type Axis } from "./axis";

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
    const share = at === null ? -1 : shareAt(axis, at);
    if (!line.current || share === shown.current) return false;
    shown.current = share;
    line.current.style.visibility = share >= 0 && share < 1 ? "visible" : "hidden";
    line.current.style.left = `${100 * share}%`;
    return true;
  });
  return <div ref={line} className="timeline-playhead" style={{ top }} />;
}
