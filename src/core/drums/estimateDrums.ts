/**
 * Drum hits of a track: a fitted model hears each voice in forty bands around each frame and knows
 * the track by its usual levels (after Southall, Stables & Hockman 2017, "Automatic drum
 * transcription for polyphonic recordings using soft attention mechanisms and convolutional neural
 * networks", and the review Wu et al. 2018, in a small form of our own).
 */
import type { Seconds } from "../units";
import type { DrumBands } from "./bands";
import { asColumns, type DrumEstimate, type DrumHit } from "./hits";
import { drumActivations } from "./network";
import { topsOf } from "./picking";
import { drumVoices } from "./voices";

/** Bass notes less probable than this are not kept. */
const leastBass = 0.5;

/** @param onProgress called with 0–1 now and then. */
export function estimateDrums(bands: DrumBands, onProgress?: (done: number) => void): DrumEstimate {
  const hits: DrumHit[] = [];
  const bassNotes: Seconds[] = [];
  for (const { time, curve, chance, velocity } of topsOf(
    drumActivations(bands, onProgress),
    bands.framesPerSecond,
  )) {
    const voice = drumVoices[curve];
    if (voice) hits.push({ time, voice, velocity, confidence: chance });
    else if (chance >= leastBass) bassNotes.push(time);
  }
  return asColumns(hits, bassNotes);
}
