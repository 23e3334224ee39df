/** What the lens has lifted out of a version and its reference: what is stored, and what counts of it. */
import type { CoverageSpan } from "../align/coverage";
import { barStart, barsOf, type BarRange, type Grid } from "../grid/grid";
import { barSpectra, brightnessOfBars, middleBand } from "../lens/barSpectra";
import { coverings, type Covering } from "../lens/covering";
import { lensMeasures, type LensMeasures, type LiftedTrack } from "../lens/lensMeasures";
import { levelInBars } from "../lens/levelInBars";
import { compareMovement } from "../lens/movement";
import { barLevels, comparePresence, type PartBars } from "../lens/presence";
import { barStrokes, strokesToCompare } from "../lens/strokes";
import { ofDrumParts, ofLensParts, type DrumPart, type LensPart } from "../lens/parts";
import type { ComparedBars, LensPair } from "../match";
import type { Decibels } from "../units";
import type { SpanPair } from "./spans";

/** Raise it whenever the same parts can be measured otherwise. */
export const lensMeasuresVersion = 5;

export interface StoredLens {
  reference: LensMeasures;
  version: LensMeasures;
  /** What each part does in the bars of both; null where one has none. */
  bars: {
    levels: Record<LensPart, PartBars>;
    /** How loud the strokes of drums are in them. */
    strokes: Record<DrumPart, PartBars>;
    /** What lies above the middle of its power in the reference against what lies below, in dB. */
    brightness: Record<LensPart, PartBars>;
    /** What is covered more than in the reference. */
    coverings: Covering[];
  } | null;
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
 * @param aligned null where one side has no bars, or they are not asked for.
 */
export function measuredLens(
  reference: LiftedTrack,
  version: LiftedTrack,
  spans: SpanPair,
  aligned: AlignedGrids | null,
): StoredLens {
  const measures = {
    reference: lensMeasures(reference, spans.reference),
    version: lensMeasures(version, spans.version),
  };
  return { ...measures, bars: aligned && measuredBars(reference, version, measures, aligned) };
}

function measuredBars(
  reference: LiftedTrack,
  version: LiftedTrack,
  measures: Pick<StoredLens, "reference" | "version">,
  aligned: AlignedGrids,
): StoredLens["bars"] {
  const starts = { reference: barStarts(aligned.reference), version: barStarts(aligned.version) };
  const spectra = {
    reference: ofLensParts((part) => barSpectra(reference.spectrograms[part], starts.reference)),
    version: ofLensParts((part) => barSpectra(version.spectrograms[part], starts.version)),
  };
  const levels = ofLensParts((part): PartBars => ({
    reference: barLevels(reference.levels[part], starts.reference),
    version: barLevels(version.levels[part], starts.version),
  }));
  const strokesOf = (part: DrumPart): PartBars => {
    const [ours, theirs] = strokesToCompare([reference.strokes, version.strokes], part);
    return {
      reference: barStrokes(ours!, starts.reference),
      version: barStrokes(theirs!, starts.version),
    };
  };
  return {
    levels,
    strokes: ofDrumParts(strokesOf),
    brightness: ofLensParts((part) => {
      const middle = middleBand(spectra.reference[part]);
      return {
        reference: brightnessOfBars(spectra.reference[part], middle),
        version: brightnessOfBars(spectra.version[part], middle),
      };
    }),
    coverings: coverings(
      spectra.reference,
      spectra.version,
      levels,
      ofLensParts((part) => lesserFree(measures, part)),
      aligned.spans,
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
  { reference, version, bars }: StoredLens,
  coverage: readonly CoverageSpan[],
  chosen: BarRange | null = null,
): LensPair {
  if (!bars || coverage.length === 0) return { reference, version, bars: null };
  const { levels, brightness } = bars;
  const strokes: Partial<Record<LensPart, PartBars>> = bars.strokes;
  return {
    reference,
    version,
    bars: ofLensParts((part): ComparedBars => {
      const free = lesserFree({ reference, version }, part);
      return {
        presence: comparePresence(levels[part], coverage, chosen, free),
        level: levelInBars(levels[part], strokes[part] ?? null, coverage, chosen, free),
        movement: compareMovement(levels[part], brightness[part], coverage, chosen, free),
        coverings: bars.coverings.filter((own) => own.part === part),
      };
    }),
  };
}
