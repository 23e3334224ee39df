import { database } from "@/server/database";
import { compareInStudy } from "@/server/comparing";
import { overviewModel, type SideNumbers } from "@/views/overview/model";
import { Overview } from "@/views/overview/Overview";
import { readAddress, type ViewPage } from "../../address";
import { cachedStudy } from "../cachedStudy";

export default async function OverviewPage({ params, searchParams }: ViewPage) {
  const read = await cachedStudy((await params).studyId);
  if (!read) return null;
  const { version, selection } = await readAddress(searchParams);
  const comparison = await compareInStudy(await database(), read, version, selection);
  const keyOf = (trackId: string | undefined) => (trackId && read.plans.get(trackId)?.counted.key) || null;
  const analysis = read.study.reference && read.analyses.get(read.study.reference.file.hash);
  const referenceNumbers: SideNumbers | null = analysis
    ? {
        bpm: analysis.tempo?.bpm ?? null,
        key: keyOf(read.study.reference?.id),
        loudness: analysis.loudness,
        slopeDbPerOctave: analysis.slopeDbPerOctave,
      }
    : null;
  const model =
    comparison &&
    overviewModel(comparison.reference, comparison.measured, comparison.compared, {
      nothingRecreated: comparison.nothingRecreated,
      outdated: comparison.outdated,
      keys: { reference: keyOf(read.study.reference?.id), version: keyOf(comparison.version.id) },
    });
  return <Overview model={model} referenceNumbers={referenceNumbers} />;
}
