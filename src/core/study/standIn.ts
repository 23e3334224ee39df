/**
 * Any two versions compared: one of them stands in for the reference, and everything that is measured
 * against the reference is measured against it. The study itself does not change.
 */
import { nothingIntended } from "../match";
import type { StudyRecord, TrackRecord } from "./records";

/**
 * A study with a version in place of its reference; null where there is no such version. What was set
 * against the reference itself does not hold between two versions: recreated bars, and differences
 * that are intended.
 */
export function withStandIn(study: StudyRecord, number: number): StudyRecord | null {
  const chosen = study.versions.find((own) => own.number === number);
  if (!chosen) return null;
  const free = (track: TrackRecord): TrackRecord => ({ ...track, coverage: null });
  return {
    ...study,
    standIn: number,
    target: null,
    marks: {},
    intended: { ...nothingIntended, drums: [] },
    reference: { ...free(chosen), role: "reference" },
    versions: study.versions.filter((own) => own !== chosen).map(free),
  };
}

/** A study in addresses: its id, and after `~` the number of the version that stands in for the reference. */
export const studyAddress = ({ id, standIn }: Pick<StudyRecord, "id" | "standIn">): string =>
  standIn === null ? id : `${id}~${standIn}`;

/** Reads `studyAddress`; null where it is none. */
export function parseStudyAddress(text: string): Pick<StudyRecord, "id" | "standIn"> | null {
  const parts = /^([A-Za-z0-9]{1,64})(?:~([1-9]\d{0,5}))?$/.exec(text);
  return parts && { id: parts[1]!, standIn: parts[2] === undefined ? null : Number(parts[2]) };
}

/** What all versions are held against, in a sentence. */
export const referenceName = ({ standIn }: Pick<StudyRecord, "standIn">): string =>
  standIn === null ? "the reference" : `version ${standIn}`;
