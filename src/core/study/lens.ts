/** What the lens has lifted out of a version and its reference: what is stored, and what counts of it. */
import type { CoverageSpan } from "../align/coverage";
import { barStart, barsOf, type BarRange, type Grid } from "../grid/grid";
import { comparePresence, playedBars, type PartInBars } from "../lens/answeredBars";
import { barSpectra } from "../lens/barSpectra";
import { coverings, type Covering } from "../lens/covering";
import { lensMeasures, type LensMeasures, type LiftedTrack } from "../lens/lensMeasures";
import { levelInBars } from "../lens/levelInBars";
import { compareMovement } from "../lens/movement";
import { ownOfBars, ownShares } from "../lens/ownShare";
import { barLevels, isPresenceTold, type PartBars } from "../lens/presence";
import { barStrokes, strokesToCompare } from "../lens/strokes";
import { toneInBars, type ToneInBars } from "../lens/toneInBars";
import { ofDrumParts, ofLensParts, type DrumPart, type LensPart } from "../lens/parts";
import type { ComparedBars, LensPair } from "../match";
import type { Decibels, Seconds } from "../units";
import type { SpanPair } from "./spans";

/** Raise it whenever the same parts can be measured otherwise. */
export const lensMeasuresVersion = 6;

export interface StoredLens {
  reference: LensMeasures;
  version: LensMeasures;
  /** What each part does in the bars of both; null where one has none. */
  bars: {
    parts: Record<LensPart, PartInBars>;
    /** How loud the strokes of drums are in them. */
    strokes: Record<DrumPart, PartBars>;
    /** What is covered more than in the reference. */
    coverings: Covering[];
  } | null;
  /** How their tone differs bar against bar in the bars that count; null where one side has none. */
  tones: Record<LensPart, ToneInBars | null> | null;
}

/** Where the bars of a grid begin from bar 1 on, and where the last ends. */
function barStarts(grid: Grid): number[] {
  const { last } = barsOf(grid);
  return Array.from({ length: Math.max(0, last) + 1 }, (_, i) => barStart(grid, i + 1));
}

/** How two tracks are aligned, and the grids of both. */
export interface AlignedGrids {
  reference: Grid;
  version: Grid;
  /** Bars that answer each other. */
  spans: readonly CoverageSpan[];
}

/**
 * @param spans over which the parts are measured.
 * @param aligned null where one side has no bars.
 * @param chosen bars of the reference over which the tone is measured bar against bar; null for all.
 */
export function measuredLens(
  reference: LiftedTrack,
  version: LiftedTrack,
  spans: SpanPair,
  aligned: AlignedGrids | null,
  chosen: BarRange | null = null,
): StoredLens {
  const measures = {
    reference: lensMeasures(reference, spans.reference),
    version: lensMeasures(version, spans.version),
  };
  return {
    ...measures,
    ...(aligned
      ? measuredBars([reference, version], measures, aligned, chosen)
      : { bars: null, tones: null }),
  };
}

function measuredBars(
  sides: readonly [reference: LiftedTrack, version: LiftedTrack],
  measures: Pick<StoredLens, "reference" | "version">,
  aligned: AlignedGrids,
  chosen: BarRange | null,
): Pick<StoredLens, "bars" | "tones"> {
  const starts = [barStarts(aligned.reference), barStarts(aligned.version)] as const;
  const both = <T>(of: (side: LiftedTrack, starts: readonly Seconds[]) => T): [T, T] => [
    of(sides[0], starts[0]),
    of(sides[1], starts[1]),
  ];
  const asBars = ([reference, version]: [number[], number[]]): PartBars => ({ reference, version });
  const spectra = both((side, own) => ofLensParts((part) => barSpectra(side.spectrograms[part], own)));
  const shares = both(({ spectrograms }) => ownShares(spectrograms));
  const parts = ofLensParts((part): PartInBars => ({
    levels: asBars(both(({ levels }, own) => barLevels(levels[part], own))),
    own:
      part === "bass" || part === "music"
        ? { reference: ownOfBars(shares[0][part], starts[0]), version: ownOfBars(shares[1][part], starts[1]) }
        : null,
  }));
  const strokesOf = (part: DrumPart): PartBars => {
    const [ours, theirs] = strokesToCompare([sides[0].strokes, sides[1].strokes], part);
    return { reference: barStrokes(ours!, starts[0]), version: barStrokes(theirs!, starts[1]) };
  };
  const free = ofLensParts((part) => lesserFree(measures, part));
  return {
    bars: {
      parts,
      strokes: ofDrumParts(strokesOf),
      coverings: coverings(spectra[0], spectra[1], parts, free, aligned.spans),
    },
    tones: ofLensParts((part) =>
      isPresenceTold(free[part])
        ? toneInBars(
            [spectra[0][part], spectra[1][part]],
            [shares[0][part].ofBands, shares[1][part].ofBands],
            playedBars(parts[part], aligned.spans, chosen, free[part]!),
          )
        : null,
    ),
  };
}

/** How far a part stands free on the side where it does less; null where one side has none of it. */
export function lesserFree(
  { reference, version }: Pick<StoredLens, "reference" | "version">,
  part: LensPart,
): Decibels | null {
  const [ours, theirs] = [reference[part].freeDb, version[part].freeDb];
  return ours === null || theirs === null ? null : Math.min(ours, theirs);
}

/** @param chosen bars of the reference that count; null for all. */
export function countedLens(
  { reference, version, bars, tones }: StoredLens,
  coverage: readonly CoverageSpan[],
  chosen: BarRange | null = null,
): LensPair {
  if (!bars || coverage.length === 0) return { reference, version, bars: null };
  const strokes: Partial<Record<LensPart, PartBars>> = bars.strokes;
  return {
    reference,
    version,
    bars: ofLensParts((part): ComparedBars => {
      const free = lesserFree({ reference, version }, part);
      const own = bars.parts[part];
      const tone = tones?.[part] ?? null;
      return {
        presence: comparePresence(own, coverage, chosen, free),
        level: levelInBars(own, strokes[part] ?? null, coverage, chosen, free),
        tone,
        movement: compareMovement(own, tone, coverage, chosen, free),
        coverings: bars.coverings.filter((covering) => covering.part === part),
      };
    }),
  };
}
