/** Keys that stand for all that a result depends on: the same key, the same result. */
import { createHash } from "node:crypto";
import { analysisVersion } from "@/core/analysis/result";
import { lensVersion } from "@/core/lens";
import { planVersion } from "@/core/plan";
import { stemSumVersion } from "@/core/stems/stemSum";
import {
  alignmentVersion,
  comparisonVersion,
  gainOf,
  lensMeasuresVersion,
  offsetOf,
  placedStems,
  stemName,
  type StemRecord,
  type StudyRecord,
  type StudyResults,
  type TrackRecord,
} from "@/core/study";

const keyOf = (...parts: readonly unknown[]): string =>
  createHash("sha1").update(JSON.stringify(parts)).digest("hex");

type Planned = Pick<TrackRecord | StemRecord, "file" | "corrections">;

export const planKey = ({ file, corrections }: Planned): string =>
  keyOf(analysisVersion, planVersion, file.hash, corrections.grid);

export const alignKey = (reference: TrackRecord, version: TrackRecord): string =>
  keyOf(
    analysisVersion,
    alignmentVersion,
    reference.file.hash,
    reference.corrections.grid,
    version.file.hash,
    version.corrections.grid,
    version.coverage,
  );

export const compareKey = (
  reference: TrackRecord,
  version: TrackRecord,
  elements: StudyRecord["elements"],
  stemSums: StudyResults["stemSums"],
): string => {
  const side = ({ id: trackId, corrections: { harmony, form, drums, bass }, stems }: TrackRecord) => [
    harmony,
    form,
    drums,
    bass,
    stems.map((stem) => [
      stem.file.hash,
      offsetOf(stem),
      stem.elementId,
      stemName(elements.find(({ id }) => id === stem.elementId)?.name, stem.fileName),
      elements.find(({ id }) => id === stem.elementId)?.lens ?? null,
      gainOf(stemSums, trackId, stem.id),
    ]),
  ];
  return keyOf(comparisonVersion, planVersion, alignKey(reference, version), side(reference), side(version));
};

export const placeKey = (track: TrackRecord, stem: StemRecord): string =>
  keyOf(analysisVersion, track.file.hash, stem.file.hash);

/** @param isLifted whether it is known what parts the track has. */
export const sumKey = (
  track: TrackRecord,
  elements: StudyRecord["elements"],
  analyses: StudyResults["analyses"],
  isLifted: boolean,
): string =>
  keyOf(
    analysisVersion,
    stemSumVersion,
    isLifted ? lensVersion : null,
    track.file.hash,
    track.corrections.grid,
    placedStems(track, analyses).map((stem) => [
      stem.id,
      stem.file.hash,
      offsetOf(stem),
      elements.find(({ id }) => id === stem.elementId)?.lens,
    ]),
  );

/** What the lens lifts out of a file depends on what was heard in it, not on what was corrected. */
export const liftKey = `${analysisVersion}.${lensVersion}`;

export const lensKey = (reference: TrackRecord, version: TrackRecord): string =>
  keyOf(liftKey, lensMeasuresVersion, alignKey(reference, version));

/**
 * What a job about two tracks is about: the id of the version, and of the one it is held against where
 * that is not the reference.
 */
export const pairSubject = (versionId: string, against: string): string =>
  against === "" ? versionId : `${versionId}~${against}`;

/** Reads `pairSubject`; `against` is empty for the reference. */
export function parsePairSubject(subject: string): { itemId: string; against: string } {
  const [itemId, against = ""] = subject.split("~");
  return { itemId: itemId!, against };
}

/** Analyses depend on their file alone. */
export const analyseKey = String(analysisVersion);
