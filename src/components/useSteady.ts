import { useState } from "react";

/**
 * A value that stays as it is for as long as it may, such as the end of an axis: a chart whose axis jumps
 * with each selection cannot be compared by eye with what it showed before.
 *
 * @param mayStay whether the kept value still does for the wanted one.
 */
export function useSteady(wanted: number, mayStay: (kept: number, wanted: number) => boolean): number {
  const [kept, setKept] = useState(wanted);
  if (Object.is(kept, wanted) || mayStay(kept, wanted)) return kept;
  setKept(wanted);
  return wanted;
}
