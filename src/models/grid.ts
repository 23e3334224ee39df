import type { Grid } from "@/core/grid/grid";
import { gridOf, type GridCorrection } from "@/core/grid/correction";
import type { GridEstimate } from "@/core/grid/gridEstimate";
import type { TempoEstimate } from "@/core/grid/tempoEstimate";
import {
  versionOf,
  type Corrections,
  type StemRecord,
  type StudyResults,
  type TrackRecord,
} from "@/core/study";

/** One file whose grid is shown and corrected. */
export interface GridSide {
  /** Id of the track or stem. */
  itemId: string;
  kind: "reference" | "version" | "stem";
  name: string;
  hash: string;
  sampleRate: number;
  durationSeconds: number;
  leadInSeconds: number | null;
  tempo: TempoEstimate | null;
  measured: GridEstimate | null;
  /** As it counts. */
  grid: Grid | null;
  correction: GridCorrection;
  /** Only of stems. */
  stem: Pick<StemRecord, "measuredOffset" | "offsetSeconds"> | null;
}

export interface GridModel {
  reference: GridSide | null;
  version: GridSide | null;
  /** Stems of both. */
  stems: GridSide[];
}

function sideOf(
  { analyses }: StudyResults,
  item: TrackRecord | StemRecord,
  kind: GridSide["kind"],
  name: string,
  grid: Grid | null,
): GridSide | null {
  const analysis = analyses.get(item.file.hash);
  if (!analysis) return null;
  return {
    itemId: item.id,
    kind,
    name,
    hash: item.file.hash,
    sampleRate: item.file.sampleRate,
    durationSeconds: analysis.durationSeconds,
    leadInSeconds: analysis.leadInSeconds,
    tempo: analysis.tempo,
    measured: analysis.grid,
    grid,
    correction: item.corrections.grid,
    stem:
      "offsetSeconds" in item
        ? { measuredOffset: item.measuredOffset, offsetSeconds: item.offsetSeconds }
        : null,
  };
}

/** Grids of the reference, of the version with a number or else the newest, and of their stems. */
export function gridModel(results: StudyResults, number: number | null): GridModel {
  const { study, grids, ownGrids } = results;
  const version = versionOf(study, number);
  const { reference } = study;
  const stems = [reference, version].flatMap((track) =>
    (track?.stems ?? []).map((stem) =>
      sideOf(
        results,
        stem,
        "stem",
        `${stem.fileName}, of ${track!.number === 0 ? "the reference" : `version ${track!.number}`}`,
        ownGrids.get(stem.id) ?? null,
      ),
    ),
  );
  return {
    reference:
      reference && sideOf(results, reference, "reference", "Reference", grids.get(reference.id) ?? null),
    version:
      version &&
      sideOf(results, version, "version", `Version ${version.number}`, grids.get(version.id) ?? null),
    stems: stems.filter((side) => side !== null),
  };
}

/**
 * A side with the corrections that count now, which may be newer than those it was sent with. Beats
 * that are to follow a player anew come with the answer of the server.
 */
function correctedSide(
  side: GridSide | null,
  now: Corrections["grid"] | undefined,
  stem: GridSide["stem"],
): GridSide | null {
  if (!side || !now || (now === side.correction && stem === side.stem)) return side;
  const needsOnsets = now.manner === "following" && (now.bpm !== undefined || side.measured?.steady);
  return {
    ...side,
    correction: now,
    stem,
    grid:
      now === side.correction || needsOnsets ? side.grid : gridOf(side.measured, side.durationSeconds, now),
  };
}

/** The model with what counts now. */
export function correctedGrids(
  model: GridModel,
  itemOf: (itemId: string) => TrackRecord | StemRecord | undefined,
): GridModel {
  const now = (side: GridSide | null): GridSide | null => {
    const item = side ? itemOf(side.itemId) : undefined;
    const stem =
      item && "offsetSeconds" in item
        ? { measuredOffset: item.measuredOffset, offsetSeconds: item.offsetSeconds }
        : (side?.stem ?? null);
    return correctedSide(side, item?.corrections.grid, stem);
  };
  return {
    reference: now(model.reference),
    version: now(model.version),
    stems: model.stems.flatMap((side) => now(side) ?? []),
  };
}
