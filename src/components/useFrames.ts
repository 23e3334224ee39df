"use client";

import { useEffect, useRef } from "react";

/**
 * Draws before every frame what changes too often to be rendered, as a playhead.
 *
 * @param draw of the newest rendering.
 */
export function useFrames(draw: () => void): void {
  const newest = useRef(draw);
  useEffect(() => {
    newest.current = draw;
  });
  useEffect(() => {
    let frame = 0;
    const show = () => {
      newest.current();
      frame = requestAnimationFrame(show);
    };
    show();
    return () => cancelAnimationFrame(frame);
  }, []);
}
