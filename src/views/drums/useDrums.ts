"use client";

import { useDeferredValue, useMemo } from "react";
import type { IntendedDifference } from "@/core/drums";
import type { AlignedBars } from "@/core/study";
import type { DrumModel } from "@/models/drums";
import { comparedOver, drumsShown, type DrumsShown } from "@/models/drumsShown";

/**
 * Everything that the view shows of both sides; null where the reference has no bars. Hits follow
 * every edit at once; comparing them again may come a frame later.
 */
export function useDrums(
  model: DrumModel,
  aligned: AlignedBars | null,
  intended: readonly IntendedDifference[],
): DrumsShown | null {
  const shown = useMemo(() => drumsShown(model), [model]);
  const later = useDeferredValue(shown);
  const compared = useMemo(
    () =>
      later &&
      comparedOver(model, { reference: later.reference, version: later.version }, aligned, null, intended),
    [model, later, aligned, intended],
  );
  return useMemo(() => shown && { ...shown, compared }, [shown, compared]);
}
