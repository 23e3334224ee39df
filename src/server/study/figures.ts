/** What was measured of the tracks of a style, and what it comes to. */
import { LRUCache } from "lru-cache";
import type { TrackAnalysis } from "@/core/analysis/result";
import type { StyleTarget } from "@/core/match";
import { tracksOf, type StudyRecord } from "@/core/study";
import {
  countedAlike,
  fewestTracks,
  trackFigures,
  yardstickOf,
  type CountedAs,
  type TrackFigures,
} from "@/core/yardstick";
import { loadAnalyses } from "../storage/analyses";
import type { Database } from "../storage/database";

type ByCount = Map<CountedAs, TrackFigures>;
const shared = globalThis as { plainMirrorFigures?: LRUCache<TrackAnalysis, ByCount> };
const cache = () => (shared.plainMirrorFigures ??= new LRUCache({ max: 300 }));

function keptFigures(analysis: TrackAnalysis, as: CountedAs): TrackFigures {
  const known: ByCount = cache().get(analysis) ?? new Map();
  const figures = known.get(as) ?? trackFigures(analysis, as);
  cache().set(analysis, known.set(as, figures));
  return figures;
}

/** Figures of the yardstick's tracks and of the study's own that have been analysed, by file hash. */
export async function yardstickFigures(
  db: Database,
  study: Pick<StudyRecord, "yardstick" | "reference" | "versions">,
): Promise<Map<string, TrackFigures>> {
  const hashesOf = (tracks: readonly { file: { hash: string } }[]) => [
    ...new Set(tracks.map(({ file }) => file.hash)),
  ];
  const [ofStyle, own] = [hashesOf(study.yardstick), hashesOf(tracksOf(study))];
  const analyses = await loadAnalyses(db, [...new Set([...ofStyle, ...own])]);
  const known = ofStyle.filter((hash) => analyses.has(hash));
  const counted = countedAlike(known.map((hash) => analyses.get(hash)!.tempo));
  return new Map(
    [...analyses].map(([hash, analysis]) => [hash, keptFigures(analysis, counted[known.indexOf(hash)] ?? 1)]),
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
