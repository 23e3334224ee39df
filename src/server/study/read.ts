/** All that is known of a study, read and nothing else: reading starts no work. */
import { LRUCache } from "lru-cache";
import { gridOf } from "@/core/grid/correction";
import { isEmptyCorrection } from "@/core/grid/correction";
import type { Grid } from "@/core/grid/grid";
import type { Refusal } from "@/core/outcome";
import type { TrackPlan } from "@/core/plan";
import {
  gridsOf,
  itemsOf,
  mayBeLoop,
  scoresOfVersions,
  studyAddress,
  tracksOf,
  withStandIn,
  type AnalysesByFile,
  type Derived,
  type StemRecord,
  type StoredAlignment,
  type StoredComparison,
  type StoredLens,
  type StoredStemSum,
  type StudyRecord,
  type StudyResults,
  type TrackRecord,
} from "@/core/study";
import { writesSoFar, type Database } from "../storage/database";
import { loadAnalyses, loadOnsets, measuredFiles } from "../storage/analyses";
import { derivedKinds, loadDerived } from "../storage/derived";
import { liftedFiles } from "../storage/lifts";
import { alignKey, compareKey, lensKey, liftKey, pairSubject, planKey, sumKey } from "./keys";
import { styleTargetOf } from "./figures";
import { loadStudy, type LoadedStudy } from "./record";

/** The grid of a track or stem as it counts; null where there is none. */
async function ownGridOf(
  db: Database,
  { file, corrections: { grid: correction } }: Pick<TrackRecord, "file" | "corrections">,
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

async function plansOf(
  db: Database,
  all: readonly (TrackRecord | StemRecord)[],
  analyses: AnalysesByFile,
): Promise<Map<string, Derived<TrackPlan>>> {
  const corrected = all.filter(({ corrections }) => !isEmptyCorrection(corrections.grid));
  const stored = await loadDerived(
    db,
    derivedKinds.plan,
    corrected.map(({ id }) => id),
  );
  const result = new Map<string, Derived<TrackPlan>>();
  for (const item of all) {
    const analysis = analyses.get(item.file.hash);
    if (!analysis) continue;
    if (isEmptyCorrection(item.corrections.grid)) {
      result.set(item.id, { value: analysis.plan, current: true });
      continue;
    }
    const known = stored.get(item.id);
    result.set(item.id, {
      // The one on the measured grid stands in until its own is there.
      value: known?.value ?? analysis.plan,
      current: known?.key === planKey(item),
    });
  }
  return result;
}

async function stemSumsOf(
  db: Database,
  study: StudyRecord,
  analyses: AnalysesByFile,
  lifted: ReadonlySet<string>,
): Promise<StudyResults["stemSums"]> {
  const tracks = tracksOf(study).filter(({ stems }) => stems.length > 0);
  const stored = await loadDerived(
    db,
    derivedKinds.sumStems,
    tracks.map(({ id }) => id),
  );
  return new Map(
    tracks.flatMap((track): [string, Derived<StoredStemSum>][] => {
      const own = stored.get(track.id);
      const key = sumKey(track, study.elements, analyses, lifted.has(track.file.hash));
      return own ? [[track.id, { value: own.value, current: own.key === key }]] : [];
    }),
  );
}

/** Everything that is known of a loaded study. */
export async function resultsOf(db: Database, { study, jobs }: LoadedStudy): Promise<StudyResults> {
  const all = itemsOf(study);
  const loops = study.candidates.filter(({ file }) => mayBeLoop(file));
  const analyses = await loadAnalyses(db, [...new Set([...all, ...loops].map(({ file }) => file.hash))]);
  const yardstickMeasured = await measuredFiles(
    db,
    study.yardstick.map(({ file }) => file.hash),
  );
  const ownGrids = new Map<string, Grid>();
  for (const item of all) {
    const grid = await ownGridOf(db, item, analyses);
    if (grid) ownGrids.set(item.id, grid);
  }
  const plans = await plansOf(db, all, analyses);
  const ids = study.versions.map(({ id }) => id);
  const against = againstIn(study);
  const storedAlignments = await loadDerived(db, derivedKinds.align, ids, against);
  const storedComparisons = await loadDerived(db, derivedKinds.compare, ids, against);
  const storedLenses = await loadDerived(db, derivedKinds.lens, ids, against);
  const lifted = await liftedFiles(
    db,
    tracksOf(study).map(({ file }) => file.hash),
    liftKey,
  );
  const stemSums = await stemSumsOf(db, study, analyses, lifted);
  const lenses = new Map<string, Derived<StoredLens>>();
  const alignments = new Map<string, Derived<StoredAlignment>>();
  const comparisons = new Map<string, Derived<StoredComparison>>();
  const failures = new Map<string, Refusal>();
  const { reference } = study;
  for (const version of study.versions) {
    if (!reference || !analyses.has(reference.file.hash) || !analyses.has(version.file.hash)) continue;
    const alignment = storedAlignments.get(version.id);
    if (alignment) {
      const current = alignment.key === alignKey(reference, version);
      alignments.set(version.id, { value: alignment.value, current });
    }
    const comparison = storedComparisons.get(version.id);
    if (comparison) {
      const current = comparison.key === compareKey(reference, version, study.elements, stemSums);
      comparisons.set(version.id, { value: comparison.value, current });
    }
    const lens = storedLenses.get(version.id);
    if (lens) {
      const current = lens.key === lensKey(reference, version);
      lenses.set(version.id, { value: lens.value, current });
    }
    const failed = jobs.find(
      ({ kind, subject, state }) =>
        state === "failed" &&
        subject === pairSubject(version.id, against) &&
        (kind === "align" || kind === "compare"),
    );
    if (failed?.refusal) failures.set(version.id, failed.refusal);
  }
  const grids = gridsOf(study, ownGrids, (id) => alignments.get(id)?.value.alignment ?? null);
  const style = await styleTargetOf(db, study);
  const scores = scoresOfVersions(
    study,
    new Map(
      [...alignments].map(([id, { value }]) => [
        id,
        {
          alignment: value,
          comparison: comparisons.get(id)?.value ?? null,
          lens: lenses.get(id)?.value ?? null,
        },
      ]),
    ),
    style,
  );
  return {
    study,
    analyses,
    yardstickMeasured,
    alignments,
    comparisons,
    lenses,
    stemSums,
    lifted,
    plans,
    ownGrids,
    grids,
    failures,
    style,
    scores,
  };
}

interface Known {
  db: Database;
  /** Writes before it was read. */
  writes: number;
  results: StudyResults;
}
const shared = globalThis as { plainMirrorStudies?: LRUCache<string, Known> };
const studiesRead = () => (shared.plainMirrorStudies ??= new LRUCache({ max: 8 }));

/** What versions are held against in stored results: the id of the version that stands in, or nothing for the reference. */
export const againstIn = ({ standIn, reference }: StudyResults["study"]): string =>
  standIn !== null && reference ? reference.id : "";

/**
 * One study, or null where there is none with this id. What was read stays while nothing is written.
 *
 * @param standIn number of the version that stands in for the reference.
 */
export async function readStudy(
  db: Database,
  id: string,
  standIn: number | null = null,
): Promise<StudyResults | null> {
  const address = studyAddress({ id, standIn });
  const writes = writesSoFar();
  const known = studiesRead().get(address);
  if (known?.db === db && known.writes === writes) return known.results;
  const whole = await loadStudy(db, id);
  const study = whole && (standIn === null ? whole.study : withStandIn(whole.study, standIn));
  if (!whole || !study) return null;
  const loaded = { ...whole, study };
  const results = await resultsOf(db, loaded);
  // How far work is stands in no table.
  const isAtRest = loaded.jobs.every(({ state }) => state !== "queued" && state !== "running");
  if (isAtRest) studiesRead().set(address, { db, writes, results });
  else studiesRead().delete(address);
  return results;
}
