import type { Grid } from "@/core/grid/grid";
import type { StemRecord, TrackRecord } from "@/core/study";
import type { ReadStudy } from "@/server/reading";
import { GridView } from "@/views/grid/GridView";
import type { GridSide } from "@/views/grid/model";
import { readAddress, type ViewPage } from "../../address";
import { cachedStudy } from "../cachedStudy";

function sideOf(
  { analyses }: ReadStudy,
  place: TrackRecord | StemRecord,
  kind: GridSide["kind"],
  name: string,
  grid: Grid | null,
): GridSide | null {
  const analysis = analyses.get(place.file.hash);
  if (!analysis) return null;
  const { beats: _beats, downbeats: _downbeats, ...measured } = analysis.grid ?? {};
  return {
    placeId: place.id,
    kind,
    name,
    hash: place.file.hash,
    sampleRate: place.file.sampleRate,
    durationSeconds: analysis.durationSeconds,
    leadInSeconds: analysis.leadInSeconds,
    tempo: analysis.tempo,
    measured: analysis.grid ? (measured as GridSide["measured"]) : null,
    grid,
    correction: place.correction,
    correctionsMade: place.correctionsMade,
    stem:
      "offsetSeconds" in place
        ? { measuredOffset: place.measuredOffset, offsetSeconds: place.offsetSeconds }
        : null,
  };
}

export default async function GridPage({ params, searchParams }: ViewPage) {
  const read = await cachedStudy((await params).studyId);
  if (!read) return null;
  const { version: number } = await readAddress(searchParams);
  const { study, grids, ownGrids } = read;
  const version = study.versions.find((v) => v.number === number) ?? study.versions.at(-1) ?? null;
  const stems = [study.reference, version].flatMap((track) =>
    (track?.stems ?? []).map((stem) =>
      sideOf(
        read,
        stem,
        "stem",
        `${stem.fileName}, of ${track!.number === 0 ? "the reference" : `version ${track!.number}`}`,
        ownGrids.get(stem.id) ?? null,
      ),
    ),
  );
  return (
    <GridView
      model={{
        reference:
          study.reference &&
          sideOf(read, study.reference, "reference", "Reference", grids.get(study.reference.id) ?? null),
        version:
          version &&
          sideOf(read, version, "version", `Version ${version.number}`, grids.get(version.id) ?? null),
        stems: stems.filter((side) => side !== null),
      }}
    />
  );
}
