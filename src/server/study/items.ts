/** Single items: found by their id, with what is known of them. */
import { and, eq, isNull } from "drizzle-orm";
import { countedBass } from "@/core/lowEnd";
import { refuse, success, type Outcome } from "@/core/outcome";
import { heardBass, itemDrums, itemsOf, drumStemsOf, planInStudy, type StudyResults } from "@/core/study";
import { compute } from "../jobs/threads";
import { loadAnalyses, loadOnsets } from "../storage/analyses";
import type { Database } from "../storage/database";
import { items } from "../storage/schema";
import { readStudy } from "./read";

export const itemIsGone = () =>
  refuse("not-found", "This track is not here any more.", "Go back to the list of studies.");

/** The row of a track or stem; null where it is gone. */
export async function findItem(db: Database, itemId: string) {
  const [row] = await db
    .select({ studyId: items.studyId, fileHash: items.fileHash })
    .from(items)
    .where(and(eq(items.id, itemId), isNull(items.removedAt)));
  return row ?? null;
}

/** Near a tapped tempo, the one that the onsets say: tapping is good to a few percent. */
const tappedRadius = 0.04;

/** The tempo of a track near one that was tapped, to 0.01 BPM. */
export async function tempoOfItem(
  db: Database,
  itemId: string,
  near: number,
): Promise<Outcome<{ bpm: number }>> {
  const item = await findItem(db, itemId);
  if (!item) return itemIsGone();
  if (!(await loadAnalyses(db, [item.fileHash])).has(item.fileHash))
    return refuse("not-found", "This file has not been analysed yet.");
  const bpm = await compute("sharpenTempo", {
    onsets: await loadOnsets(db, item.fileHash),
    bpm: near,
    reach: tappedRadius,
  });
  return success({ bpm: Math.round(100 * bpm) / 100 });
}

/** A track or stem with all that counts of it; null where it is gone or not analysed. */
export async function readItem(db: Database, itemId: string) {
  const row = await findItem(db, itemId);
  const results = row && (await readStudy(db, row.studyId));
  return results && itemIn(results, itemId);
}

function itemIn(results: StudyResults, itemId: string) {
  const { study, analyses, ownGrids } = results;
  const item = itemsOf(study).find(({ id }) => id === itemId);
  const analysis = item && analyses.get(item.file.hash);
  const plan = item && planInStudy(results, item);
  if (!item || !analysis || !plan) return null;
  const grid = ownGrids.get(itemId) ?? null;
  const stems = "stems" in item ? drumStemsOf(item.stems, study.elements, analyses) : [];
  return {
    study,
    item,
    plan,
    drums: itemDrums(analysis, stems, item.corrections, grid).counted,
    grid,
    swing: analysis.grid?.swing,
    seconds: analysis.durationSeconds,
    sampleRate: analysis.sampleRate,
    bass: countedBass(heardBass(item, study.elements, analyses).notes, item.corrections.bass),
    bassNotes: analysis.drums.bassNotes,
  };
}
