/** Sounds offered for the drums of a study: read, held against a drum of its reference, made ready to be heard. */
import { LRUCache } from "lru-cache";
import { asHits, type DrumVoice } from "@/core/drums";
import { gridOf } from "@/core/grid/correction";
import type { HitMeasures, LayerSetting, LoopSide, OneShot } from "@/core/hits";
import { refuse, sentenceOf, success, type Outcome } from "@/core/outcome";
import {
  drumStemsOf,
  itemDrums,
  itemPlan,
  mayBeLoop,
  noCorrections,
  type CandidateRecord,
  type StudyResults,
} from "@/core/study";
import type { CandidatesAnswer, LayersAnswer } from "@/models/candidates";
import { outlineOf } from "@/models/hits";
import type { TrackAnalysis } from "@/core/analysis/result";
import { unpackFrames } from "@/core/formats/chunks";
import { withoutExtension } from "@/core/formats/fileNames";
import { limits } from "@/core/formats/limits";
import { writeWav } from "@/core/formats/wav";
import type { SavedFile } from "../http";
import { originalMissing } from "../jobs/execute";
import { inspectionPool } from "../jobs/processes";
import { compute, computingThreads } from "../jobs/threads";
import type { Database } from "../storage/database";
import { readFrames } from "../storage/listeningCopy";
import { listeningPath, originalPath } from "../storage/paths";
import { restoreListeningCopy } from "../storage/sweep";
import { findItem, itemIsGone } from "../study/items";
import { readStudy } from "../study/read";
import type { MeasuredSound, RankedOneShot, ReadSound, Shaping } from "./candidateTasks";
import { copyIsComing, hitName, hitsOf } from "./typical";

/** Sounds at hand: at most a megabyte each. */
const sounds = new LRUCache<string, Promise<Outcome<ReadSound>>>({ max: 128 });
/** What sounds are like, by their file and the voice that they are measured as. */
const measures = new LRUCache<string, HitMeasures>({ max: 4000 });
/** Rankings at hand, by the drum and the files. */
const rankings = new LRUCache<string, Promise<RankedOneShot[]>>({ max: 48 });

function readSound(hash: string): Promise<Outcome<ReadSound>> {
  const known = sounds.get(hash);
  if (known) return known;
  const reading = inspectionPool().run("readSound", { path: originalPath(hash) });
  sounds.set(hash, reading);
  // What failed is tried again the next time.
  void reading.then(
    (outcome) => !outcome.ok && sounds.delete(hash),
    () => sounds.delete(hash),
  );
  return reading.then((outcome) =>
    !outcome.ok && outcome.refusal.code === "not-found" ? originalMissing() : outcome,
  );
}

/** A drum of a track as a target. */
async function targetOf(
  db: Database,
  itemId: string,
  name: string,
): Promise<Outcome<{ shot: OneShot; voice: DrumVoice; key: string }>> {
  const found = await hitsOf(db, itemId);
  if (!found.ok) return found;
  const own = found.value.hits.find((hit) => hitName(hit) === name);
  if (!own) return refuse("not-found", "This track has no such hit.");
  const { samples, rate, voice } = own.hit;
  return success({
    shot: { samples, rate, measures: own.measures },
    voice,
    key: `${found.value.key} ${name}`,
  });
}

/** The reference as loops are held against it: as it counts. */
function referenceSide({ study, analyses, grids, ownGrids, plans }: StudyResults): LoopSide | null {
  const { reference } = study;
  const analysis = reference && analyses.get(reference.file.hash);
  const grid = reference && grids.get(reference.id);
  if (!reference || !analysis || !grid) return null;
  const { key, chords } = itemPlan(plans.get(reference.id)?.value ?? analysis.plan, reference);
  const stems = drumStemsOf(reference.stems, study.elements, analyses);
  const { counted } = itemDrums(analysis, stems, reference.corrections, ownGrids.get(reference.id) ?? null);
  return { durationSeconds: analysis.durationSeconds, grid, hits: counted.hits, key, chords };
}

/** A file that may be a loop, as it was heard; null without a beat. */
function heardSide({ grid: heard, plan, drums, durationSeconds }: TrackAnalysis): LoopSide | null {
  const grid = gridOf(heard, durationSeconds, {}, null);
  const { key, chords } = itemPlan(plan, { corrections: noCorrections });
  return grid && { durationSeconds, grid, hits: asHits(drums), key, chords };
}

/** Fewer strokes than this in a file make no loop, whatever its tempo. */
const fewestStrokes = 4;

async function loopsOf(results: StudyResults): Promise<Pick<CandidatesAnswer, "loops" | "waiting">> {
  const ours = referenceSide(results);
  const waiting: string[] = [];
  const sides: ({ id: string } & LoopSide)[] = [];
  for (const { id, file, job } of results.study.candidates) {
    if (!mayBeLoop(file)) continue;
    const analysis = results.analyses.get(file.hash);
    if (!analysis) {
      if (job.state === "queued" || job.state === "running") waiting.push(id);
      continue;
    }
    const side = heardSide(analysis);
    if (side && (side.hits.length >= fewestStrokes || side.chords.length >= 2)) sides.push({ id, ...side });
  }
  const loops = ours && sides.length > 0 ? await compute("fitLoops", { reference: ours, loops: sides }) : [];
  return { loops, waiting };
}

const noOneShot =
  "This is too long for a one-shot, and no loop of whole bars was found in it. Cut out the part you want to try.";

interface FoundSound extends ReadSound {
  id: string;
  hash: string;
}

/** Sounds with what they are like as drums of a voice; those not known yet are shared out among the threads. */
async function measured(
  sounds: readonly FoundSound[],
  voice: DrumVoice,
): Promise<(FoundSound & MeasuredSound)[]> {
  const keyOf = ({ hash }: FoundSound) => `${hash} ${voice}`;
  const missing = sounds.filter((sound) => !measures.has(keyOf(sound)));
  await Promise.all(
    Array.from({ length: computingThreads }, async (_, thread) => {
      const own = missing.filter((__, i) => i % computingThreads === thread);
      if (own.length === 0) return;
      const found = await compute("measureSounds", {
        voice,
        sounds: own.map(({ samples, sampleRate }) => ({ samples, sampleRate })),
      });
      own.forEach((sound, i) => measures.set(keyOf(sound), found[i]!));
    }),
  );
  return sounds.map((sound) => ({ ...sound, measures: measures.get(keyOf(sound))! }));
}

/** All candidates of a study, held against one drum of a track of it. */
export async function readCandidates(
  db: Database,
  itemId: string,
  name: string,
): Promise<Outcome<CandidatesAnswer>> {
  const row = await findItem(db, itemId);
  const results = row && (await readStudy(db, row.studyId));
  if (!results) return itemIsGone();
  const target = await targetOf(db, itemId, name);
  if (!target.ok) return target;
  const { loops, waiting } = await loopsOf(results);
  const isLoop = new Set(loops.map(({ id }) => id));
  const refused: CandidatesAnswer["refused"] = [];
  const read: FoundSound[] = [];
  for (const { id, file } of results.study.candidates) {
    if (isLoop.has(id) || waiting.includes(id)) continue;
    if (file.durationSeconds > limits.longestOneShotSeconds) {
      refused.push({ id, sentence: noOneShot });
      continue;
    }
    const sound = await readSound(file.hash);
    if (sound.ok) read.push({ id, hash: file.hash, ...sound.value });
    else refused.push({ id, sentence: sentenceOf(sound.refusal) });
  }
  const { shot, voice, key } = target.value;
  const rankingKey = `${key} ${read.map(({ id, hash }) => `${id} ${hash}`).join(" ")}`;
  let ranking = rankings.get(rankingKey);
  if (!ranking) {
    ranking = measured(read, voice).then((sounds) =>
      compute("rankOneShots", { target: shot, voice, sounds }),
    );
    rankings.set(rankingKey, ranking);
    ranking.catch(() => rankings.delete(rankingKey));
  }
  const byId = new Map(read.map((own) => [own.id, own]));
  return success({
    oneShots: (await ranking).map(({ id, closeness, likeness, suggestion, measures }) => {
      const { samples, sampleRate } = byId.get(id)!;
      return {
        id,
        score: closeness.score,
        likeness,
        aspects: closeness.aspects,
        suggestion,
        measures,
        outline: outlineOf(samples, sampleRate),
      };
    }),
    loops,
    refused,
    waiting,
  });
}

/** Of a loop that is heard by itself. */
const heardSeconds = 60;

/** A candidate as it is, as 16-bit WAV. */
export async function exportLoop(db: Database, candidateId: string): Promise<Outcome<SavedFile>> {
  const row = await findItem(db, candidateId);
  const results = row && (await readStudy(db, row.studyId));
  const candidate = results?.study.candidates.find(({ id }) => id === candidateId);
  if (!candidate) return itemIsGone();
  const { hash, sampleRate } = candidate.file;
  try {
    const bytes = await readFrames(listeningPath(hash), 0, Math.ceil(heardSeconds * sampleRate));
    return success({
      name: candidate.fileName,
      type: "audio/wav",
      bytes: writeWav([...unpackFrames(bytes)], sampleRate, "int16"),
    });
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== "ENOENT") throw error;
    await restoreListeningCopy(db, hash);
    return copyIsComing();
  }
}

/** A candidate of a study with its sound. */
async function soundOf(
  results: StudyResults,
  candidateId: string,
): Promise<Outcome<{ candidate: CandidateRecord; sound: ReadSound }>> {
  const candidate = results.study.candidates.find(({ id }) => id === candidateId);
  if (!candidate) return itemIsGone();
  const sound = await readSound(candidate.file.hash);
  return sound.ok ? success({ candidate, sound: sound.value }) : sound;
}

async function studyOf(db: Database, candidateId: string): Promise<StudyResults | null> {
  const row = await findItem(db, candidateId);
  return row && readStudy(db, row.studyId);
}

/** The drum that a candidate is to stand in for. */
export interface Place {
  itemId: string;
  /** As "kick-1". */
  name: string;
}

/** The candidates that would fill what one lacks against a drum. */
export async function readLayers(
  db: Database,
  candidateId: string,
  { itemId, name }: Place,
  shaping: Shaping,
): Promise<Outcome<LayersAnswer>> {
  const results = await studyOf(db, candidateId);
  if (!results) return itemIsGone();
  const first = await soundOf(results, candidateId);
  if (!first.ok) return first;
  const target = await targetOf(db, itemId, name);
  if (!target.ok) return target;
  const { loops } = await loopsOf(results);
  const isLoop = new Set(loops.map(({ id }) => id));
  const found: FoundSound[] = [];
  for (const { id, file } of results.study.candidates) {
    if (id === candidateId || isLoop.has(id) || file.durationSeconds > limits.longestOneShotSeconds) continue;
    const sound = await readSound(file.hash);
    if (sound.ok) found.push({ id, hash: file.hash, ...sound.value });
  }
  const { shot, voice } = target.value;
  const sounds = await measured(found, voice);
  return success({
    layers: await compute("layersFor", { target: shot, voice, first: first.value.sound, shaping, sounds }),
  });
}

/** A candidate tuned, shaped and layered, as loud as the drum it is heard in the place of, as 24-bit WAV. */
export async function exportCandidate(
  db: Database,
  candidateId: string,
  { itemId, name }: Place,
  shaping: Shaping,
  layer: ({ id: string } & LayerSetting) | null,
): Promise<Outcome<SavedFile>> {
  const results = await studyOf(db, candidateId);
  if (!results) return itemIsGone();
  const own = await soundOf(results, candidateId);
  if (!own.ok) return own;
  const over = layer && (await soundOf(results, layer.id));
  if (over && !over.ok) return over;
  const target = await targetOf(db, itemId, name);
  if (!target.ok) return target;
  const { candidate, sound } = own.value;
  const { shot, voice } = target.value;
  const made = await compute("prepareSound", {
    target: shot,
    voice,
    sound,
    shaping,
    layer: over && layer && { ...layer, sound: over.value.sound },
  });
  if (!made) return refuse("no-samples", "Nothing sounds in this file.");
  const parts = [
    withoutExtension(candidate.fileName),
    ...(shaping.semitones !== 0 || shaping.decay !== 1 ? ["adjusted"] : []),
    ...(over ? [`with ${withoutExtension(over.value.candidate.fileName)}`] : []),
  ];
  return success({
    name: `${parts.join(" ")}.wav`,
    type: "audio/wav",
    bytes: writeWav(made.samples, made.sampleRate, "int24"),
  });
}
