/**
 * Plans of tracks and stems. On the measured grid they come with the analysis; where the grid was
 * corrected they are worked out anew in a worker, and the old one stands until then.
 */
import { createHash } from "node:crypto";
import { inArray } from "drizzle-orm";
import { analysisVersion, type TrackAnalysis } from "@/core/analysis/result";
import { isEmptyCorrection } from "@/core/grid/correction";
import { planVersion, type TrackPlan } from "@/core/plan";
import type { AnalysesByFile, CorrectedPlace, FileRecord } from "@/core/study";
import type { Database } from "./database";
import type { planTrack } from "./pairs";
import { runInWorker, tellDone } from "./queue";
import { loadLineUpCurves } from "./results";
import { plans } from "./schema";

/** A track or a stem, as far as its plan goes. */
export type PlannedPlace = Pick<CorrectedPlace, "correction"> & {
  id: string;
  file: Pick<FileRecord, "hash">;
};

export interface StoredPlan {
  plan: TrackPlan;
  /** Whether it stands on the grid as it counts now. */
  current: boolean;
}

const shared = globalThis as { plainMirrorPlanning?: Set<string> };
const underWay = (): Set<string> => (shared.plainMirrorPlanning ??= new Set());

const keyOf = ({ file, correction }: PlannedPlace): string =>
  createHash("sha1")
    .update(JSON.stringify([analysisVersion, planVersion, file.hash, correction]))
    .digest("hex");

/** The plans of places whose files are analysed, by place id. */
export async function readPlans(
  db: Database,
  places: readonly PlannedPlace[],
  analyses: AnalysesByFile,
): Promise<Map<string, StoredPlan>> {
  const corrected = places.filter(({ correction }) => !isEmptyCorrection(correction));
  const rows =
    corrected.length === 0
      ? []
      : await db
          .select()
          .from(plans)
          .where(
            inArray(
              plans.placeId,
              corrected.map(({ id }) => id),
            ),
          );
  const stored = new Map(rows.map((row) => [row.placeId, row]));
  const result = new Map<string, StoredPlan>();
  for (const place of places) {
    const analysis = analyses.get(place.file.hash);
    if (!analysis) continue;
    if (isEmptyCorrection(place.correction)) {
      result.set(place.id, { plan: analysis.plan, current: true });
      continue;
    }
    const key = keyOf(place);
    const row = stored.get(place.id);
    const current = row?.key === key;
    result.set(place.id, { plan: row?.plan ?? analysis.plan, current });
    if (!current) void workOut(db, key, place, analysis);
  }
  return result;
}

async function workOut(
  db: Database,
  key: string,
  { id, file, correction }: PlannedPlace,
  analysis: TrackAnalysis,
): Promise<void> {
  if (underWay().has(key + id)) return;
  underWay().add(key + id);
  try {
    const curves = await loadLineUpCurves(db, file.hash, analysis);
    const task: Parameters<typeof planTrack>[0] = { analysis, correction, curves };
    const plan = await runInWorker<TrackPlan>("planTrack", task);
    const row = { placeId: id, key, plan };
    await db.insert(plans).values(row).onConflictDoUpdate({ target: plans.placeId, set: row });
  } catch (error) {
    console.error("planning failed", error);
  } finally {
    underWay().delete(key + id);
    tellDone(file.hash);
  }
}
