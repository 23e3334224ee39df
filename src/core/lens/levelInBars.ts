/** How loud a part is on both sides, bar against bar. */
import type { CoverageSpan } from "../align/coverage";
import type { BarRange } from "../grid/grid";
import { decibelsToPower, powerToDecibels, type Decibels } from "../units";
import { playedBars, type BarPair, type PartInBars } from "./answeredBars";
import { isPresenceTold, silence, type PartBars } from "./presence";
import { throughout } from "./throughout";

/** Levels as they are in the files. */
export interface LevelInBars {
  /** Of the reference, on average over the bars in which both play it. */
  reference: Decibels;
  /** Version less reference: what most of those bars share; what fewer of them do is movement. */
  gap: Decibels;
}

const fewestBars = 2;

/** Median over bars in which strokes of both are heard; null where there are too few. */
function strokeGap(strokes: PartBars | null, pairs: readonly BarPair[]): Decibels | null {
  const gaps = pairs.flatMap(({ reference, version }) => {
    const [ours, theirs] = [strokes?.reference[reference - 1], strokes?.version[version - 1]];
    return ours !== undefined && theirs !== undefined && ours > silence && theirs > silence
      ? theirs - ours
      : [];
  });
  return gaps.length < fewestBars ? null : throughout(gaps);
}

/** @returns null where too few bars are played on both sides, or it cannot be told. */
export function levelInBars(
  part: PartInBars,
  strokes: PartBars | null,
  spans: readonly CoverageSpan[],
  chosen: BarRange | null,
  freeDb: Decibels | null,
): LevelInBars | null {
  const pairs = isPresenceTold(freeDb) ? playedBars(part, spans, chosen, freeDb!) : [];
  if (pairs.length < fewestBars) return null;
  const { levels } = part;
  const ours = pairs.map(({ reference }) => levels.reference[reference - 1]!);
  const power = ours.reduce((sum, level) => sum + decibelsToPower(level), 0) / ours.length;
  return {
    reference: powerToDecibels(power),
    gap:
      strokeGap(strokes, pairs) ??
      throughout(pairs.map(({ version }, i) => levels.version[version - 1]! - ours[i]!)),
  };
}
