/** What the Drums view shows of both sides, worked out from hits and corrections. */
import type { CoverageSpan } from "@/core/align/coverage";
import {
  asDrums,
  barLetters,
  barsOfSteps,
  compareDrums,
  countedDrums,
  describeBars,
  placeHits,
  stepsPerBeat,
  typicalPattern,
  type BarShape,
  type ComparedDrums,
  type ComparedHit,
  type CountedDrums,
  type CountedHit,
  type DescribedBar,
  type DrumSide,
  type IntendedDifference,
  type PlacedHit,
} from "@/core/drums";
import { barsOf, type BarRange, type Grid } from "@/core/grid/grid";
import type { CountedSection } from "@/core/plan";
import type { AlignedBars } from "@/core/study";
import type { DrumModel, DrumTrack } from "./drums";

export interface DrumsShown {
  grid: Grid;
  shape: BarShape;
  bars: BarRange;
  reference: CountedDrums;
  version: CountedDrums | null;
  placed: PlacedHit<CountedHit>[];
  /** Over all that is recreated; null where nothing can be compared. */
  compared: ComparedDrums | null;
  sections: CountedSection[];
  described: DescribedBar[];
}

/** Parts of spans that lie in some bars of the reference. */
export const spansWithin = (spans: readonly CoverageSpan[], { first, last }: BarRange): CoverageSpan[] =>
  spans.flatMap(({ referenceFirst, versionFirst, bars }) => {
    const from = Math.max(first, referenceFirst);
    const to = Math.min(last, referenceFirst + bars - 1);
    return to >= from
      ? [{ referenceFirst: from, versionFirst: versionFirst + from - referenceFirst, bars: to - from + 1 }]
      : [];
  });

const side = (track: DrumTrack, drums: CountedDrums, grid: Grid): DrumSide => ({
  drums,
  grid,
  swing: track.swing,
});

/** Compares over some bars of the reference, or over all that is recreated. */
export function comparedOver(
  { reference, version }: DrumModel,
  drums: { reference: CountedDrums; version: CountedDrums | null },
  aligned: AlignedBars | null,
  bars: BarRange | null,
  intended: readonly IntendedDifference[],
): ComparedDrums | null {
  if (!reference || !version || !drums.version || !aligned) return null;
  const spans = bars ? spansWithin(aligned.spans, bars) : aligned.spans;
  if (spans.length === 0) return null;
  return compareDrums(
    side(reference, drums.reference, aligned.reference),
    side(version, drums.version, aligned.version),
    spans,
    intended,
  );
}

/** Hits of the reference on its bars, before anything is compared; null where it has no bars. */
export function drumsShown(model: DrumModel): Omit<DrumsShown, "compared"> | null {
  const track = model.reference;
  const grid = track?.grid;
  const other = model.version;
  if (!track || !grid) return null;
  const shape = { beatsPerBar: grid.beatsPerBar, stepsPerBeat: stepsPerBeat(grid.beatsPerBar) };
  const reference = countedDrums(track.estimate, track.correction, track.ownGrid);
  const version = other && countedDrums(other.estimate, other.correction, other.ownGrid);
  const placed = placeHits(reference.hits, grid, track.swing);
  const all = barsOf(grid);
  const bars = { first: Math.max(1, all.first), last: all.last };
  const whole: CountedSection[] =
    model.sections.length > 0
      ? model.sections
      : [{ firstBar: bars.first, lastBar: bars.last, name: "whole", letter: "A" }];
  const letters = barLetters(barsOfSteps(placed, bars, shape));
  const described = whole.flatMap(({ firstBar, lastBar }) =>
    describeBars(placed, { first: firstBar, last: lastBar }, shape, letters.slice(firstBar - bars.first)),
  );
  return {
    grid,
    shape,
    bars,
    reference,
    version,
    placed,
    sections: whole,
    described,
  };
}

/** A hit of the reference where nothing is compared. */
const uncompared = (own: PlacedHit<CountedHit>): ComparedHit => ({
  voice: own.hit.voice,
  reference: own,
  version: null,
  kind: "agrees",
  otherVoice: null,
  timingDeviation: null,
  velocityDifference: null,
  reliable: true,
  intended: false,
  masked: false,
});

const barOfHit = ({ reference, version }: ComparedHit): number => (reference ?? version)!.bar;

/** Hits of some bars, compared where there is something to compare with. */
export function hitsInBars(
  { placed, compared }: Pick<DrumsShown, "placed" | "compared">,
  spans: readonly CoverageSpan[],
  { first, last }: BarRange,
): ComparedHit[] {
  const isAnswered = (bar: number) =>
    compared !== null &&
    spans.some(({ referenceFirst, bars }) => bar >= referenceFirst && bar < referenceFirst + bars);
  return [
    ...placed.filter(({ bar }) => bar >= first && bar <= last && !isAnswered(bar)).map(uncompared),
    ...(compared?.hits ?? []).filter((hit) => barOfHit(hit) >= first && barOfHit(hit) <= last),
  ];
}

/** The typical patterns of both sides in a section, held against each other; laid on its first bars. */
export function typicalOf(
  model: DrumModel,
  shown: DrumsShown,
  spans: readonly CoverageSpan[],
  { firstBar, lastBar }: CountedSection,
): { hits: ComparedHit[]; bars: number } {
  const { grid, shape, placed, compared } = shown;
  const range = { first: firstBar, last: lastBar };
  const own = typicalPattern(placed, range, shape);
  const { swing } = model.reference!;
  const drums = asDrums(own, grid, firstBar, swing, shape);
  const theirs = (compared?.hits ?? []).flatMap(({ version }) => (version ? [version] : []));
  const covered = spansWithin(spans, range);
  const bars = own.periodBars;
  if (!model.version || covered.length === 0 || compared === null) {
    return { hits: placeHits(drums.hits, grid, swing).map(uncompared), bars };
  }
  const answer = typicalPattern(
    theirs.filter(({ bar }) => bar >= firstBar && bar <= lastBar),
    { first: covered[0]!.referenceFirst, last: covered.at(-1)!.referenceFirst + covered.at(-1)!.bars - 1 },
    shape,
  );
  const longest = Math.max(bars, answer.periodBars);
  const repeated = (pattern: typeof own) => ({
    ...pattern,
    hits: Array.from({ length: longest / pattern.periodBars }, (_, turn) =>
      pattern.hits.map((hit) => ({
        ...hit,
        step: hit.step + turn * pattern.periodBars * shape.beatsPerBar * shape.stepsPerBeat,
      })),
    ).flat(),
  });
  const both = compareDrums(
    { drums: asDrums(repeated(own), grid, firstBar, swing, shape), grid, swing },
    {
      drums: asDrums(repeated(answer), grid, firstBar, model.version.swing, shape),
      grid,
      swing: model.version.swing,
    },
    [{ referenceFirst: firstBar, versionFirst: firstBar, bars: longest }],
  );
  return { hits: both.hits, bars: longest };
}
