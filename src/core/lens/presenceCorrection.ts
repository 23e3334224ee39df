/** Where the producer says that parts of a track play, in place of what was heard. */
import { z } from "zod";
import type { BarRange } from "../grid/grid";
import { barRange } from "../ranges";
import { lensParts, type LensPart } from "./parts";

const setBarsSchema = z
  .object({ first: barRange, last: barRange, plays: z.boolean() })
  .refine(({ first, last }) => first <= last, "bars must begin before they end");
/** Bars in which a part plays, or rests. */
export type SetBars = z.infer<typeof setBarsSchema>;

/** By part; no bar is named twice. Bars are those of the track itself. */
export const presenceCorrectionSchema = z.partialRecord(z.enum(lensParts), z.array(setBarsSchema).max(500));
export type PresenceCorrection = z.infer<typeof presenceCorrectionSchema>;

/** What was set of a bar; null where nothing was. */
export const setIn = (set: readonly SetBars[], bar: number): boolean | null =>
  set.find(({ first, last }) => bar >= first && bar <= last)?.plays ?? null;

/**
 * The correction that has some bars of a part as they are said to be.
 *
 * @param plays null where they are to be as heard again.
 */
export function withBars(
  correction: PresenceCorrection,
  part: LensPart,
  ranges: readonly BarRange[],
  plays: boolean | null,
): PresenceCorrection {
  let set: readonly SetBars[] = correction[part] ?? [];
  for (const { first, last } of ranges) {
    const left = set.flatMap((own): SetBars[] => [
      ...(own.first < first ? [{ ...own, last: Math.min(own.last, first - 1) }] : []),
      ...(own.last > last ? [{ ...own, first: Math.max(own.first, last + 1) }] : []),
    ]);
    set = joined(plays === null ? left : [...left, { first, last, plays }]);
  }
  const { [part]: _, ...others } = correction;
  return set.length > 0 ? { ...others, [part]: set } : others;
}

/** In order, and neighbours that say the same as one. */
function joined(set: readonly SetBars[]): SetBars[] {
  const result: SetBars[] = [];
  for (const own of [...set].sort((a, b) => a.first - b.first)) {
    const before = result.at(-1);
    if (before && before.plays === own.plays && before.last + 1 === own.first)
      result[result.length - 1] = { ...before, last: own.last };
    else result.push(own);
  }
  return result;
}
