"use client";

import { useEffect, useRef } from "react";

/** Milliseconds between looks while nothing moves. */
const restMilliseconds = 60;

/**
 * Draws before every frame what changes too often to be rendered, as a playhead. While nothing moves it
 * only looks now and then, so that a page at rest leaves the machine at rest.
 *
 * @param draw of the newest rendering; answers whether it changed anything.
 */
export function useFrames(draw: () => boolean): void {
  const newest = useRef(draw);
  useEffect(() => {
    newest.current = draw;
  });
  useEffect(() => {
    let frame = 0;
    let rest: ReturnType<typeof setTimeout> | undefined;
    const next = () => {
      frame = requestAnimationFrame(show);
    };
    const show = () => {
      if (newest.current()) next();
      else rest = setTimeout(next, restMilliseconds);
    };
    show();
    return () => {
      cancelAnimationFrame(frame);
      clearTimeout(rest);
    };
  }, []);
}
