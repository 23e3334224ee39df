/** What of the reference is recreated, in words. */
import { barsOf, type BarRange, type Grid } from "@/core/grid/grid";
import type { Alignment } from "@/core/align/coverage";
import { leastRelated } from "@/core/align/related";
import { hasOtherHarmony } from "@/core/match";
import { countedHarmony, type AlignedBars, type StudyRecord, type TrackRecord } from "@/core/study";

export const barWords = ({ first, last }: BarRange): string =>
  first === last ? `bar ${first}` : `bars ${first}–${last}`;

/** Neighbouring bars as ranges, the longest first. */
export function barRangesOf(bars: readonly number[]): BarRange[] {
  const ranges: BarRange[] = [];
  for (const bar of [...bars].sort((a, b) => a - b)) {
    const last = ranges.at(-1);
    if (last && last.last + 1 === bar) last.last = bar;
    else ranges.push({ first: bar, last: bar });
  }
  return ranges.sort((a, b) => b.last - b.first - (a.last - a.first));
}

/** The longest ranges of some bars, in words. */
export function listedBars(bars: readonly number[]): string {
  const ranges = barRangesOf(bars);
  return `${ranges.slice(0, 3).map(barWords).join(", ")}${ranges.length > 3 ? " and more" : ""}`;
}

/** Bars of the reference that the version answers, as ranges in rising order. */
export function answeredBars({ spans }: Pick<AlignedBars, "spans">): BarRange[] {
  const ranges: BarRange[] = [];
  for (const { referenceFirst: first, bars } of [...spans].sort(
    (a, b) => a.referenceFirst - b.referenceFirst,
  )) {
    const last = ranges.at(-1);
    if (last && last.last + 1 === first) last.last = first + bars - 1;
    else ranges.push({ first, last: first + bars - 1 });
  }
  return ranges;
}

/** Whether two tracks were found to have nothing to do with each other, and nobody said otherwise. */
export const isStranger = (
  version: Pick<TrackRecord, "coverage">,
  alignment: Alignment | null | undefined,
): boolean => version.coverage === null && !!alignment && alignment.related < leastRelated;

/** What is said of such a version. */
export const strangerWords = (name: string): string =>
  `${name} doesn’t seem to recreate the reference: no bars of the two answer each other.`;

/** Whether bars answer each other, but under other chords, and that takes from the match. */
export const isUnderOtherChords = (
  version: Pick<TrackRecord, "coverage">,
  alignment: Alignment | null | undefined,
  weights: StudyRecord["aspectWeights"],
): boolean =>
  version.coverage === null &&
  !isStranger(version, alignment) &&
  hasOtherHarmony(countedHarmony(alignment, weights));

/** What is said of such a version. */
export const otherChordsWords = (name: string): string =>
  `${name} goes through other chords than the reference in the bars that answer each other, like another track of its style: part of the match is taken off.`;

/** How many of how many bars, and which. */
export function coverageWords(aligned: AlignedBars, name: string): string {
  const all = barsOf(aligned.reference);
  const total = all.last - Math.max(1, all.first) + 1;
  const answered = answeredBars(aligned);
  const count = answered.reduce((sum, { first, last }) => sum + last - first + 1, 0);
  if (count >= total) return `All ${total} bars of the reference against ${name}.`;
  const listed = answered.slice(0, 4).map(barWords).join(", ");
  return `${count} of ${total} bars are recreated: ${listed}${answered.length > 4 ? " and more" : ""}.`;
}

/** Bars of the version that answer selected bars of the reference, as ranges. */
export function answersTo({ spans }: Pick<AlignedBars, "spans">, { first, last }: BarRange): BarRange[] {
  return spans.flatMap((span) => {
    const from = Math.max(first, span.referenceFirst);
    const to = Math.min(last, span.referenceFirst + span.bars - 1);
    const moved = span.versionFirst - span.referenceFirst;
    return to >= from ? [{ first: from + moved, last: to + moved }] : [];
  });
}

/** Bars of the reference that nothing answers, in order. */
export function emptyBars({ spans }: AlignedBars, grid: Grid): BarRange[] {
  const all = barsOf(grid);
  const gaps: BarRange[] = [];
  let next = all.first;
  for (const span of [...spans].sort((a, b) => a.referenceFirst - b.referenceFirst)) {
    if (span.referenceFirst > next) gaps.push({ first: next, last: span.referenceFirst - 1 });
    next = Math.max(next, span.referenceFirst + span.bars);
  }
  if (next <= all.last) gaps.push({ first: next, last: all.last });
  return gaps;
}
