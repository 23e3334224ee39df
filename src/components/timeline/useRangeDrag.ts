import { useState, type PointerEvent } from "react";
import { pointedAt, type Axis } from "./axis";

/** Movement below this many pixels is a click, not a selection. */
const clickReach = 4;

/**
 * Dragging over a timeline selects a stretch of it; a click points at a place.
 *
 * @param kept what is selected; with Shift it is stretched from its far end.
 * @param onPoint where nothing was dragged.
 */
export function useRangeDrag(
  axis: Axis,
  kept: Axis | null,
  { onPoint, onRange }: { onPoint(at: number): void; onRange(range: Axis): void },
) {
  const [drag, setDrag] = useState<{ anchor: number; now: number; x: number; moved: boolean } | null>(null);
  const rangeOf = (anchor: number, now: number): Axis => ({
    from: Math.min(anchor, now),
    to: Math.max(anchor, now),
  });
  const at = (event: PointerEvent) => pointedAt(axis, event, event.currentTarget);
  return {
    /** What is dragged over just now; null where nothing is. */
    dragged: drag?.moved ? rangeOf(drag.anchor, drag.now) : null,
    handlers: {
      onPointerDown(event: PointerEvent) {
        event.currentTarget.setPointerCapture(event.pointerId);
        const now = at(event);
        const anchor =
          event.shiftKey && kept
            ? Math.abs(now - kept.from) < Math.abs(now - kept.to)
              ? kept.to
              : kept.from
            : now;
        setDrag({ anchor, now, x: event.clientX, moved: event.shiftKey });
      },
      onPointerMove(event: PointerEvent) {
        if (!drag) return;
        const moved = drag.moved || Math.abs(event.clientX - drag.x) > clickReach;
        setDrag({ ...drag, now: at(event), moved });
      },
      onPointerUp(event: PointerEvent) {
        if (!drag) return;
        const now = at(event);
        setDrag(null);
        if (drag.moved) onRange(rangeOf(drag.anchor, now));
        else onPoint(now);
      },
      onPointerCancel: () => setDrag(null),
    },
  };
}
