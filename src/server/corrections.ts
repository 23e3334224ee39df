/** What a producer puts right of grids, chords and sections: each correction lies over the measurement and can be undone. */
import { and, desc, eq } from "drizzle-orm";
import type { GridCorrection } from "@/core/grid/correction";
import { refuse, success, type Outcome } from "@/core/outcome";
import type { PlanCorrection, PlanSubject } from "@/core/plan";
import type { Database } from "./database";
import type { sharpenTempo } from "./pairs";
import { runInWorker } from "./queue";
import { loadOnsets } from "./results";
import { gridCorrections, planCorrections, stems, tracks } from "./schema";
import { notFound } from "./studies";

/** Whether a track or stem with this id is there, and whose file it is. */
async function placeFile(db: Database, placeId: string): Promise<string | null> {
  const [track] = await db.select({ hash: tracks.fileHash }).from(tracks).where(eq(tracks.id, placeId));
  if (track) return track.hash;
  const [stem] = await db.select({ hash: stems.fileHash }).from(stems).where(eq(stems.id, placeId));
  return stem?.hash ?? null;
}

/** Near a tapped tempo, the one that the onsets say: tapping is good to a few percent. */
const tappedReach = 0.04;

/**
 * Lays a correction over the grid of a track or stem, in place of the one before.
 *
 * @param tapped whether the tempo was tapped and is to be sharpened by what is heard.
 */
export async function correctGrid(
  db: Database,
  placeId: string,
  correction: GridCorrection,
  tapped: boolean,
): Promise<Outcome<GridCorrection>> {
  const hash = await placeFile(db, placeId);
  if (hash === null) return notFound("track");
  let { bpm } = correction;
  if (tapped && bpm !== undefined) {
    const task: Parameters<typeof sharpenTempo>[0] = {
      onsets: await loadOnsets(db, hash),
      bpm,
      reach: tappedReach,
    };
    bpm = Math.round((await runInWorker<number>("sharpenTempo", task)) * 100) / 100;
  }
  const kept = bpm === undefined ? correction : { ...correction, bpm };
  await db.insert(gridCorrections).values({ placeId, correction: kept });
  return success(kept);
}

/** Takes back the newest correction of a grid. */
export async function undoCorrection(db: Database, placeId: string): Promise<Outcome<null>> {
  const [newest] = await db
    .select({ id: gridCorrections.id })
    .from(gridCorrections)
    .where(eq(gridCorrections.placeId, placeId))
    .orderBy(desc(gridCorrections.id))
    .limit(1);
  if (!newest) return refuse("not-found", "There is no correction to take back.");
  await db.delete(gridCorrections).where(eq(gridCorrections.id, newest.id));
  return success(null);
}

/** Lays a correction over the chords or sections of a track or stem, in place of the one before. */
export async function correctPlan(
  db: Database,
  placeId: string,
  { subject, correction }: PlanCorrection,
): Promise<Outcome<null>> {
  if ((await placeFile(db, placeId)) === null) return notFound("track");
  await db.insert(planCorrections).values({ placeId, subject, correction });
  return success(null);
}

/** Takes back the newest correction of chords or sections. */
export async function undoPlanCorrection(
  db: Database,
  placeId: string,
  subject: PlanSubject,
): Promise<Outcome<null>> {
  const [newest] = await db
    .select({ id: planCorrections.id })
    .from(planCorrections)
    .where(and(eq(planCorrections.placeId, placeId), eq(planCorrections.subject, subject)))
    .orderBy(desc(planCorrections.id))
    .limit(1);
  if (!newest) return refuse("not-found", "There is no correction to take back.");
  await db.delete(planCorrections).where(eq(planCorrections.id, newest.id));
  return success(null);
}

/** The file of a track or stem. */
export async function fileHashOf(db: Database, placeId: string): Promise<Outcome<string>> {
  const hash = await placeFile(db, placeId);
  return hash === null ? notFound("version") : success(hash);
}
