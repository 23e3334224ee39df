/** All that is known of a study: what people said, what was measured, and what follows from both. */
import type { Alignment, CoverageSpan } from "../align/coverage";
import type { TrackAnalysis } from "../analysis/result";
import {
  countedDrums,
  swingOfDrums,
  voicesOfStem,
  withStems,
  type CountedDrums,
  type DrumEstimate,
  type DrumSide,
  type DrumStem,
  type DrumVoice,
} from "../drums";
import type { ToneSide } from "../equaliser";
import type { Grid } from "../grid/grid";
import { countedBass, type BassNote } from "../lowEnd";
import type { StyleTarget } from "../match";
import type { Refusal } from "../outcome";
import { countedPlan, namedAsReference, type CountedPlan, type PlanSide, type TrackPlan } from "../plan";
import { versionGrid, type StoredAlignment } from "./alignVersion";
import type { ComparisonSide, StoredComparison } from "./compareVersion";
import type { StoredLens } from "./lens";
import type { StoredStemSum } from "./stemSums";
import type { AnalysesByFile, ElementRecord, StemRecord, StudyRecord, TrackRecord } from "./records";
import type { Seconds } from "../units";
import type { VersionScores } from "./scores";

/** Something that follows from analyses and corrections. */
export interface Derived<T> {
  value: T;
  /** Whether it is of what stands now; else it is being worked out again. */
  current: boolean;
}

export interface StudyResults {
  study: StudyRecord;
  analyses: AnalysesByFile;
  /** By the id of the version. */
  alignments: ReadonlyMap<string, Derived<StoredAlignment>>;
  /** By the id of the version. */
  comparisons: ReadonlyMap<string, Derived<StoredComparison>>;
  /** What the lens has lifted out of a version and its reference, by the id of the version. */
  lenses: ReadonlyMap<string, Derived<StoredLens>>;
  /** How the stems of a track add up to it, by its id. */
  stemSums: ReadonlyMap<string, Derived<StoredStemSum>>;
  /** Files that the lens has taken apart, by hash. */
  lifted: ReadonlySet<string>;
  /** Files of the yardstick's tracks that have been analysed; what was measured of them is read by its view alone. */
  yardstickMeasured: ReadonlySet<string>;
  /** By the id of a track or stem, before corrections. */
  plans: ReadonlyMap<string, Derived<TrackPlan>>;
  /** By the id of a track or stem: the grid that its plan is counted on. */
  ownGrids: ReadonlyMap<string, Grid>;
  /** By the id of a track: a version's counted as its reference's where they are aligned. */
  grids: ReadonlyMap<string, Grid>;
  /** Why something of a version could not be worked out, by its id. */
  failures: ReadonlyMap<string, Refusal>;
  /** What is typical, where some aspects are held against that; null where none is. */
  style: StyleTarget | null;
  scores: VersionScores[];
}

/** The version with a number, or else the newest. */
export const versionOf = (study: Pick<StudyRecord, "versions">, number: number | null): TrackRecord | null =>
  study.versions.find((own) => own.number === number) ?? study.versions.at(-1) ?? null;

/** The bars of the reference that a version answers: as the producer says, or as found. */
export const coverageOf = (
  version: Pick<TrackRecord, "coverage">,
  alignment: Alignment | null | undefined,
): readonly CoverageSpan[] => version.coverage ?? alignment?.spans ?? [];

/** The grids of all tracks of a study, by track id. */
export function gridsOf(
  study: StudyRecord,
  ownGrids: ReadonlyMap<string, Grid>,
  alignmentOf: (versionId: string) => Alignment | null,
): Map<string, Grid> {
  const grids = new Map<string, Grid>();
  const reference = (study.reference && ownGrids.get(study.reference.id)) ?? null;
  if (study.reference && reference) grids.set(study.reference.id, reference);
  for (const { id, corrections } of study.versions) {
    const grid = versionGrid(ownGrids.get(id) ?? null, corrections.grid, alignmentOf(id), reference);
    if (grid) grids.set(id, grid);
  }
  return grids;
}

/** The drums of a track or stem: as heard, and as they count. */
export interface ItemDrums {
  /** With what its stems tell. */
  estimate: DrumEstimate;
  /** By which stem a voice is known. */
  sources: Partial<Record<DrumVoice, string>>;
  counted: CountedDrums;
}

/** What a stem is called: by its element, unless only its file says which drums it holds. */
export const stemName = (element: string | undefined, fileName: string): string =>
  element !== undefined && (voicesOfStem(element).length > 0 || voicesOfStem(fileName).length === 0)
    ? element
    : fileName;

/** Where a stem lies in its track; null while that is not known. */
export const offsetOf = ({
  offsetSeconds,
  measuredOffset,
}: Pick<StemRecord, "offsetSeconds" | "measuredOffset">): Seconds | null =>
  offsetSeconds ?? measuredOffset?.seconds ?? null;

/** The stems of a track that lie where they belong, called by their element or else their file. */
export const drumStemsOf = (
  stems: readonly StemRecord[],
  elements: StudyRecord["elements"],
  analyses: AnalysesByFile,
): DrumStem[] =>
  stems.flatMap((stem) => {
    const { elementId, fileName, file } = stem;
    const analysis = analyses.get(file.hash);
    const offset = offsetOf(stem);
    return analysis && offset !== null
      ? [
          {
            name: stemName(elements.find(({ id }) => id === elementId)?.name, fileName),
            offsetSeconds: offset,
            estimate: analysis.drums,
          },
        ]
      : [];
  });

/**
 * The notes of a track's bass before corrections, and by which stem they are known: the bass alone is heard far
 * better. Several stems of the bass are layers that double each other, and tell nothing of its line by themselves.
 */
export function heardBass(
  item: TrackRecord | StemRecord,
  elements: readonly ElementRecord[],
  analyses: AnalysesByFile,
): { notes: readonly BassNote[]; source: string | null } {
  const own = analyses.get(item.file.hash)?.bass ?? [];
  const isBass = ({ elementId }: StemRecord) => elements.find(({ id }) => id === elementId)?.lens === "bass";
  const stems = "stems" in item ? item.stems.filter(isBass) : [];
  const [stem] = stems;
  const offset = stem ? offsetOf(stem) : null;
  const alone = stem && analyses.get(stem.file.hash);
  if (stems.length !== 1 || offset === null || !alone) return { notes: own, source: null };
  return {
    notes: alone.bass.flatMap((note) => {
      const [start, end] = [note.start + offset, note.end + offset];
      return start < 0 ? [] : [{ ...note, start, end }];
    }),
    source: stem!.fileName,
  };
}

/** The drums of a track or stem as they count on its own grid. */
export function itemDrums(
  analysis: Pick<TrackAnalysis, "drums">,
  stems: readonly DrumStem[],
  corrections: Pick<TrackRecord["corrections"], "drums">,
  ownGrid: Grid | null,
): ItemDrums {
  const { estimate, sources } = withStems(analysis.drums, stems);
  return { estimate, sources, counted: countedDrums(estimate, corrections.drums, ownGrid) };
}

/** The plan of a track or stem as it counts. */
export const itemPlan = (plan: TrackPlan, { corrections }: Pick<TrackRecord, "corrections">): CountedPlan =>
  countedPlan(plan, corrections.harmony, corrections.form);

/**
 * The plan of a track or stem as it is shown and exported; null where it has not been made. A
 * version's sections have the names of those of the reference that they recreate, unless they were
 * set by hand.
 */
export function planInStudy(
  { study, plans, grids, ownGrids, alignments }: StudyResults,
  item: TrackRecord | StemRecord,
): CountedPlan | null {
  const planOf = (own: TrackRecord | StemRecord) => {
    const plan = plans.get(own.id);
    return plan ? itemPlan(plan.value, own) : null;
  };
  const plan = planOf(item);
  const version = study.versions.find(({ id }) => id === item.id);
  if (!plan || !version || !study.reference || version.corrections.form.sections) return plan;
  const sideOf = (own: TrackRecord): PlanSide | null => {
    const counted = planOf(own);
    const [grid, planGrid] = [grids.get(own.id), ownGrids.get(own.id)];
    return counted && grid && planGrid ? { plan: counted, planGrid, grid } : null;
  };
  const [reference, own] = [sideOf(study.reference), sideOf(version)];
  const spans = coverageOf(version, alignments.get(version.id)?.value.alignment);
  return reference && own && spans.length > 0
    ? { ...plan, sections: namedAsReference(reference, own, spans) }
    : plan;
}

/**
 * One side of a comparison.
 *
 * @param grid that coverage is counted on.
 * @param ownGrid that the plan is counted on.
 * @param tone its spectra and onsets over time; null where they are not to be compared.
 */
export function comparisonSide(
  analysis: Pick<TrackAnalysis, "grid" | "bass" | "lowEnd">,
  corrections: Pick<TrackRecord["corrections"], "bass">,
  plan: CountedPlan | null,
  drums: CountedDrums | null,
  grid: Grid | null,
  ownGrid: Grid | null,
  tone: ToneSide | null,
): ComparisonSide {
  const planSide: PlanSide | null = plan && grid && ownGrid ? { plan, grid, planGrid: ownGrid } : null;
  const drumSide: DrumSide | null =
    drums && grid ? { grid, drums, swing: swingOfDrums(drums.hits, grid, analysis.grid?.swing) } : null;
  return {
    plan: planSide,
    drums: drumSide,
    bass: grid && { notes: countedBass(analysis.bass, corrections.bass), grid },
    lowEnd: analysis.lowEnd,
    tone,
  };
}

export type { TrackAnalysis };
