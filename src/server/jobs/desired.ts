/** Which work a study asks for as it stands. Called after every change; never while reading. */
import { and, eq } from "drizzle-orm";
import { itemsOf, mayBeLoop, placedStems, tracksOf, type StudyResults } from "@/core/study";
import type { Database } from "../storage/database";
import { againstIn } from "../study/read";
import { jobs, type JobKind } from "../storage/schema";
import {
  alignKey,
  analyseKey,
  compareKey,
  lensKey,
  liftKey,
  pairSubject,
  placeKey,
  planKey,
  sumKey,
} from "../study/keys";

export interface DesiredJob {
  kind: JobKind;
  subject: string;
  key: string;
}

/** Whether tracks are taken apart as soon as they are analysed, and not only when somebody wants to hear it. */
const liftsByItself = () => process.env.PLAIN_MIRROR_LENS !== "asked";

/** The jobs whose results are missing or out of date, as far as what they need is there. */
export function desiredJobs({
  study,
  analyses,
  yardstickMeasured,
  alignments,
  comparisons,
  lenses,
  stemSums,
  lifted,
  plans,
}: Omit<StudyResults, "scores" | "grids" | "ownGrids" | "failures">): DesiredJob[] {
  const wanted: DesiredJob[] = [];
  const loops = study.candidates.filter(({ file }) => mayBeLoop(file));
  const hashes = new Set([...itemsOf(study), ...loops].map(({ file }) => file.hash));
  for (const hash of hashes) {
    if (!analyses.has(hash)) wanted.push({ kind: "analyse", subject: hash, key: analyseKey });
  }
  for (const { file } of study.yardstick) {
    if (!yardstickMeasured.has(file.hash))
      wanted.push({ kind: "analyse", subject: file.hash, key: analyseKey });
  }
  for (const item of itemsOf(study)) {
    if (plans.get(item.id)?.current === false)
      wanted.push({ kind: "plan", subject: item.id, key: planKey(item) });
  }
  for (const track of tracksOf(study)) {
    for (const stem of track.stems) {
      const bothAreSound = analyses.has(track.file.hash) && analyses.has(stem.file.hash);
      if (bothAreSound && stem.measuredOffset === null)
        wanted.push({ kind: "placeStem", subject: stem.id, key: placeKey(track, stem) });
    }
  }
  for (const track of tracksOf(study)) {
    const isLifted = lifted.has(track.file.hash);
    const isDue =
      analyses.has(track.file.hash) &&
      (isLifted || !liftsByItself()) &&
      placedStems(track, analyses).length > 0 &&
      // All that are still to come are waited for.
      track.stems.every(({ job }) => job.state !== "queued" && job.state !== "running");
    if (isDue && !stemSums.get(track.id)?.current)
      wanted.push({
        kind: "sumStems",
        subject: track.id,
        key: sumKey(track, study.elements, analyses, isLifted),
      });
  }
  const { reference } = study;
  if (!reference || !analyses.has(reference.file.hash)) return wanted;
  if (liftsByItself()) {
    for (const { file } of tracksOf(study)) {
      if (analyses.has(file.hash) && !lifted.has(file.hash))
        wanted.push({ kind: "lift", subject: file.hash, key: liftKey });
    }
  }
  const subjectOf = (versionId: string) => pairSubject(versionId, againstIn(study));
  const planned = (id: string) => plans.get(id)?.current === true;
  for (const version of study.versions) {
    if (!analyses.has(version.file.hash)) continue;
    const isAligned = alignments.get(version.id)?.current;
    const areLifted = lifted.has(reference.file.hash) && lifted.has(version.file.hash);
    if (isAligned && areLifted && !lenses.get(version.id)?.current)
      wanted.push({ kind: "lens", subject: subjectOf(version.id), key: lensKey(reference, version) });
    if (!isAligned)
      wanted.push({ kind: "align", subject: subjectOf(version.id), key: alignKey(reference, version) });
    else if (planned(reference.id) && planned(version.id) && !comparisons.get(version.id)?.current)
      wanted.push({
        kind: "compare",
        subject: subjectOf(version.id),
        key: compareKey(reference, version, study.elements, stemSums),
      });
  }
  return wanted;
}

/**
 * Puts jobs in the queue. One that failed or was cancelled stays so until what goes into it changes,
 * or somebody asks for it again.
 *
 * @param again whether one that has ended is to be done once more.
 * @returns whether it waits or runs now.
 */
export async function enqueue(
  db: Database,
  { kind, subject, key }: DesiredJob,
  { again = false }: { again?: boolean } = {},
): Promise<boolean> {
  const [known] = await db
    .select()
    .from(jobs)
    .where(and(eq(jobs.kind, kind), eq(jobs.subject, subject)));
  if (known) {
    const waits = known.state === "queued" || known.state === "running";
    if (known.key === key && waits) return true;
    if (known.key === key && !again && known.state !== "done") return false;
    await db
      .update(jobs)
      .set({ key, state: "queued", attempts: 0, refusal: null })
      .where(eq(jobs.id, known.id));
    return true;
  }
  await db.insert(jobs).values({ kind, subject, key, state: "queued" }).onConflictDoNothing();
  return true;
}
