/**
 * How versions lie along their references, and stems in their tracks: worked out in workers as soon
 * as both files are analysed, and again when something changes that they depend on.
 */
import { createHash } from "node:crypto";
import { eq, inArray } from "drizzle-orm";
import { analysisVersion, type TrackAnalysis } from "@/core/analysis/result";
import { lineUpVersion, type LinedUp, type StudyRecord, type TrackRecord } from "@/core/study";
import type { Outcome } from "@/core/outcome";
import type { StemOffset } from "@/core/study";
import type { Database } from "./database";
import { originalPath } from "./places";
import type { lineUpPair, placeStem } from "./pairs";
import { runInWorker, tellDone } from "./queue";
import { loadLineUpCurves } from "./results";
import { linedUp, stems } from "./schema";

/** What is stored of a pair, and whether it is still true. */
export interface StoredLineUp extends LinedUp {
  current: boolean;
}

const shared = globalThis as { plainMirrorLining?: Set<string> };
/** What is being worked out, so that it is not begun twice. */
const underWay = (): Set<string> => (shared.plainMirrorLining ??= new Set());

/** Stands for everything that lining up depends on. */
function keyOf(reference: TrackRecord, version: TrackRecord): string {
  const parts = [
    analysisVersion,
    lineUpVersion,
    reference.file.hash,
    reference.correction,
    version.file.hash,
    version.correction,
    version.coverage,
  ];
  return createHash("sha1").update(JSON.stringify(parts)).digest("hex");
}

type PowersAsLists = { mid: number[]; side: number[] };

/** Typed arrays become lists in the database. */
const asStored = ({ alignment, measures }: LinedUp) => ({
  alignment,
  measures: Object.fromEntries(
    Object.entries(measures).map(([side, m]) => [
      side,
      { ...m, spectrum: { mid: Array.from(m.spectrum.mid), side: Array.from(m.spectrum.side) } },
    ]),
  ),
});

function fromStored(stored: unknown): LinedUp {
  const { alignment, measures } = stored as LinedUp;
  const revived = (m: LinedUp["measures"]["reference"]) => {
    const { mid, side } = m.spectrum as unknown as PowersAsLists;
    return { ...m, spectrum: { mid: Float32Array.from(mid), side: Float32Array.from(side) } };
  };
  return {
    alignment,
    measures: { reference: revived(measures.reference), version: revived(measures.version) },
  };
}

/**
 * What is known of how the versions of some studies lie along their references, by track id; what
 * is missing or out of date is begun, and listeners hear of its end.
 */
export async function readLineUps(
  db: Database,
  studies: readonly Pick<StudyRecord, "reference" | "versions">[],
  analyses: ReadonlyMap<string, TrackAnalysis>,
): Promise<Map<string, StoredLineUp>> {
  const ids = studies.flatMap((study) => study.versions.map(({ id }) => id));
  const rows = ids.length === 0 ? [] : await db.select().from(linedUp).where(inArray(linedUp.trackId, ids));
  const stored = new Map(rows.map((row) => [row.trackId, row]));
  const result = new Map<string, StoredLineUp>();
  for (const { reference, versions } of studies) {
    const referenceAnalysis = reference && analyses.get(reference.file.hash);
    if (!reference || !referenceAnalysis) continue;
    for (const version of versions) {
      const versionAnalysis = analyses.get(version.file.hash);
      if (!versionAnalysis) continue;
      const key = keyOf(reference, version);
      const row = stored.get(version.id);
      const current = row?.key === key;
      if (row) result.set(version.id, { ...fromStored(row.result), current });
      if (!current) {
        void workOut(
          db,
          key,
          { track: reference, analysis: referenceAnalysis },
          { track: version, analysis: versionAnalysis },
        );
      }
    }
  }
  return result;
}

async function workOut(
  db: Database,
  key: string,
  reference: { track: TrackRecord; analysis: TrackAnalysis },
  version: { track: TrackRecord; analysis: TrackAnalysis },
): Promise<void> {
  const { id, coverage, file } = version.track;
  if (underWay().has(key + id)) return;
  underWay().add(key + id);
  try {
    const side = async ({ track, analysis }: typeof reference) => ({
      analysis,
      correction: track.correction,
      curves: await loadLineUpCurves(db, track.file.hash, analysis),
    });
    const task: Parameters<typeof lineUpPair>[0] = {
      reference: await side(reference),
      version: await side(version),
      coverage,
    };
    const found = await runInWorker<LinedUp>("lineUpPair", task);
    const row = { trackId: id, key, result: asStored(found) };
    await db.insert(linedUp).values(row).onConflictDoUpdate({ target: linedUp.trackId, set: row });
  } catch (error) {
    // A track that was deleted meanwhile has no place for its result; anything else is a bug to see.
    console.error("lining up failed", error);
  } finally {
    underWay().delete(key + id);
    tellDone(file.hash);
  }
}

/** Begins to place the stems of tracks that are not placed yet and whose files are both whole. */
export function placeStems(db: Database, tracks: readonly TrackRecord[]): void {
  for (const track of tracks) {
    for (const stem of track.stems) {
      if (stem.measuredOffset !== null || stem.job.state !== "done" || track.job.state !== "done") continue;
      void placeOne(db, track, stem.id, stem.file.hash);
    }
  }
}

async function placeOne(db: Database, track: TrackRecord, stemId: string, stemHash: string): Promise<void> {
  if (underWay().has(stemId)) return;
  underWay().add(stemId);
  try {
    const task: Parameters<typeof placeStem>[0] = {
      trackPath: originalPath(track.file.hash),
      stemPath: originalPath(stemHash),
    };
    const found = await runInWorker<Outcome<StemOffset | null>>("placeStem", task);
    const measuredOffset = (found.ok && found.value) || { seconds: 0, confidence: 0 };
    await db.update(stems).set({ measuredOffset }).where(eq(stems.id, stemId));
  } catch (error) {
    console.error("placing a stem failed", error);
  } finally {
    underWay().delete(stemId);
    tellDone(stemHash);
  }
}
