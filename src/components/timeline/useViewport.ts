import { useCallback, useEffect, useMemo, useState, type RefObject } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import type { Seconds } from "@/core/units";
import { usePlayback } from "@/listening/Playback";
import type { Axis } from "./axis";
import { moved, zoomed } from "./viewport";

/** The part of the whole that is shown, changed by wheel, keys and buttons. */
export function useViewport(
  canvas: RefObject<HTMLCanvasElement | null>,
  whole: Seconds,
  selection: Axis | null,
) {
  const playback = usePlayback();
  const [view, setView] = useState<Axis | null>(null);
  const axis = useMemo(
    (): Axis => (view && view.to <= whole + 1 ? view : { from: 0, to: whole }),
    [view, whole],
  );
  const showAll = useCallback(() => setView(null), []);
  const zoom = useCallback(
    (factor: number, around?: Seconds) =>
      setView((now) => {
        const middle = selection ?? now ?? { from: 0, to: whole };
        return zoomed(now, whole, factor, around ?? (middle.from + middle.to) / 2);
      }),
    [whole, selection],
  );

  useEffect(() => {
    const element = canvas.current;
    const { from, to } = axis;
    if (!element) return;
    // Bound by hand: the framework's wheel listeners cannot keep the page from scrolling.
    const turn = (event: WheelEvent) => {
      event.preventDefault();
      const box = element.getBoundingClientRect();
      const at = from + ((event.clientX - box.left) / box.width) * (to - from);
      if (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY))
        setView((now) => moved(now, whole, Math.sign(event.deltaX || event.deltaY) * 0.1));
      else zoom(event.deltaY > 0 ? 1.25 : 0.8, at);
    };
    element.addEventListener("wheel", turn, { passive: false });
    return () => element.removeEventListener("wheel", turn);
  }, [canvas, axis, whole, zoom]);

  // By the character, wherever the keyboard has it.
  const byCharacter = { useKey: true, ignoreModifiers: true, splitKey: " ", preventDefault: true } as const;
  useHotkeys("+,=", () => zoom(0.5, playback.position()), byCharacter, [zoom, playback]);
  useHotkeys("-", () => zoom(2, playback.position()), byCharacter, [zoom, playback]);
  useHotkeys("0", showAll);
  return { axis, zoom, showAll, isCloser: axis.to - axis.from < whole - 1e-6 };
}
