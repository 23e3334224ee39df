import { straight, swingOfDrums } from "@/core/drums";
import type { TrackRecord } from "@/core/study";
import type { ReadStudy } from "@/server/reading";
import type { DrumModel, DrumTrack } from "@/views/drums/model";

function drumTrack(
  { analyses, grids, ownGrids, drums }: ReadStudy,
  track: TrackRecord,
  kind: DrumTrack["kind"],
  name: string,
): DrumTrack | null {
  const analysis = analyses.get(track.file.hash);
  const own = drums.get(track.id);
  if (!analysis || !own) return null;
  const grid = grids.get(track.id) ?? ownGrids.get(track.id) ?? null;
  return {
    placeId: track.id,
    kind,
    name,
    title: track.fileName.replace(/\.[a-z0-9]{2,4}$/i, ""),
    estimate: own.estimate,
    sources: own.sources,
    correction: track.drumCorrection,
    made: track.planCorrectionsMade.drums,
    ownGrid: ownGrids.get(track.id) ?? null,
    grid,
    swing: grid ? swingOfDrums(own.counted.hits, grid, analysis.grid?.swing) : straight,
  };
}

/** Drums of the reference and of the version in the address, or else the newest. */
export function drumModel(read: ReadStudy, number: number | null): DrumModel {
  const { study, plans } = read;
  const version = study.versions.find((v) => v.number === number) ?? study.versions.at(-1) ?? null;
  return {
    reference: study.reference && drumTrack(read, study.reference, "reference", "Reference"),
    version: version && drumTrack(read, version, "version", `Version ${version.number}`),
    sections: (study.reference && plans.get(study.reference.id)?.counted.sections) ?? [],
  };
}
