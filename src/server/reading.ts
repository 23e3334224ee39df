/** Reads studies from the database into the plain records of the core. */
import { asc, desc, eq, inArray } from "drizzle-orm";
import {
  compareDrums,
  countedDrums,
  drumCorrectionSchema,
  swingOfDrums,
  withStems,
  type ComparedDrums,
  type CountedDrums,
  type DrumEstimate,
  type DrumSide,
  type DrumStem,
  type DrumVoice,
} from "@/core/drums";
import { gridOf } from "@/core/grid/correction";
import type { Grid } from "@/core/grid/grid";
import { defaultAspectWeights, nothingIntended } from "@/core/match";
import {
  standingsOf,
  versionGrid,
  type AnalysesByFile,
  type CorrectedPlace,
  type FileRecord,
  type JobRecord,
  type Standing,
  type StemRecord,
  type StudyRecord,
  type TrackRecord,
} from "@/core/study";
import {
  comparePlans,
  countedPlan,
  formCorrectionSchema,
  harmonyCorrectionSchema,
  type ComparedPlans,
  type CountedPlan,
  type PlanSide,
} from "@/core/plan";
import type { CoverageSpan } from "@/core/align/coverage";
import type { Database } from "./database";
import { placeStems, readLineUps, type StoredLineUp } from "./lining";
import { readPlans, type StoredPlan } from "./planning";
import { progressOf } from "./queue";
import { loadAnalyses, loadOnsets } from "./results";
import { elements, files, gridCorrections, jobs, planCorrections, stems, studies, tracks } from "./schema";

const waitingWords: Record<JobRecord["state"], string> = {
  queued: "Waiting",
  running: "Starting",
  done: "Done",
  failed: "Failed",
  cancelled: "Cancelled",
};

function fileRecord(file: typeof files.$inferSelect): FileRecord {
  const { hash, bytes, format, durationSeconds, sampleRate, channels, warnings, claims } = file;
  return { hash, bytes, format, durationSeconds, sampleRate, channels, warnings, claims };
}

function jobRecord(hash: string, job: typeof jobs.$inferSelect | null): JobRecord {
  const state = job?.state ?? "queued";
  const progress = progressOf(hash);
  return {
    state,
    says: progress?.says ?? waitingWords[state],
    done: progress?.done ?? (state === "done" ? 1 : 0),
    refusal: job?.refusal ?? null,
  };
}

/** The corrections of tracks and stems: the newest of each, and how many there are. */
async function readCorrections(db: Database, placeIds: readonly string[]) {
  const ids = [...placeIds];
  const [gridRows, planRows] =
    ids.length === 0
      ? [[], []]
      : await db.batch([
          db
            .select()
            .from(gridCorrections)
            .where(inArray(gridCorrections.placeId, ids))
            .orderBy(asc(gridCorrections.id)),
          db
            .select()
            .from(planCorrections)
            .where(inArray(planCorrections.placeId, ids))
            .orderBy(asc(planCorrections.id)),
        ]);
  return (placeId: string): CorrectedPlace => {
    const own = gridRows.filter((row) => row.placeId === placeId);
    const harmony = planRows.filter((row) => row.placeId === placeId && row.subject === "harmony");
    const form = planRows.filter((row) => row.placeId === placeId && row.subject === "form");
    const drums = planRows.filter((row) => row.placeId === placeId && row.subject === "drums");
    return {
      correction: own.at(-1)?.correction ?? {},
      correctionsMade: own.length,
      harmonyCorrection: harmonyCorrectionSchema.parse(harmony.at(-1)?.correction ?? {}),
      formCorrection: formCorrectionSchema.parse(form.at(-1)?.correction ?? {}),
      drumCorrection: drumCorrectionSchema.parse(drums.at(-1)?.correction ?? {}),
      planCorrectionsMade: { harmony: harmony.length, form: form.length, drums: drums.length },
    };
  };
}

async function readTracks(db: Database, studyIds: readonly string[]): Promise<Map<string, TrackRecord[]>> {
  const byStudy = new Map<string, TrackRecord[]>();
  if (studyIds.length === 0) return byStudy;
  const rows = await db
    .select({ track: tracks, file: files, job: jobs })
    .from(tracks)
    .innerJoin(files, eq(files.hash, tracks.fileHash))
    .leftJoin(jobs, eq(jobs.fileHash, tracks.fileHash))
    .where(inArray(tracks.studyId, [...studyIds]))
    .orderBy(asc(tracks.number));
  const trackIds = rows.map(({ track }) => track.id);
  const stemRows =
    trackIds.length === 0
      ? []
      : await db
          .select({ stem: stems, file: files, job: jobs })
          .from(stems)
          .innerJoin(files, eq(files.hash, stems.fileHash))
          .leftJoin(jobs, eq(jobs.fileHash, stems.fileHash))
          .where(inArray(stems.trackId, trackIds))
          .orderBy(asc(stems.createdAt));
  const correctionOf = await readCorrections(db, [...trackIds, ...stemRows.map(({ stem }) => stem.id)]);
  const stemsOf = (trackId: string): StemRecord[] =>
    stemRows
      .filter(({ stem }) => stem.trackId === trackId)
      .map(({ stem, file, job }) => ({
        id: stem.id,
        elementId: stem.elementId,
        fileName: stem.fileName,
        file: fileRecord(file),
        job: jobRecord(file.hash, job),
        ...correctionOf(stem.id),
        measuredOffset: stem.measuredOffset,
        offsetSeconds: stem.offsetSeconds,
      }));
  for (const { track, file, job } of rows) {
    const record: TrackRecord = {
      id: track.id,
      role: track.role,
      number: track.number,
      fileName: track.fileName,
      note: track.note,
      addedAt: track.createdAt,
      file: fileRecord(file),
      job: jobRecord(file.hash, job),
      ...correctionOf(track.id),
      coverage: track.coverage,
      stems: stemsOf(track.id),
    };
    byStudy.set(track.studyId, [...(byStudy.get(track.studyId) ?? []), record]);
  }
  return byStudy;
}

/** The plan of a track or stem: as stored, and as it counts. */
export interface ReadPlan extends StoredPlan {
  counted: CountedPlan;
}

/** The drums of a track or stem: as heard, and as they count. */
export interface ReadDrums {
  /** With what its stems tell. */
  estimate: DrumEstimate;
  /** By which stem a voice is known. */
  sources: Partial<Record<DrumVoice, string>>;
  counted: CountedDrums;
}

/** A study with the analyses of its files, grids and plans, how its versions lie along the reference, and their standing. */
export interface ReadStudy {
  study: StudyRecord;
  analyses: AnalysesByFile;
  linedUp: ReadonlyMap<string, StoredLineUp>;
  /** By track id: a version's counted as its reference's where they are lined up. */
  grids: ReadonlyMap<string, Grid>;
  /** By the id of a track or stem: the grid that its plan is counted on. */
  ownGrids: ReadonlyMap<string, Grid>;
  /** By the id of a track or stem. */
  plans: ReadonlyMap<string, ReadPlan>;
  /** What chords and sections of each version have in common with the reference, by track id. */
  comparedPlans: ReadonlyMap<string, ComparedPlans>;
  /** By the id of a track or stem. */
  drums: ReadonlyMap<string, ReadDrums>;
  /** The drums of each version beside the reference's, by track id. */
  comparedDrums: ReadonlyMap<string, ComparedDrums>;
  standings: Standing[];
}

/** One side of a comparison of plans; null where a grid or plan is missing. */
export function planSideOf(
  { plans, grids, ownGrids }: Pick<ReadStudy, "plans" | "grids" | "ownGrids">,
  trackId: string,
): PlanSide | null {
  const plan = plans.get(trackId)?.counted;
  const grid = grids.get(trackId);
  const planGrid = ownGrids.get(trackId);
  return plan && grid && planGrid ? { plan, grid, planGrid } : null;
}

/** One side of a comparison of drums, counted on the grid of coverage; null where a grid is missing. */
function drumSideOf(
  { analyses, grids, drums }: Pick<ReadStudy, "analyses" | "grids" | "drums">,
  { id, file }: TrackRecord,
): DrumSide | null {
  const grid = grids.get(id);
  const counted = drums.get(id)?.counted;
  return grid && counted
    ? { grid, drums: counted, swing: swingOfDrums(counted.hits, grid, analyses.get(file.hash)?.grid?.swing) }
    : null;
}

/** The bars of the reference that a version answers: as the producer says, or as found. */
export const coverageOf = (
  version: Pick<TrackRecord, "id" | "coverage">,
  linedUp: ReadonlyMap<string, StoredLineUp>,
): readonly CoverageSpan[] => version.coverage ?? linedUp.get(version.id)?.alignment?.spans ?? [];

function compareDrumsOf(
  read: Pick<ReadStudy, "study" | "analyses" | "linedUp" | "grids" | "drums">,
): Map<string, ComparedDrums> {
  const { study, linedUp } = read;
  const result = new Map<string, ComparedDrums>();
  const reference = study.reference && drumSideOf(read, study.reference);
  if (!reference) return result;
  for (const version of study.versions) {
    const side = drumSideOf(read, version);
    const spans = coverageOf(version, linedUp);
    if (side && spans.length > 0)
      result.set(version.id, compareDrums(reference, side, spans, study.intended.drums));
  }
  return result;
}

function comparePlansOf(
  read: Pick<ReadStudy, "study" | "linedUp" | "grids" | "ownGrids" | "plans">,
): Map<string, ComparedPlans> {
  const { study, linedUp } = read;
  const result = new Map<string, ComparedPlans>();
  const reference = study.reference && planSideOf(read, study.reference.id);
  if (!reference) return result;
  for (const version of study.versions) {
    const side = planSideOf(read, version.id);
    const spans = coverageOf(version, linedUp);
    if (!side || spans.length === 0) continue;
    result.set(version.id, comparePlans(reference, side, spans, study.intended.semitones));
  }
  return result;
}

async function readStudies(db: Database, rows: (typeof studies.$inferSelect)[]): Promise<ReadStudy[]> {
  const ids = rows.map(({ id }) => id);
  const tracksOf = await readTracks(db, ids);
  const elementRows =
    ids.length === 0
      ? []
      : await db
          .select()
          .from(elements)
          .where(inArray(elements.studyId, ids))
          .orderBy(asc(elements.position));
  const all = [...tracksOf.values()].flat();
  const hashes = all.flatMap((track) => [track.file.hash, ...track.stems.map((stem) => stem.file.hash)]);
  const analyses = await loadAnalyses(db, [...new Set(hashes)]);
  const read = rows.map((row): StudyRecord => {
    const own = tracksOf.get(row.id) ?? [];
    return {
      id: row.id,
      title: row.title,
      addedAt: row.createdAt,
      aspectWeights: { ...defaultAspectWeights, ...row.aspectWeights },
      intended: row.intended ?? nothingIntended,
      reference: own.find((track) => track.role === "reference") ?? null,
      versions: own.filter((track) => track.role === "version"),
      elements: elementRows
        .filter((element) => element.studyId === row.id)
        .map(({ id, name, fromHz, toHz, state, note, weight, position }) => ({
          id,
          name,
          fromHz,
          toHz,
          state,
          note,
          weight,
          position,
        })),
    };
  });
  placeStems(db, all);
  const linedUp = await readLineUps(db, read, analyses);
  const places = all.flatMap((track) => [track, ...track.stems]);
  const stored = await readPlans(db, places, analyses);
  const ownGrids = new Map<string, Grid>();
  const plans = new Map<string, ReadPlan>();
  const drums = new Map<string, ReadDrums>();
  for (const place of places) {
    const grid = await readGrid(db, place, analyses);
    if (grid) ownGrids.set(place.id, grid);
    const plan = stored.get(place.id);
    if (plan) {
      const counted = countedPlan(plan.plan, place.harmonyCorrection, place.formCorrection);
      plans.set(place.id, { ...plan, counted });
    }
    const analysis = analyses.get(place.file.hash);
    if (analysis) {
      const stems = "stems" in place ? drumStemsOf(place, elementRows, analyses) : [];
      const { estimate, sources } = withStems(analysis.drums, stems);
      const counted = countedDrums(estimate, place.drumCorrection, grid);
      drums.set(place.id, { estimate, sources, counted });
    }
  }
  return read.map((study) => {
    const grids = gridsOf(study, ownGrids, linedUp);
    const known = { study, analyses, linedUp, grids, ownGrids, plans, drums };
    const comparedPlans = comparePlansOf(known);
    const comparedDrums = compareDrumsOf(known);
    const standings = standingsOf(study, linedUp, comparedPlans, comparedDrums);
    return { ...known, comparedPlans, comparedDrums, standings };
  });
}

/** The stems of a track that lie where they belong, called by their element or else their file. */
const drumStemsOf = (
  { stems: own }: TrackRecord,
  named: readonly { id: string; name: string }[],
  analyses: AnalysesByFile,
): DrumStem[] =>
  own.flatMap(({ elementId, fileName, file, measuredOffset, offsetSeconds }) => {
    const analysis = analyses.get(file.hash);
    const offset = offsetSeconds ?? measuredOffset?.seconds;
    return analysis && offset !== undefined
      ? [
          {
            name: named.find(({ id }) => id === elementId)?.name ?? fileName,
            offsetSeconds: offset,
            estimate: analysis.drums,
          },
        ]
      : [];
  });

/** The grid of a track or stem as it counts; null where there is none. */
async function readGrid(
  db: Database,
  { file, correction }: Pick<TrackRecord, "file" | "correction">,
  analyses: AnalysesByFile,
): Promise<Grid | null> {
  const analysis = analyses.get(file.hash);
  if (!analysis) return null;
  // Only beats that are to follow a player anew need the onsets.
  const follows =
    correction.manner === "following" && (correction.bpm !== undefined || analysis.grid?.steady);
  const onsets = follows ? await loadOnsets(db, file.hash) : null;
  return gridOf(analysis.grid, analysis.durationSeconds, correction, onsets);
}

/** The grids of all tracks of a study, by track id. */
function gridsOf(
  study: StudyRecord,
  ownGrids: ReadonlyMap<string, Grid>,
  linedUp: ReadonlyMap<string, StoredLineUp>,
): Map<string, Grid> {
  const grids = new Map<string, Grid>();
  const reference = (study.reference && ownGrids.get(study.reference.id)) ?? null;
  if (study.reference && reference) grids.set(study.reference.id, reference);
  for (const version of study.versions) {
    const alignment = linedUp.get(version.id)?.alignment ?? null;
    const grid = versionGrid(ownGrids.get(version.id) ?? null, version.correction, alignment, reference);
    if (grid) grids.set(version.id, grid);
  }
  return grids;
}

/** All studies, newest first. */
export const readAllStudies = async (db: Database): Promise<ReadStudy[]> =>
  readStudies(db, await db.select().from(studies).orderBy(desc(studies.createdAt)));

/** One study, or null where there is none with this id. */
export async function readStudy(db: Database, id: string): Promise<ReadStudy | null> {
  const rows = await db.select().from(studies).where(eq(studies.id, id));
  return (await readStudies(db, rows))[0] ?? null;
}
