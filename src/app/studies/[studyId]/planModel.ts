import type { StemRecord, TrackRecord } from "@/core/study";
import type { ReadStudy } from "@/server/reading";
import type { PlanModel, PlanTrack } from "@/views/plan/model";

function planTrack(
  { analyses, plans, grids, ownGrids }: ReadStudy,
  place: TrackRecord | StemRecord,
  kind: PlanTrack["kind"],
  name: string,
): PlanTrack | null {
  const analysis = analyses.get(place.file.hash);
  const plan = plans.get(place.id);
  if (!analysis || !plan) return null;
  const planGrid = ownGrids.get(place.id) ?? null;
  return {
    placeId: place.id,
    kind,
    name,
    choice: plan.plan.harmony.key,
    tuningCents: analysis.tuningCents,
    plan: plan.counted,
    planGrid,
    grid: grids.get(place.id) ?? planGrid,
    harmonyCorrection: place.harmonyCorrection,
    formCorrection: place.formCorrection,
    made: place.planCorrectionsMade,
    current: plan.current,
  };
}

/** Plans of the reference, of the version in the address or else the newest, and of their stems. */
export function planModel(read: ReadStudy, number: number | null): PlanModel {
  const { study, comparedPlans } = read;
  const version = study.versions.find((v) => v.number === number) ?? study.versions.at(-1) ?? null;
  const stems = [study.reference, version].flatMap((track) =>
    (track?.stems ?? []).map((stem) => planTrack(read, stem, "stem", stem.fileName)),
  );
  const compared = version && comparedPlans.get(version.id);
  return {
    reference: study.reference && planTrack(read, study.reference, "reference", "Reference"),
    version: version && planTrack(read, version, "version", `Version ${version.number}`),
    stems: stems.filter((track) => track !== null),
    beats: compared?.beats ?? [],
    chordOverlap: compared?.chordOverlap ?? null,
  };
}
