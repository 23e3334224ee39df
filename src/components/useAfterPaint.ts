"use client";

import { useEffect, useState, type DependencyList } from "react";

/**
 * Works something out that takes long, once the picture that stands has been drawn: a press is answered
 * first. Until then what was worked out before stays; null at first.
 */
export function useAfterPaint<T>(workOut: () => T, dependencies: DependencyList): T | null {
  const [result, setResult] = useState<{ value: T } | null>(null);
  useEffect(() => {
    let later: ReturnType<typeof setTimeout> | undefined;
    const frame = requestAnimationFrame(() => {
      later = setTimeout(() => setResult({ value: workOut() }));
    });
    return () => {
      cancelAnimationFrame(frame);
      clearTimeout(later);
    };
    // oxlint-disable-next-line react-hooks/exhaustive-deps -- they are handed in
  }, dependencies);
  return result && result.value;
}
