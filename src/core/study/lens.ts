/** What the lens has lifted out of a version and its reference: what is stored, and what counts of it. */
import type { CoverageSpan } from "../align/coverage";
import { barStart, barsOf, secondsAt, type BarRange, type Grid } from "../grid/grid";
import { comparePresence, playedBars, type PartInBars } from "../lens/answeredBars";
import { barSpectra } from "../lens/barSpectra";
import { coverings, type Covering } from "../lens/covering";
import { lensMeasures, type LensMeasures, type LiftedTrack } from "../lens/lensMeasures";
import { levelInBars } from "../lens/levelInBars";
import { compareMovement } from "../lens/movement";
import { interplay, soundingBeats, type Interplay, type PartBeats } from "../lens/interplay";
import { ownOfBars, ownShares } from "../lens/ownShare";
import { barLevels, isPresenceTold, type PartBars } from "../lens/presence";
import type { PresenceCorrection } from "../lens/presenceCorrection";
import { compareSpace, gapDepths, type PartDepths } from "../lens/space";
import { barStrokes, strokesToCompare } from "../lens/strokes";
import { toneInBars, type ToneInBars } from "../lens/toneInBars";
import { ofDrumParts, ofLensParts, type DrumPart, type LensPart } from "../lens/parts";
import type { ComparedBars, LensPair } from "../match";
import type { Decibels, Seconds } from "../units";
import type { TrackRecord } from "./records";
import type { SpanPair } from "./spans";

/** Raise it whenever the same parts can be measured otherwise. */
export const lensMeasuresVersion = 8;

export interface StoredLens {
  reference: LensMeasures;
  version: LensMeasures;
  /** What each part does in the bars of both; null where one has none. */
  bars: {
    parts: Record<LensPart, PartInBars>;
    /** How loud the strokes of drums are in them. */
    strokes: Record<DrumPart, PartBars>;
    /** In which beats each part sounds. */
    beats: Record<LensPart, PartBeats>;
    /** How far each part falls within the beats of their bars. */
    depths: Record<LensPart, PartDepths>;
    /** What is covered more than in the reference. */
    coverings: Covering[];
  } | null;
  /** How their tone differs bar against bar in the bars that count; null where one side has none. */
  tones: Record<LensPart, ToneInBars | null> | null;
}

/** Where the bars of a grid begin from bar 1 on, and where the last ends. */
export function barStarts(grid: Grid): number[] {
  const { last } = barsOf(grid);
  return Array.from({ length: Math.max(0, last) + 1 }, (_, i) => barStart(grid, i + 1));
}

/** The same of its beats. */
export function beatStarts(grid: Grid): number[] {
  const count = Math.max(0, barsOf(grid).last) * grid.beatsPerBar;
  return Array.from({ length: count + 1 }, (_, beat) => secondsAt(grid, beat));
}

/** How two tracks are aligned, and the grids of both. */
export interface AlignedGrids {
  reference: Grid;
  version: Grid;
  /** Bars that answer each other. */
  spans: readonly CoverageSpan[];
}

type Sides = readonly [reference: LiftedTrack, version: LiftedTrack];

/**
 * @param spans over which the parts are measured.
 * @param aligned null where one side has no bars.
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
  if (!aligned) return { ...measures, bars: null, tones: null };
  const sides = [reference, version] as const;
  const inBars = partsInBars(sides, aligned);
  const [ours, theirs] = inBars.starts;
  const parts = ofLensParts((part): PartInBars => ({
    levels: {
      reference: barLevels(reference.levels[part], ours),
      version: barLevels(version.levels[part], theirs),
    },
    own:
      part === "bass" || part === "music"
        ? {
            reference: ownOfBars(inBars.shares[0][part], ours),
            version: ownOfBars(inBars.shares[1][part], theirs),
          }
        : null,
  }));
  const strokesOf = (part: DrumPart): PartBars => {
    const [own, other] = strokesToCompare([reference.strokes, version.strokes], part);
    return { reference: barStrokes(own!, ours), version: barStrokes(other!, theirs) };
  };
  const free = ofLensParts((part) => lesserFree(measures, part));
  const beats = [beatStarts(aligned.reference), beatStarts(aligned.version)] as const;
  return {
    ...measures,
    bars: {
      parts,
      strokes: ofDrumParts(strokesOf),
      beats: ofLensParts((part) => ({
        reference: soundingBeats(reference.levels[part], beats[0]),
        version: soundingBeats(version.levels[part], beats[1]),
      })),
      depths: ofLensParts((part) => ({
        reference: gapDepths(reference.levels[part], beats[0], aligned.reference.beatsPerBar),
        version: gapDepths(version.levels[part], beats[1], aligned.version.beatsPerBar),
      })),
      coverings: coverings(inBars.spectra[0], inBars.spectra[1], parts, free, aligned.spans),
    },
    tones: tonesOf(inBars, measures, parts, aligned, null),
  };
}

/** As stored, but over some spans alone. */
export function measuredLensOver(
  stored: StoredLens,
  sides: Sides,
  spans: SpanPair,
  aligned: AlignedGrids | null,
  chosen: BarRange | null,
): StoredLens {
  const [reference, version] = sides;
  const measures = {
    reference: lensMeasures(reference, spans.reference),
    version: lensMeasures(version, spans.version),
  };
  const { bars } = stored;
  const tones =
    bars && aligned && tonesOf(partsInBars(sides, aligned), measures, bars.parts, aligned, chosen);
  return { ...measures, bars, tones };
}

/** Where the bars of both sides begin, and what their parts sound like in them. */
function partsInBars([reference, version]: Sides, aligned: AlignedGrids) {
  const starts = [barStarts(aligned.reference), barStarts(aligned.version)] as const;
  const spectraOf = ({ spectrograms }: LiftedTrack, own: readonly Seconds[]) =>
    ofLensParts((part) => barSpectra(spectrograms[part], own));
  return {
    starts,
    spectra: [spectraOf(reference, starts[0]), spectraOf(version, starts[1])] as const,
    shares: [ownShares(reference.spectrograms), ownShares(version.spectrograms)] as const,
  };
}

const tonesOf = (
  { spectra, shares }: ReturnType<typeof partsInBars>,
  measures: Pick<StoredLens, "reference" | "version">,
  parts: Record<LensPart, PartInBars>,
  { spans }: AlignedGrids,
  chosen: BarRange | null,
): Record<LensPart, ToneInBars | null> =>
  ofLensParts((part) => {
    const free = lesserFree(measures, part);
    return isPresenceTold(free)
      ? toneInBars(
          [spectra[0][part], spectra[1][part]],
          [shares[0][part].ofBands, shares[1][part].ofBands],
          playedBars(parts[part], spans, chosen, free!),
        )
      : null;
  });

/** How far a part stands free on the side where it does less; null where one side has none of it. */
export function lesserFree(
  { reference, version }: Pick<StoredLens, "reference" | "version">,
  part: LensPart,
): Decibels | null {
  const [ours, theirs] = [reference[part].freeDb, version[part].freeDb];
  return ours === null || theirs === null ? null : Math.min(ours, theirs);
}

/** What producers have said of where parts play, of both sides. */
export interface SetPresence {
  reference: PresenceCorrection;
  version: PresenceCorrection;
}

export const setPresence = (
  reference: Pick<TrackRecord, "corrections"> | null,
  version: Pick<TrackRecord, "corrections">,
): SetPresence => ({
  reference: reference?.corrections.presence ?? {},
  version: version.corrections.presence,
});

/** What was said of one part, on both sides; nothing where an element has none. */
export const setBarsOf = (
  part: LensPart | null,
  { reference, version }: SetPresence,
): NonNullable<PartInBars["set"]> => ({
  reference: (part && reference[part]) ?? [],
  version: (part && version[part]) ?? [],
});

/** A part from bar to bar, with what was said of where it plays. */
export const withSetBars = (part: LensPart, own: PartInBars, set: SetPresence): PartInBars => ({
  ...own,
  set: setBarsOf(part, set),
});

/**
 * @param chosen bars of the reference that count; null for all.
 * @param set what was said of where parts play.
 */
export function countedLens(
  { reference, version, bars, tones }: StoredLens,
  coverage: readonly CoverageSpan[],
  chosen: BarRange | null = null,
  set: SetPresence = { reference: {}, version: {} },
): LensPair {
  if (!bars || coverage.length === 0) return { reference, version, bars: null };
  const strokes: Partial<Record<LensPart, PartBars>> = bars.strokes;
  return {
    reference,
    version,
    bars: ofLensParts((part): ComparedBars => {
      const free = lesserFree({ reference, version }, part);
      const own = withSetBars(part, bars.parts[part], set);
      const tone = tones?.[part] ?? null;
      return {
        presence: comparePresence(own, coverage, chosen, free),
        level: levelInBars(own, strokes[part] ?? null, coverage, chosen, free),
        tone,
        movement: compareMovement(own, tone, coverage, chosen, free),
        space: compareSpace(bars.depths[part], own, coverage, chosen, free),
        coverings: bars.coverings.filter((covering) => covering.part === part),
      };
    }),
  };
}

/**
 * Parts that never sound together, or answer one another, in the bars that answer each other.
 *
 * @param chosen bars of the reference that count; null for all.
 */
export function countedInterplay(
  { reference, version, bars }: StoredLens,
  coverage: readonly CoverageSpan[],
  beatsPerBar: number,
  chosen: BarRange | null,
): Interplay[] {
  if (!bars) return [];
  const free = ofLensParts((part) => lesserFree({ reference, version }, part));
  return interplay(
    bars.beats,
    free,
    coverage,
    beatsPerBar,
    (bar) => !chosen || (bar >= chosen.first && bar <= chosen.last),
  );
}
