/** What each kind of job does: gathers what goes in, has it worked out elsewhere, stores what comes out. */
import { eq } from "drizzle-orm";
import { stat } from "node:fs/promises";
import { heardIn, ofLensParts } from "@/core/lens";
import { refuse, success, type Outcome } from "@/core/outcome";
import {
  coverageOf,
  coveredSpans,
  drumStemsOf,
  gainOf,
  heardBass,
  itemsOf,
  measuredLens,
  offsetOf,
  placedStems,
  storedStemSum,
  tracksOf,
  type StemRecord,
  type StudyResults,
  type TrackRecord,
} from "@/core/study";
import { loadAlignmentCurves, loadAnalyses, loadStemSounds, storeAnalysis } from "../storage/analyses";
import type { Database } from "../storage/database";
import { derivedKinds, storeDerived } from "../storage/derived";
import { forgetLift, loadLift, removeLensFiles, storeLift, thinLensFiles } from "../storage/lifts";
import { lensPath, listeningPath, originalPath } from "../storage/paths";
import { files, items, type JobKind } from "../storage/schema";
import { restoreListeningCopy } from "../storage/sweep";
import {
  alignKey,
  compareKey,
  lensKey,
  liftKey,
  parsePairSubject,
  placeKey,
  planKey,
  sumKey,
} from "../study/keys";
import { readStudy } from "../study/read";
import type { ComparedItem } from "./computeThread";
import { analysisPool, liftingPool } from "./processes";
import type { Progress } from "./progress";
import { compute } from "./threads";

export interface JobContext {
  db: Database;
  subject: string;
  signal: AbortSignal;
  onProgress(progress: Progress): void;
}

/** The outcome of a job; null where what it is about is gone or does not ask for it any more. */
export type JobOutcome = Outcome<null> | null;

const outOfRange = () =>
  refuse(
    "damaged",
    "Measuring this file gave numbers that can't be right, so they were not kept.",
    "Export it once more, at ordinary levels.",
  );

async function originalIsThere(hash: string): Promise<boolean> {
  try {
    return (await stat(originalPath(hash))).isFile();
  } catch {
    return false;
  }
}

export const originalMissing = () =>
  refuse(
    "not-found",
    "The original of this file is missing from the data folder.",
    "Upload the same file once more; it takes its place again.",
  );

async function analyse({ db, subject: hash, signal, onProgress }: JobContext): Promise<JobOutcome> {
  if (!(await originalIsThere(hash))) return originalMissing();
  const outcome = await analysisPool().run(
    "analyse",
    { path: originalPath(hash), listeningCopy: listeningPath(hash) },
    { signal, onProgress },
  );
  if (!outcome.ok) return (await originalIsThere(hash)) ? outcome : originalMissing();
  const [stillThere] = await db.select({ hash: files.hash }).from(files).where(eq(files.hash, hash));
  if (!stillThere) return null;
  const stored = await storeAnalysis(db, hash, outcome.value.analysis, outcome.value.curves);
  return stored ? success(null) : outOfRange();
}

async function render({ subject: hash, signal, onProgress }: JobContext): Promise<JobOutcome> {
  if (!(await originalIsThere(hash))) return originalMissing();
  return analysisPool().run(
    "render",
    { path: originalPath(hash), listeningCopy: listeningPath(hash) },
    { signal, onProgress },
  );
}

interface Found {
  results: StudyResults;
  item: TrackRecord | StemRecord;
}

/** An item with all that is known of its study, with a version in place of the reference or not; null where it is gone. */
async function find(db: Database, itemId: string, against = ""): Promise<Found | null> {
  const [row] = await db.select({ studyId: items.studyId }).from(items).where(eq(items.id, itemId));
  const [other] = against
    ? await db.select({ number: items.number }).from(items).where(eq(items.id, against))
    : [];
  if (!row || (against && !other?.number)) return null;
  const results = await readStudy(db, row.studyId, other?.number ?? null);
  const item = results && itemsOf(results.study).find(({ id }) => id === itemId);
  return results && item ? { results, item } : null;
}

async function placeStem({ db, subject, signal, onProgress }: JobContext): Promise<JobOutcome> {
  const found = await find(db, subject);
  const track =
    found && tracksOf(found.results.study).find(({ stems }) => stems.some(({ id }) => id === subject));
  if (!found || !track) return null;
  const outcome = await analysisPool().run(
    "placeStem",
    { trackPath: originalPath(track.file.hash), stemPath: originalPath(found.item.file.hash) },
    { signal, onProgress },
  );
  if (!outcome.ok) return outcome;
  // A silent stem lies where its track begins, and nothing is known of that.
  const measuredOffset = outcome.value ?? { seconds: 0, confidence: 0 };
  await db.update(items).set({ measuredOffset }).where(eq(items.id, subject));
  return success(null);
}

/** Holds the stems of a track against it. */
async function sumStems({ db, subject, signal, onProgress }: JobContext): Promise<JobOutcome> {
  const found = await find(db, subject);
  const track = found && tracksOf(found.results.study).find(({ id }) => id === subject);
  const analysis = track && found.results.analyses.get(track.file.hash);
  if (!found || !track || !analysis) return null;
  const { study, analyses, ownGrids, lifted } = found.results;
  const stems = placedStems(track, analyses);
  const isLifted = lifted.has(track.file.hash);
  const key = sumKey(track, study.elements, analyses, isLifted);
  const fileOf = (hash: string) => {
    const { sampleRate, durationSeconds } = analyses.get(hash)!;
    return { path: listeningPath(hash), sampleRate, durationSeconds };
  };
  const outcome = await liftingPool().run(
    "sumStems",
    {
      track: fileOf(track.file.hash),
      stems: stems.map((stem) => ({ ...fileOf(stem.file.hash), offsetSeconds: offsetOf(stem)! })),
    },
    { signal, onProgress },
  );
  if (!outcome.ok) {
    if (outcome.refusal.code !== "not-found") return outcome;
    for (const { file } of [track, ...stems]) await restoreListeningCopy(db, file.hash);
    // It is tried again when the copies are there.
    throw new Error(outcome.refusal.sentence);
  }
  const value = storedStemSum(
    stems,
    study.elements,
    outcome.value,
    {
      bands: (await loadAlignmentCurves(db, track.file.hash, analysis)).bands,
      durationSeconds: analysis.durationSeconds,
    },
    ownGrids.get(track.id) ?? null,
    isLifted ? await loadLift(db, track.file.hash) : null,
  );
  const stored = await storeDerived(db, derivedKinds.sumStems, track.id, key, value);
  return stored ? success(null) : outOfRange();
}

async function plan({ db, subject }: JobContext): Promise<JobOutcome> {
  const found = await find(db, subject);
  const analysis = found?.results.analyses.get(found.item.file.hash);
  if (!found || !analysis) return null;
  const { item } = found;
  const curves = await loadAlignmentCurves(db, item.file.hash, analysis);
  const value = await compute("plan", { analysis, correction: item.corrections.grid, curves });
  const stored = await storeDerived(db, derivedKinds.plan, subject, planKey(item), value);
  return stored ? success(null) : outOfRange();
}

/** A version and its reference, where both are analysed. */
async function pairOf(db: Database, subject: string) {
  const { itemId: versionId, against } = parsePairSubject(subject);
  const found = await find(db, versionId, against);
  const reference = found?.results.study.reference;
  const version = found?.results.study.versions.find(({ id }) => id === versionId);
  if (!found || !reference || !version) return null;
  const analysisOf = ({ file }: TrackRecord) => found.results.analyses.get(file.hash);
  const [ours, theirs] = [analysisOf(reference), analysisOf(version)];
  return ours && theirs ? { ...found, reference, version, against, analyses: { ours, theirs } } : null;
}

async function align({ db, subject }: JobContext): Promise<JobOutcome> {
  const pair = await pairOf(db, subject);
  if (!pair) return null;
  const { reference, version, against, analyses } = pair;
  const value = await compute("align", {
    reference: {
      analysis: analyses.ours,
      correction: reference.corrections.grid,
      curves: await loadAlignmentCurves(db, reference.file.hash, analyses.ours),
    },
    version: {
      analysis: analyses.theirs,
      correction: version.corrections.grid,
      curves: await loadAlignmentCurves(db, version.file.hash, analyses.theirs),
    },
    coverage: version.coverage,
  });
  const stored = await storeDerived(
    db,
    derivedKinds.align,
    version.id,
    alignKey(reference, version),
    value,
    against,
  );
  return stored ? success(null) : outOfRange();
}

async function compare({ db, subject }: JobContext): Promise<JobOutcome> {
  const pair = await pairOf(db, subject);
  if (!pair) return null;
  const { reference, version, against, analyses, results } = pair;
  const alignment = results.alignments.get(version.id);
  const side = async (track: TrackRecord, analysis: typeof analyses.ours): Promise<ComparedItem | null> => {
    const own = results.plans.get(track.id);
    if (!own?.current) return null;
    const { bands, onsets } = await loadAlignmentCurves(db, track.file.hash, analysis);
    return {
      analysis: {
        grid: analysis.grid,
        drums: analysis.drums,
        bass: [...heardBass(track, results.study.elements, results.analyses).notes],
        lowEnd: analysis.lowEnd,
      },
      plan: own.value,
      corrections: track.corrections,
      stems: drumStemsOf(track.stems, results.study.elements, results.analyses),
      grid: results.grids.get(track.id) ?? null,
      ownGrid: results.ownGrids.get(track.id) ?? null,
      curves: { bands, onsets },
      elementStems: await loadStemSounds(db, track.stems, results.analyses, (stemId) =>
        gainOf(results.stemSums, track.id, stemId),
      ),
    };
  };
  const sides = {
    reference: await side(reference, analyses.ours),
    version: await side(version, analyses.theirs),
  };
  // What it stands on is being worked out again; the job comes back after that.
  if (!alignment?.current || !sides.reference || !sides.version) return null;
  const value = await compute("compare", {
    reference: sides.reference,
    version: sides.version,
    spans: [...coverageOf(version, alignment.value.alignment)],
  });
  const key = compareKey(reference, version, results.study.elements, results.stemSums);
  const stored = await storeDerived(db, derivedKinds.compare, version.id, key, value, against);
  return stored ? success(null) : outOfRange();
}

/** Takes a file apart. Its sound is kept beside the listening copy, what is measured in the database. */
async function liftFile({ db, subject: hash, signal }: JobContext): Promise<JobOutcome> {
  const analysis = (await loadAnalyses(db, [hash])).get(hash);
  if (!analysis) return null;
  const lifted = await liftingPool().run(
    "lift",
    {
      path: listeningPath(hash),
      outputs: ofLensParts((part) => lensPath(hash, part)),
      sampleRate: analysis.sampleRate,
      durationSeconds: analysis.durationSeconds,
      heard: heardIn(analysis),
    },
    { signal },
  );
  if (!lifted.ok) {
    if (lifted.refusal.code === "not-found") {
      await restoreListeningCopy(db, hash);
      return lifted;
    }
    return refuse(
      "damaged",
      "Lifting parts out of this file took more memory or time than it may.",
      "Elements are compared in their ranges instead.",
    );
  }
  const [stillThere] = await db.select({ hash: files.hash }).from(files).where(eq(files.hash, hash));
  if (!stillThere) {
    await removeLensFiles(hash);
    return null;
  }
  const stored = await storeLift(db, hash, liftKey, lifted.value);
  await thinLensFiles();
  return stored ? success(null) : outOfRange();
}

/** What the lens has lifted out of a version and its reference, over the bars that answer. */
async function lens({ db, subject }: JobContext): Promise<JobOutcome> {
  const pair = await pairOf(db, subject);
  if (!pair) return null;
  const { reference, version, against, results } = pair;
  const alignment = results.alignments.get(version.id);
  if (!alignment?.current) return null;
  const lifted = async ({ file }: TrackRecord) => {
    const own = await loadLift(db, file.hash);
    if (!own) await forgetLift(db, file.hash);
    return own;
  };
  const [ours, theirs] = [await lifted(reference), await lifted(version)];
  if (!ours || !theirs) return null;
  const [grid, other] = [results.grids.get(reference.id), results.grids.get(version.id)];
  const grids = grid && other ? { reference: grid, version: other } : null;
  const spans = coverageOf(version, alignment.value.alignment);
  const covered =
    grids && spans.length > 0 ? coveredSpans(null, { ...grids, spans }) : { reference: null, version: null };
  const value = measuredLens(ours, theirs, covered, grids && { ...grids, spans });
  const stored = await storeDerived(
    db,
    derivedKinds.lens,
    version.id,
    lensKey(reference, version),
    value,
    against,
  );
  return stored ? success(null) : outOfRange();
}

export const executors: Record<JobKind, (context: JobContext) => Promise<JobOutcome>> = {
  analyse,
  render,
  placeStem,
  sumStems,
  plan,
  align,
  compare,
  lift: liftFile,
  lens,
};

export { placeKey };
