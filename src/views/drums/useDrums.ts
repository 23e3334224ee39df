"use client";

import { useDeferredValue, useMemo } from "react";
import type { IntendedDifference } from "@/core/drums";
import type { BarRange } from "@/core/grid/grid";
import type { AlignedBars } from "@/core/study";
import type { DrumModel } from "@/models/drums";
import { comparedOver, drumsShown, type DrumsShown } from "@/models/drumsShown";
import { useBarsShown, type BarsShown } from "./useBarsShown";

export interface DrumsInView {
  shown: DrumsShown;
  view: BarsShown;
  /** Whether only the bars in view are compared so far. */
  isPartial: boolean;
}

/**
 * Everything that the view shows of both sides; null where the reference has no bars. The picture
 * comes first, with the bars that are in it compared; the rest follows. Hits follow every edit at
 * once; comparing them again may come a frame later.
 */
export function useDrums(
  model: DrumModel,
  aligned: AlignedBars | null,
  intended: readonly IntendedDifference[],
  selected: BarRange | null,
): DrumsInView | null {
  const sides = useMemo(() => drumsShown(model), [model]);
  const view = useBarsShown(sides, aligned?.spans ?? [], selected);
  const later = useDeferredValue(sides, null);
  const isPartial = later === null;
  const whole = useMemo(
    () => later && comparedOver(model, later, aligned, null, intended),
    [model, later, aligned, intended],
  );
  const first = view?.first;
  const count = view?.count;
  const near = useMemo(
    () =>
      isPartial && sides && first !== undefined && count !== undefined
        ? comparedOver(model, sides, aligned, { first, last: first + count - 1 }, intended)
        : null,
    [isPartial, model, sides, aligned, first, count, intended],
  );
  const shown = useMemo(() => sides && { ...sides, compared: whole ?? near }, [sides, whole, near]);
  return shown && view && { shown, view, isPartial };
}
