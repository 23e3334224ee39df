/**
 * Tracks of one style are counted alike. Whether a beat is one or two is often a matter of custom: what a
 * track alone leaves open, the others of its style decide.
 */
import type { Grid } from "../grid/grid";
import type { SwingEstimate } from "../grid/swing";
import type { TempoEstimate } from "../grid/tempoEstimate";
import type { Bpm, Fraction } from "../units";

const { abs, log2 } = Math;

/** By how much a track is counted faster than it was read by itself. */
export type CountedAs = 1 | 2 | 0.5;

/** Tempi this near to one another, in octaves, are those of one style. */
const alike = 0.15;
/** How near to half or double a reading must be to be that. */
const octaveReach = 0.04;

interface Reading {
  as: CountedAs;
  bpm: Bpm;
  probability: Fraction;
}

function readingsOf(tempo: TempoEstimate | null): Reading[] {
  if (!tempo) return [];
  const { bpm, confidence, alternatives } = tempo;
  const octaves = alternatives.flatMap((other) => {
    const as = ([2, 0.5] as const).find((times) => abs(other.bpm / (times * bpm) - 1) < octaveReach);
    return as === undefined ? [] : [{ as, bpm: other.bpm, probability: other.confidence }];
  });
  return [{ as: 1, bpm, probability: confidence }, ...octaves];
}

/** How probably a track is counted at about a tempo. */
const probabilityNear = (readings: readonly Reading[], bpm: Bpm): Fraction =>
  readings.reduce((sum, own) => sum + (abs(log2(own.bpm / bpm)) < alike ? own.probability : 0), 0);

/** One other track is no custom. */
const fewestOthers = 2;
/** A reading this many times as probable as the usual one stands against it. */
const plainOdds = 6;

/**
 * How each track is counted beside the others: as it was read by itself, unless that is not plain and most
 * of the others are counted about twice or half as fast.
 *
 * @param tempi as each track was read by itself; null where none was found.
 */
export function countedAlike(tempi: readonly (TempoEstimate | null)[]): CountedAs[] {
  const all = tempi.map(readingsOf);
  return all.map(([own, ...octaves], i) => {
    const others = all.filter((_, k) => k !== i);
    const isUsual = ({ bpm }: Reading) =>
      2 * others.reduce((sum, readings) => sum + probabilityNear(readings, bpm), 0) > others.length;
    const usual = others.length < fewestOthers ? undefined : octaves.find(isUsual);
    return own && usual && own.probability < plainOdds * usual.probability ? usual.as : 1;
  });
}

/** A grid with twice or half as many beats; bars keep their number of beats. */
export function countedGrid(grid: Grid, as: CountedAs): Grid {
  const { beats, barOne, bpm } = grid;
  if (as === 1) return grid;
  const first = barOne % 2;
  return as === 2
    ? {
        ...grid,
        beats: beats.flatMap((time, i) => (i + 1 < beats.length ? [time, (time + beats[i + 1]!) / 2] : time)),
        barOne: 2 * barOne,
        bpm: 2 * bpm,
      }
    : {
        ...grid,
        beats: beats.filter((_, i) => i % 2 === first),
        barOne: (barOne - first) / 2,
        bpm: bpm / 2,
      };
}

/** What was read as swing of one note value is that of the next. */
export const countedSwing = (swing: SwingEstimate, as: CountedAs): SwingEstimate =>
  as === 1
    ? swing
    : as === 2
      ? { eighths: swing.sixteenths, sixteenths: null }
      : { eighths: null, sixteenths: swing.eighths };
