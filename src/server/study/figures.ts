/** What was measured of the tracks of a style, and what it comes to. */
import { LRUCache } from "lru-cache";
import type { TrackAnalysis } from "@/core/analysis/result";
import type { StyleTarget } from "@/core/match";
import { tracksOf, type StudyRecord } from "@/core/study";
import { fewestTracks, trackFigures, yardstickOf, type TrackFigures } from "@/core/yardstick";
import { loadAnalyses } from "../storage/analyses";
import type { Database } from "../storage/database";

const shared = globalThis as { plainMirrorFigures?: LRUCache<TrackAnalysis, TrackFigures> };
const cache = () => (shared.plainMirrorFigures ??= new LRUCache({ max: 300 }));

/** Figures of the yardstick's tracks and of the study's own that have been analysed, by file hash. */
export async function yardstickFigures(
  db: Database,
  study: Pick<StudyRecord, "yardstick" | "reference" | "versions">,
): Promise<Map<string, TrackFigures>> {
  const all = [...study.yardstick, ...tracksOf(study)];
  const analyses = await loadAnalyses(db, [...new Set(all.map(({ file }) => file.hash))]);
  return new Map(
    [...analyses].map(([hash, analysis]) => {
      const figures = cache().get(analysis) ?? trackFigures(analysis);
      cache().set(analysis, figures);
      return [hash, figures];
    }),
  );
}

/** What versions are held against in place of the reference; null where nothing is, or too few tracks are measured. */
export async function styleTargetOf(
  db: Database,
  study: Pick<StudyRecord, "yardstick" | "styleAspects">,
): Promise<StyleTarget | null> {
  const { yardstick, styleAspects: aspects } = study;
  if (aspects.length === 0) return null;
  const figures = await yardstickFigures(db, { yardstick, reference: null, versions: [] });
  const known = yardstick.flatMap(({ file }) => figures.get(file.hash) ?? []);
  return known.length < fewestTracks ? null : { aspects, yardstick: yardstickOf(known) };
}
