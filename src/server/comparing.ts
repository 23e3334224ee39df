/** Compares the chosen version of a study with its reference, in whole or over a selection. */
import {
  answeringSpans,
  compareAll,
  measuresOfSpan,
  measuresOfWhole,
  type FullComparison,
  type Span,
  type SpanPair,
  type TrackRecord,
} from "@/core/study";
import type { TrackAnalysis } from "@/core/analysis/result";
import type { TrackMeasures } from "@/core/match";
import type { Database } from "./database";
import type { ReadStudy } from "./reading";
import { loadSpanCurves } from "./results";

/** Both sides as measured, and what comes of holding them against each other. */
export interface StudyComparison {
  version: TrackRecord;
  spans: SpanPair;
  reference: TrackMeasures;
  measured: TrackMeasures;
  compared: FullComparison;
}

async function measuresOver(
  db: Database,
  track: TrackRecord,
  analysis: TrackAnalysis,
  span: Span | null,
): Promise<TrackMeasures> {
  return span
    ? measuresOfSpan(analysis, await loadSpanCurves(db, track.file.hash, analysis.durationSeconds), span)
    : measuresOfWhole(analysis);
}

/**
 * @param number of the version; the newest where there is none with it.
 * @returns null where one side has no result yet.
 */
export async function compareInStudy(
  db: Database,
  { study, analyses }: ReadStudy,
  number: number | null,
  selection: Span | null,
): Promise<StudyComparison | null> {
  const version = study.versions.find((v) => v.number === number) ?? study.versions.at(-1);
  const referenceAnalysis = study.reference && analyses.get(study.reference.file.hash);
  const versionAnalysis = version && analyses.get(version.file.hash);
  if (!study.reference || !referenceAnalysis || !version || !versionAnalysis) return null;
  const spans = answeringSpans(selection, referenceAnalysis.durationSeconds, versionAnalysis.durationSeconds);
  const reference = await measuresOver(db, study.reference, referenceAnalysis, spans.reference);
  const measured = await measuresOver(db, version, versionAnalysis, spans.version);
  return { version, spans, reference, measured, compared: compareAll(reference, measured, study) };
}
