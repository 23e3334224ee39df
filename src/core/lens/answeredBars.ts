/** Bars of both sides that answer each other, and in which of them a part plays. */
import type { CoverageSpan } from "../align/coverage";
import type { BarRange } from "../grid/grid";
import { median } from "../median";
import type { Decibels, Fraction } from "../units";
import { isPresenceTold, playingBars, type PartBars } from "./presence";
import { setIn, type SetBars } from "./presenceCorrection";

/** Bars count from 1. */
export interface BarPair {
  reference: number;
  version: number;
}

/** Whether each side plays a part in a bar, and by how much the version's is louder. */
interface AnsweredBar extends BarPair {
  ours: boolean;
  theirs: boolean;
  /** Whether the producer has said so of either side, or of both. */
  byHand: "neither" | "one" | "both";
  gap: Decibels;
}

/** What tells in which bars a part plays, from bar 1 on. */
export interface PartInBars {
  levels: PartBars;
  /** Of its power the share that is its own; null for drums, which are told by their strokes. */
  own: PartBars | null;
  /** What the producer has said of its bars. */
  set?: { reference: readonly SetBars[]; version: readonly SetBars[] };
}

/** Whether a part plays in the bars of one side, from bar 1 on. */
export const barsPlayed = (
  { levels, set }: PartInBars,
  side: "reference" | "version",
  freeDb: Decibels,
): boolean[] => playingBars(levels[side], freeDb).map((heard, i) => setIn(set?.[side] ?? [], i + 1) ?? heard);

/** A bar in which so much less of a part is its own than in the one that answers it, */
const lessOwn: Fraction = 0.5;
/** and that is softer by so much than the others are beside theirs, holds only what others left in it. */
const softer: Decibels = 4;

/** Whether a bar is among those of the reference that are chosen; null stands for all. */
const isIn = ({ reference }: BarPair, chosen: BarRange | null): boolean =>
  !chosen || (reference >= chosen.first && reference <= chosen.last);

/**
 * @param freeDb how far the part stands free on the side where it does less.
 * @returns bars that answer each other, and which side plays the part in them.
 */
export function answeredBars(
  part: PartInBars,
  spans: readonly CoverageSpan[],
  freeDb: Decibels,
): AnsweredBar[] {
  const { levels, own, set } = part;
  const [ours, theirs] = [barsPlayed(part, "reference", freeDb), barsPlayed(part, "version", freeDb)];
  const all = spans.flatMap(({ referenceFirst, versionFirst, bars }) =>
    Array.from({ length: bars }, (_, i) => {
      const [reference, version] = [referenceFirst + i, versionFirst + i];
      return {
        reference,
        version,
        ours: ours[reference - 1] ?? false,
        theirs: theirs[version - 1] ?? false,
        byHand: handsIn(set, reference, version),
        gap: (levels.version[version - 1] ?? 0) - (levels.reference[reference - 1] ?? 0),
      };
    }),
  );
  if (own) leaveOutRests(all, own);
  return all;
}

function handsIn(set: PartInBars["set"], reference: number, version: number): AnsweredBar["byHand"] {
  const [ours, theirs] = [setIn(set?.reference ?? [], reference), setIn(set?.version ?? [], version)];
  return ours !== null && theirs !== null ? "both" : ours !== null || theirs !== null ? "one" : "neither";
}

/** Bars in which one side plays nothing of a part, but others in its place. */
function leaveOutRests(all: AnsweredBar[], own: PartBars): void {
  const played = all.filter((bar) => bar.ours && bar.theirs && bar.byHand === "neither");
  const common = played.length > 0 ? median(played.map(({ gap }) => gap)) : 0;
  for (const bar of played) {
    const [its, others] = [own.reference[bar.reference - 1] ?? 1, own.version[bar.version - 1] ?? 1];
    const gap = bar.gap - common;
    if (gap <= -softer && others < lessOwn * its) bar.theirs = false;
    else if (gap >= softer && its < lessOwn * others) bar.ours = false;
  }
}

/**
 * Bars that answer each other and in which both play a part.
 *
 * @param chosen bars of the reference that count; null for all.
 */
export const playedBars = (
  part: PartInBars,
  spans: readonly CoverageSpan[],
  chosen: BarRange | null,
  freeDb: Decibels,
): BarPair[] =>
  answeredBars(part, spans, freeDb).filter((bar) => bar.ours && bar.theirs && isIn(bar, chosen));

export interface ComparedPresence {
  /** Of the bars in which either plays, those in which both do; null where neither plays or it cannot be told. */
  share: Fraction | null;
  /** Bars of the reference in which only it plays, or only the version. */
  missing: number[];
  extra: number[];
}

/** @param freeDb how far the part stands free on the side where it does less; null where it is not there. */
export function comparePresence(
  part: PartInBars,
  spans: readonly CoverageSpan[],
  chosen: BarRange | null,
  freeDb: Decibels | null,
): ComparedPresence {
  // Where it hardly stands free, only what was said of both sides tells.
  const isTold = isPresenceTold(freeDb);
  const bars = answeredBars(part, spans, freeDb ?? 0).filter(({ byHand }) => isTold || byHand === "both");
  const isAlone = bars.map(({ ours, theirs }) => ours !== theirs);
  // A single bar without a stroke is another pattern, unless it is said to be a rest.
  const counts = (i: number) =>
    part.own !== null || isAlone[i - 1] || isAlone[i + 1] || bars[i]!.byHand !== "neither";
  const alone = bars.filter((bar, i) => isAlone[i] && counts(i) && isIn(bar, chosen));
  const barsOf = (side: "ours" | "theirs") =>
    alone.filter((bar) => bar[side]).map(({ reference }) => reference);
  const played = bars.filter((bar) => (bar.ours || bar.theirs) && isIn(bar, chosen)).length;
  return {
    share: played > 0 ? 1 - alone.length / played : null,
    missing: barsOf("ours"),
    extra: barsOf("theirs"),
  };
}
