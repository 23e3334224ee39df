/**
 * Drum hits of a track: a small fitted network of our own hears each voice in forty bands around each
 * frame and knows the track by its usual levels; then repetition is heard. For what others have tried
 * see Wu et al. 2018, "A Review of Automatic Drum Transcription".
 */
import type { Grid } from "../grid/grid";
import type { Seconds } from "../units";
import type { DrumBands } from "./bands";
import { backBeatsUnderKicks, type LayeredStroke } from "./backBeats";
import { repetitionProbability, repetitionFeatures } from "./repetitionPrior";
import { repetitionModel } from "./repetitionModel";
import { asColumns, type DrumEstimate, type DrumHit } from "./hits";
import { drumActivations, type DrumActivations } from "./network";
import { withoutBassNotes } from "./bassNotes";
import { kicksApart } from "./kickTiming";
import { withKinds } from "./kinds";
import { peaksOf, type Peak } from "./peakPicking";
import { withoutStrays } from "./strays";
import { estimateVelocities } from "./velocityEstimation";
import { drumVoices } from "./voices";

/** Bass notes less probable than this are not kept. */
const leastBass = 0.5;
/** Tops less probable than this after all are not worth keeping. */
const leastKept = 0.05;
/** What the model says of a track, before anything is known of its bars. */
export interface HeardDrums {
  bands: DrumBands;
  activations: DrumActivations;
  tops: Peak[];
}

/** @param onProgress called with 0–1 now and then. */
export function hearDrums(bands: DrumBands, onProgress?: (done: number) => void): HeardDrums {
  const { framesPerSecond } = bands;
  const activations = drumActivations(bands, onProgress);
  return { bands, activations, tops: peaksOf(activations, framesPerSecond) };
}

/** What is struck, with the velocities that the network gives it. */
interface Sounding {
  hits: DrumHit[];
  /** The same before voices that are hardly there were taken out: they may tell the metre all the same. */
  withStrays: DrumHit[];
  bassNotes: Seconds[];
}

/** @param grid by which bars are held against one another; null where there is none. */
export function soundingHits({ bands, activations, tops }: HeardDrums, grid: Grid | null): Sounding {
  const features = repetitionFeatures(tops, activations, bands, grid);
  const hits: DrumHit[] = [];
  const bassNotes: Seconds[] = [];
  tops.forEach(({ time, curve, velocity }, i) => {
    const confidence = repetitionProbability(repetitionModel, curve, features[i]!);
    const voice = drumVoices[curve];
    if (voice && confidence >= leastKept) hits.push({ time, voice, velocity, confidence });
    if (!voice && confidence >= leastBass) bassNotes.push(time);
  });
  const layered = grid ? backBeatsUnderKicks(tops, activations, bands.framesPerSecond, grid) : [];
  const struck = grid ? withoutBassNotes(withLayered(hits, layered), grid, bands) : hits;
  const withStrays = kicksApart(struck, bands);
  return { hits: withoutStrays(withStrays), withStrays, bassNotes };
}

/** Strokes at the same time are one. */
const atOnce: Seconds = 0.03;

/** Hits with those that lie under kicks: the same ones are more probable, others are added. */
function withLayered(hits: readonly DrumHit[], layered: readonly LayeredStroke[]): DrumHit[] {
  if (layered.length === 0) return [...hits];
  const left = new Set(layered.filter(({ confidence }) => confidence >= leastKept));
  const raised = hits.map((hit) => {
    for (const stroke of left) {
      if (stroke.voice !== hit.voice || Math.abs(stroke.time - hit.time) > atOnce) continue;
      left.delete(stroke);
      return { ...hit, confidence: Math.max(hit.confidence, stroke.confidence) };
    }
    return hit;
  });
  return [...raised, ...left].sort((a, b) => a.time - b.time);
}

/** The kinds of hits that sound, and how hard each is struck. */
export const drumsOf = (
  { hits, bassNotes }: Pick<Sounding, "hits" | "bassNotes">,
  { bands }: Pick<HeardDrums, "bands">,
  grid: Grid | null,
): DrumEstimate => asColumns(estimateVelocities(withKinds(hits, bands), bands, grid), bassNotes);

/** @param grid by which bars are held against one another; null where there is none. */
export const estimateDrums = (heard: HeardDrums, grid: Grid | null): DrumEstimate =>
  drumsOf(soundingHits(heard, grid), heard, grid);
