import type { Grid } from "@/core/grid/grid";
import type { GridCorrection } from "@/core/grid/correction";
import type { GridEstimate } from "@/core/grid/gridEstimate";
import type { TempoEstimate } from "@/core/grid/tempoEstimate";
import type { StemRecord } from "@/core/study";

/** One file whose grid is shown and corrected. */
export interface GridSide {
  /** Id of the track or stem. */
  placeId: string;
  kind: "reference" | "version" | "stem";
  name: string;
  hash: string;
  sampleRate: number;
  durationSeconds: number;
  leadInSeconds: number | null;
  tempo: TempoEstimate | null;
  measured: Omit<GridEstimate, "beats" | "downbeats"> | null;
  /** As it counts. */
  grid: Grid | null;
  correction: GridCorrection;
  correctionsMade: number;
  /** Only of stems. */
  stem: Pick<StemRecord, "measuredOffset" | "offsetSeconds"> | null;
}

export interface GridModel {
  reference: GridSide | null;
  version: GridSide | null;
  /** Stems of both. */
  stems: GridSide[];
}
