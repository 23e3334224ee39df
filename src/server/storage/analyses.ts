/** Stores and loads analyses: numbers as JSON, curves as typed blobs. What was read once is kept at hand. */
import { and, eq, inArray } from "drizzle-orm";
import { LRUCache } from "lru-cache";
import {
  curveNames,
  curveRegistry,
  isCurveName,
  onsetNames,
  onsetsFrom,
  spanCurveNames,
  spanCurvesFrom,
  type CurveName,
  type ReadCurve,
  type ReadCurves,
} from "@/core/analysis/curves";
import {
  analysisVersion,
  trackAnalysisSchema,
  type TrackAnalysis,
  type TrackCurves,
} from "@/core/analysis/result";
import type { OnsetRanges } from "@/core/grid/onsetRanges";
import type { Decibels } from "@/core/units";
import { offsetOf, type AlignmentCurves, type StemRecord, type StemSound } from "@/core/study";
import type { Database } from "./database";
import { analyses, curves } from "./schema";

const bufferOf = (array: Float32Array | Uint8Array): Buffer =>
  Buffer.from(array.buffer, array.byteOffset, array.byteLength);

const isFinite = (array: Float32Array | Uint8Array): boolean => {
  // The difference of a number from itself is 0, unless it is infinite or none.
  for (let i = 0; i < array.length; i++) if (array[i]! - array[i]! !== 0) return false;
  return true;
};

/**
 * Replaces whatever was stored for a file.
 *
 * @returns false, and nothing is stored, where a number is outside its range.
 */
export async function storeAnalysis(
  db: Database,
  fileHash: string,
  summary: TrackAnalysis,
  found: TrackCurves,
): Promise<boolean> {
  const parsed = trackAnalysisSchema.safeParse(summary);
  if (!parsed.success) {
    console.error(`analysis of ${fileHash} is out of range`, parsed.error.issues.slice(0, 3));
    return false;
  }
  const rows = curveNames.map((name) => {
    const { rate, data } = curveRegistry[name];
    return { fileHash, name, rate: rate(found), array: data(found) };
  });
  const wrong = rows.find(({ rate, array }) => !Number.isFinite(rate) || !isFinite(array));
  if (wrong) {
    console.error(`curve ${wrong.name} of ${fileHash} is out of range`);
    return false;
  }
  const row = { fileHash, analysisVersion, summary: parsed.data, createdAt: Date.now() };
  await db.batch([
    db.delete(curves).where(eq(curves.fileHash, fileHash)),
    ...rows.map(({ array, ...own }) => db.insert(curves).values({ ...own, data: bufferOf(array) })),
    db.insert(analyses).values(row).onConflictDoUpdate({ target: analyses.fileHash, set: row }),
  ]);
  return true;
}

/** Which of some files have a current analysis. */
export async function measuredFiles(db: Database, hashes: readonly string[]): Promise<ReadonlySet<string>> {
  if (hashes.length === 0) return new Set();
  const rows = await db
    .select({ hash: analyses.fileHash })
    .from(analyses)
    .where(and(inArray(analyses.fileHash, [...hashes]), eq(analyses.analysisVersion, analysisVersion)));
  return new Set(rows.map(({ hash }) => hash));
}

const shared = globalThis as { plainMirrorAnalyses?: LRUCache<string, TrackAnalysis> };
const cache = () => (shared.plainMirrorAnalyses ??= new LRUCache({ max: 80 }));

/**
 * The current analyses of files; those made by another version of the analysis are left out, and so
 * are those that can no longer be read.
 */
export async function loadAnalyses(
  db: Database,
  hashes: readonly string[],
): Promise<Map<string, TrackAnalysis>> {
  const result = new Map<string, TrackAnalysis>();
  if (hashes.length === 0) return result;
  const stamps = await db
    .select({ hash: analyses.fileHash, createdAt: analyses.createdAt })
    .from(analyses)
    .where(and(inArray(analyses.fileHash, [...hashes]), eq(analyses.analysisVersion, analysisVersion)));
  const keyOf = ({ hash, createdAt }: (typeof stamps)[number]) => `${hash} ${createdAt}`;
  const missing = stamps.filter((stamp) => {
    const known = cache().get(keyOf(stamp));
    if (known) result.set(stamp.hash, known);
    return !known;
  });
  if (missing.length === 0) return result;
  const rows = await db
    .select()
    .from(analyses)
    .where(
      inArray(
        analyses.fileHash,
        missing.map(({ hash }) => hash),
      ),
    );
  for (const row of rows) {
    const parsed = trackAnalysisSchema.safeParse(row.summary);
    if (!parsed.success) {
      console.error(`the stored analysis of ${row.fileHash} can't be read`);
      continue;
    }
    cache().set(keyOf({ hash: row.fileHash, createdAt: row.createdAt }), parsed.data);
    result.set(row.fileHash, parsed.data);
  }
  return result;
}

function curveOf(name: CurveName, rate: number, data: Buffer): ReadCurve {
  // Copied: a view must start at a multiple of four bytes, which the driver does not promise.
  const bytes = Uint8Array.from(data);
  return curveRegistry[name].type === "uint8"
    ? { rate, bytes, data: new Float32Array() }
    : { rate, bytes: new Uint8Array(), data: new Float32Array(bytes.buffer, 0, bytes.length >> 2) };
}

/** Reads curves of a file; throws where one is asked for that is not there. */
async function loadCurves(db: Database, fileHash: string, names: readonly CurveName[]): Promise<ReadCurves> {
  const rows = await db
    .select()
    .from(curves)
    .where(and(eq(curves.fileHash, fileHash), inArray(curves.name, [...names])));
  const byName = new Map(
    rows.flatMap(({ name, rate, data }): [string, ReadCurve][] =>
      isCurveName(name) ? [[name, curveOf(name, rate, data)]] : [],
    ),
  );
  return (name) => {
    const found = byName.get(name);
    if (!found) throw new Error(`curve ${name} of ${fileHash} is missing`);
    return found;
  };
}

/** Onset strength of a file, as far as it is kept. */
export const loadOnsets = async (db: Database, fileHash: string): Promise<OnsetRanges> =>
  onsetsFrom(await loadCurves(db, fileHash, onsetNames));

/** Everything that aligning and planning need. */
export async function loadAlignmentCurves(
  db: Database,
  fileHash: string,
  { durationSeconds, tuningCents }: Pick<TrackAnalysis, "durationSeconds" | "tuningCents">,
): Promise<AlignmentCurves> {
  const curve = await loadCurves(db, fileHash, [...spanCurveNames, ...onsetNames, "pitchSalience"]);
  const { rate: framesPerSecond, data: strengths } = curve("pitchSalience");
  return {
    ...spanCurvesFrom(curve, durationSeconds),
    onsets: onsetsFrom(curve),
    pitches: { framesPerSecond, strengths, tuningCents },
  };
}

type SpanCurves = Pick<TrackCurves, "levels" | "bands" | "envelopes">;
const sharedSpans = globalThis as { plainMirrorSpanCurves?: LRUCache<string, SpanCurves> };
const spanCache = () => (sharedSpans.plainMirrorSpanCurves ??= new LRUCache({ max: 6 }));

/** The curves that spans are measured from. */
export async function loadSpanCurves(
  db: Database,
  fileHash: string,
  durationSeconds: number,
): Promise<SpanCurves> {
  const key = `${fileHash} ${analysisVersion}`;
  const known = spanCache().get(key);
  if (known) return known;
  const loaded = spanCurvesFrom(await loadCurves(db, fileHash, spanCurveNames), durationSeconds);
  spanCache().set(key, loaded);
  return loaded;
}

/** Stems that are tied to elements and lie where they belong, with what they sound like. */
export async function loadStemSounds(
  db: Database,
  stems: readonly StemRecord[],
  known: ReadonlyMap<string, TrackAnalysis>,
  gainOfStem: (stemId: string) => Decibels | null,
): Promise<StemSound[]> {
  const sounds = await Promise.all(
    stems.map(async (stem): Promise<StemSound[]> => {
      const analysis = known.get(stem.file.hash);
      const offsetSeconds = offsetOf(stem);
      const gainDb = gainOfStem(stem.id);
      // One that is not in the track says nothing of it: then the lens tells.
      if (!analysis || stem.elementId === null || offsetSeconds === null || gainDb === null) return [];
      const { bands, levels } = await loadSpanCurves(db, stem.file.hash, analysis.durationSeconds);
      return [
        {
          elementId: stem.elementId,
          offsetSeconds,
          gainDb,
          bands,
          levels: levels.meanSquares,
        },
      ];
    }),
  );
  return sounds.flat();
}

/** One curve as it is stored; null where the file has not been analysed by this version. */
export async function loadCurve(
  db: Database,
  fileHash: string,
  name: CurveName,
): Promise<{ rate: number; data: Buffer } | null> {
  const [row] = await db
    .select({ rate: curves.rate, data: curves.data })
    .from(curves)
    .innerJoin(analyses, eq(analyses.fileHash, curves.fileHash))
    .where(
      and(
        eq(curves.fileHash, fileHash),
        eq(curves.name, name),
        eq(analyses.analysisVersion, analysisVersion),
      ),
    );
  return row ?? null;
}
