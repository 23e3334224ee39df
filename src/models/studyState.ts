/** A study in short, for programs: what it holds, how far the work on it is, and what its versions match at. */
import { z } from "zod";
import { mixAspects } from "@/core/match";
import { tracksOf, type JobState, type StudyResults, type TrackRecord } from "@/core/study";
import { bestVersion, changesByVersion } from "./progress";

const score = z.number().min(0).max(100).nullable();
const jobStates = ["queued", "running", "done", "failed", "cancelled"] as const satisfies readonly JobState[];

const trackSchema = z.object({
  id: z.string(),
  fileName: z.string(),
  seconds: z.number(),
  /** How its analysis stands. */
  state: z.enum(jobStates),
  /** What keeps it from being measured. */
  problem: z.string().nullable(),
  bpm: z.number().nullable(),
});

export const studyStateSchema = z.object({
  id: z.string(),
  title: z.string(),
  reference: trackSchema.nullable(),
  target: score,
  /** Number of the version with the highest match; null where none has one. */
  best: z.number().int().nullable(),
  versions: z.array(
    trackSchema.extend({
      number: z.number().int(),
      note: z.string(),
      starred: z.boolean(),
      /** Null until it has been compared. */
      match: score,
      aspects: z.record(z.enum(mixAspects), score),
      elements: z.array(z.object({ name: z.string(), score })),
      /** Points against the version before, the largest first. */
      changes: z.array(z.object({ name: z.string(), by: z.number(), cause: z.string() })),
    }),
  ),
  /** Whether something is still being worked out. */
  working: z.boolean(),
});
export type StudyState = z.infer<typeof studyStateSchema>;

export function studyState({
  study,
  scores,
  grids,
  comparisons,
  alignments,
  failures,
}: StudyResults): StudyState {
  const changes = changesByVersion(scores, study);
  const trackState = (track: TrackRecord) => ({
    id: track.id,
    fileName: track.fileName,
    seconds: track.file.durationSeconds,
    state: track.job.state,
    problem: track.job.refusal?.sentence ?? failures.get(track.id)?.sentence ?? null,
    bpm: grids.get(track.id)?.bpm ?? null,
  });
  const isPending = ({ job: { state } }: TrackRecord) => state === "queued" || state === "running";
  const isBeingCompared = (version: TrackRecord) =>
    study.reference?.job.state === "done" &&
    version.job.state === "done" &&
    !failures.has(version.id) &&
    !(alignments.get(version.id)?.current && comparisons.get(version.id)?.current);
  return {
    id: study.id,
    title: study.title,
    reference: study.reference && trackState(study.reference),
    target: study.target,
    best: bestVersion(scores, ({ match }) => match)?.number ?? null,
    versions: study.versions.map((version) => {
      const own = scores.find(({ trackId }) => trackId === version.id);
      const compared = comparisons.get(version.id)?.current ? own : undefined;
      return {
        ...trackState(version),
        number: version.number,
        note: version.note,
        starred: version.starred,
        match: compared?.match ?? null,
        aspects: Object.fromEntries(
          mixAspects.map((name) => [name, compared?.aspects[name] ?? null]),
        ) as StudyState["versions"][number]["aspects"],
        elements: study.elements.map(({ id, name }) => ({ name, score: compared?.elements[id] ?? null })),
        changes: changes.get(version.id) ?? [],
      };
    }),
    working: tracksOf(study).some(isPending) || study.versions.some(isBeingCompared),
  };
}
