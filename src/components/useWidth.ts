"use client";

import { useEffect, useState, type RefObject } from "react";

/** Width in whole pixels of the element around a picture; 0 until it is laid out. */
export function useWidth(canvas: RefObject<Element | null>): number {
  const [width, setWidth] = useState(0);
  useEffect(() => {
    const element = canvas.current?.parentElement;
    if (!element) return;
    const observer = new ResizeObserver(([entry]) => setWidth(Math.floor(entry!.contentRect.width)));
    observer.observe(element);
    return () => observer.disconnect();
  }, [canvas]);
  return width;
}

/** A canvas made as fine as the screen, ready to be drawn on in CSS pixels; null before it is laid out. */
export function fineContext(
  canvas: HTMLCanvasElement | null,
  width: number,
  height: number,
): CanvasRenderingContext2D | null {
  const context = canvas?.getContext("2d");
  if (!canvas || !context || width === 0) return null;
  const ratio = window.devicePixelRatio || 1;
  canvas.width = width * ratio;
  canvas.height = height * ratio;
  context.scale(ratio, ratio);
  return context;
}
