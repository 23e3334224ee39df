/** Stores and loads analyses: numbers as JSON, curves as typed blobs. */
import { and, eq, inArray } from "drizzle-orm";
import {
  analysisVersion,
  trackAnalysisSchema,
  type TrackAnalysis,
  type TrackCurves,
} from "@/core/analysis/result";
import { onsetRanges, type OnsetRanges } from "@/core/grid/onsetRanges";
import { energyStepsPerSecond, levelStepsPerSecond } from "@/core/loudness";
import type { LineUpCurves } from "@/core/study";
import { twelfthCount, type BandMap } from "@/core/tone";
import type { Database } from "./database";
import { analyses, curves } from "./schema";

type StoredCurve = { name: string; kind: "float32" | "uint8"; rate: number; data: Buffer };

const bufferOf = (array: Float32Array | Uint8Array): Buffer =>
  Buffer.from(array.buffer, array.byteOffset, array.byteLength);

function curvesToStore({ levels, bands, onsets, pitches, overview }: TrackCurves): StoredCurve[] {
  const float = (name: string, rate: number, array: Float32Array): StoredCurve => ({
    name,
    kind: "float32",
    rate,
    data: bufferOf(array),
  });
  return [
    float("energies", energyStepsPerSecond, levels.energies),
    float("meanSquares", levelStepsPerSecond, levels.meanSquares),
    float("truePeaks", levelStepsPerSecond, levels.truePeaks),
    float("bandsMid", 1 / bands.hopSeconds, bands.mid),
    float("bandsSide", 1 / bands.hopSeconds, bands.side),
    ...onsets.ranges.map((range, i) => float(`onsets${i}`, onsets.framesPerSecond, range)),
    float("pitches", pitches.framesPerSecond, pitches.strengths),
    { name: "overview", kind: "uint8", rate: 0, data: bufferOf(overview) },
  ];
}

/** Replaces whatever was stored for a file. */
export async function storeResult(
  db: Database,
  fileHash: string,
  summary: TrackAnalysis,
  found: TrackCurves,
): Promise<void> {
  const row = { fileHash, analysisVersion, summary };
  await db.batch([
    db.delete(curves).where(eq(curves.fileHash, fileHash)),
    ...curvesToStore(found).map((curve) => db.insert(curves).values({ fileHash, ...curve })),
    db.insert(analyses).values(row).onConflictDoUpdate({ target: analyses.fileHash, set: row }),
  ]);
}

/** The current analyses of files; those made by another version of the analysis are left out. */
export async function loadAnalyses(
  db: Database,
  hashes: readonly string[],
): Promise<Map<string, TrackAnalysis>> {
  if (hashes.length === 0) return new Map();
  const rows = await db
    .select()
    .from(analyses)
    .where(and(inArray(analyses.fileHash, [...hashes]), eq(analyses.analysisVersion, analysisVersion)));
  return new Map(rows.map((row) => [row.fileHash, trackAnalysisSchema.parse(row.summary)]));
}

async function loadFloats(db: Database, fileHash: string, names: readonly string[]) {
  const rows = await db
    .select()
    .from(curves)
    .where(and(eq(curves.fileHash, fileHash), inArray(curves.name, [...names])));
  const byName = new Map(rows.map((row) => [row.name, row]));
  return (name: string): { array: Float32Array; rate: number } => {
    const row = byName.get(name);
    if (!row) throw new Error(`curve ${name} of ${fileHash} is missing`);
    // Copied: a view must start at a multiple of four bytes, which the driver does not promise.
    const bytes = Uint8Array.from(row.data);
    return { array: new Float32Array(bytes.buffer), rate: row.rate };
  };
}

const spanCurveNames = ["energies", "meanSquares", "truePeaks", "bandsMid", "bandsSide"] as const;
const onsetNames = onsetRanges.map((_, i) => `onsets${i}`);

type CurveReader = Awaited<ReturnType<typeof loadFloats>>;

const onsetsFrom = (curve: CurveReader): OnsetRanges => ({
  framesPerSecond: curve(onsetNames[0]!).rate,
  ranges: onsetNames.map((name) => curve(name).array),
});

/** Onset strength of a file, as far as it is kept. */
export const loadOnsets = async (db: Database, fileHash: string): Promise<OnsetRanges> =>
  onsetsFrom(await loadFloats(db, fileHash, onsetNames));

/** Everything that lining up needs. */
export async function loadLineUpCurves(
  db: Database,
  fileHash: string,
  { durationSeconds, tuningCents }: Pick<TrackAnalysis, "durationSeconds" | "tuningCents">,
): Promise<LineUpCurves> {
  const curve = await loadFloats(db, fileHash, [...spanCurveNames, ...onsetNames, "pitches"]);
  const pitches = curve("pitches");
  return {
    ...spanCurvesFrom(curve, durationSeconds),
    onsets: onsetsFrom(curve),
    pitches: { framesPerSecond: pitches.rate, strengths: pitches.array, tuningCents },
  };
}

/** K-weighted energy of a file every 10 ms; null where it has not been analysed. */
export async function loadEnergies(db: Database, fileHash: string): Promise<Buffer | null> {
  const [row] = await db
    .select()
    .from(curves)
    .where(and(eq(curves.fileHash, fileHash), eq(curves.name, "energies")));
  return row?.data ?? null;
}

/** The curves that spans are measured from. */
export const loadSpanCurves = async (
  db: Database,
  fileHash: string,
  durationSeconds: number,
): Promise<Pick<TrackCurves, "levels" | "bands">> =>
  spanCurvesFrom(await loadFloats(db, fileHash, spanCurveNames), durationSeconds);

function spanCurvesFrom(curve: CurveReader, durationSeconds: number): Pick<TrackCurves, "levels" | "bands"> {
  const mid = curve("bandsMid");
  const bands: BandMap = {
    hopSeconds: 1 / mid.rate,
    frames: mid.array.length / twelfthCount,
    durationSeconds,
    mid: mid.array,
    side: curve("bandsSide").array,
  };
  return {
    levels: {
      energies: curve("energies").array,
      meanSquares: curve("meanSquares").array,
      truePeaks: curve("truePeaks").array,
    },
    bands,
  };
}

/** The waveform overview of a file, or null where it has not been analysed. */
export async function loadOverview(db: Database, fileHash: string): Promise<Buffer | null> {
  const [row] = await db
    .select()
    .from(curves)
    .where(and(eq(curves.fileHash, fileHash), eq(curves.name, "overview")));
  return row?.data ?? null;
}

/** Whether onset strength is kept for a file. */
export async function hasOnsets(db: Database, fileHash: string): Promise<boolean> {
  const rows = await db
    .select({ name: curves.name })
    .from(curves)
    .where(and(eq(curves.fileHash, fileHash), eq(curves.name, onsetNames[0]!)));
  return rows.length > 0;
}
