/** What the list of studies shows of one. */
import { z } from "zod";
import { keySchema } from "../harmony/harmonyEstimate";
import { bpmRange, percentRange } from "../ranges";
import { tracksOf } from "./document";
import { itemPlan, type StudyResults } from "./results";

export const studySummarySchema = z.object({
  artist: z.string().nullable(),
  referenceFile: z.string().nullable(),
  /** Whether a file of it is being analysed. */
  pending: z.boolean(),
  bpm: bpmRange.nullable(),
  key: keySchema.nullable(),
  /** How the analysis of the reference stands; null once it is done. */
  referenceState: z.string().nullable(),
  versions: z.number().int().min(0),
  match: percentRange.nullable(),
  /** Match of each version, oldest first. */
  history: z.array(percentRange.nullable()),
});
export type StudySummary = z.infer<typeof studySummarySchema>;

/** A study in the list. */
export interface StudyRow {
  id: string;
  title: string;
  addedAt: number;
  /** Null where what was stored can no longer be read: the study itself may still open. */
  summary: StudySummary | null;
}

/** A study that was deleted and can still be brought back. */
export interface RemovedStudy {
  id: string;
  title: string;
  removedAt: number;
}

export function summaryOf({ study, analyses, grids, plans, scores }: StudyResults): StudySummary {
  const { reference } = study;
  const analysis = reference && analyses.get(reference.file.hash);
  const plan = reference && plans.get(reference.id);
  return {
    artist: reference?.file.tags.artist ?? null,
    referenceFile: reference?.fileName ?? null,
    pending: tracksOf(study).some(({ job }) => job.state === "queued" || job.state === "running"),
    bpm: (reference && grids.get(reference.id)?.bpm) ?? analysis?.tempo?.bpm ?? null,
    key: reference && plan ? itemPlan(plan.value, reference).key : null,
    referenceState: reference && reference.job.state !== "done" ? reference.job.message : null,
    versions: study.versions.length,
    match: scores.findLast(({ match }) => match !== null)?.match ?? null,
    history: scores.map(({ match }) => match),
  };
}
