/** Bars as they stand in addresses: `5-8`, `-1-4`. */
import { mostBeats } from "../ranges";
import type { BarRange } from "./grid";

/** The bars that a text names; null where it names none, or none that a track can have. */
export function parseBars(text: string | null | undefined): BarRange | null {
  const [, from, to] = /^(-?\d{1,5})-(-?\d{1,5})$/.exec(text ?? "") ?? [];
  if (from === undefined || to === undefined) return null;
  const [first, last] = [Number(from), Number(to)];
  return last >= first && Math.abs(first) <= mostBeats && Math.abs(last) <= mostBeats
    ? { first, last }
    : null;
}

export const formatBars = ({ first, last }: BarRange): string => `${first}-${last}`;
