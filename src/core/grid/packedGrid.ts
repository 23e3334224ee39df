/** Grids for sending: a steady one is three numbers instead of a thousand. */
import type { Seconds } from "../units";
import type { Grid } from "./grid";

const { abs, round } = Math;

/** A grid whose beats are either even (`even`) or listed in tenths of a millisecond (`beats`). */
export interface PackedGrid extends Omit<Grid, "beats"> {
  even: { first: Seconds; period: Seconds; count: number } | null;
  beats: number[];
}

/** Beats that lie this near to even ones are sent as such. */
const evenWithin: Seconds = 1e-6;

export function packGrid({ beats, ...rest }: Grid): PackedGrid {
  const first = beats[0]!;
  const period = (beats.at(-1)! - first) / (beats.length - 1);
  const isEven = beats.every((time, i) => abs(first + i * period - time) <= evenWithin);
  return isEven
    ? { ...rest, even: { first, period, count: beats.length }, beats: [] }
    : { ...rest, even: null, beats: beats.map((time) => round(1e4 * time)) };
}

export function unpackGrid({ even, beats, ...rest }: PackedGrid): Grid {
  return {
    ...rest,
    beats: even
      ? Array.from({ length: even.count }, (_, i) => even.first + i * even.period)
      : beats.map((time) => time / 1e4),
  };
}
