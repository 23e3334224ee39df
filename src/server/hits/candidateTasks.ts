/** Tasks of the computing threads: one-shots held against a drum, and made ready to be heard in its place. */
import { loadFft } from "@/core/dsp/fft";
import type { DrumVoice } from "@/core/drums/voices";
import {
  adjusted,
  gainToMatch,
  oneShot,
  rankCandidates,
  trimmed,
  type OneShot,
  type Ranked,
} from "@/core/hits";
import type { HitMeasures } from "@/core/hits/hitMeasures";

/** A sound as it was read from its file. */
export interface ReadSound {
  samples: [Float32Array, Float32Array];
  sampleRate: number;
}

export interface RankedOneShot extends Ranked {
  id: string;
  measures: HitMeasures;
}

/** Best first; sounds without any sound are left out. */
export async function rankOneShots({
  target,
  voice,
  sounds,
}: {
  target: OneShot;
  voice: DrumVoice;
  sounds: readonly ({ id: string } & ReadSound)[];
}): Promise<RankedOneShot[]> {
  await loadFft();
  const candidates = sounds.flatMap(({ id, samples, sampleRate }) => {
    const shot = oneShot(samples, sampleRate, voice);
    return shot ? [{ id, shot }] : [];
  });
  return rankCandidates(target, voice, candidates, candidates.length).map(({ shot, ...own }) => ({
    ...own,
    measures: shot.measures,
  }));
}

/** A one-shot tuned and shaped, as loud as the drum that it stands in for. */
export async function prepareSound({
  target,
  voice,
  sound,
  semitones,
  decay,
}: {
  target: OneShot;
  voice: DrumVoice;
  sound: ReadSound;
  semitones: number;
  decay: number;
}): Promise<ReadSound | null> {
  await loadFft();
  const { sampleRate } = sound;
  const shot = oneShot(sound.samples, sampleRate, voice);
  if (!shot) return null;
  // Tuning moves the beginning: it is found anew.
  const samples = trimmed(adjusted(shot, { semitones, decay }), sampleRate);
  if (!samples) return null;
  const gain = gainToMatch(target, samples, sampleRate);
  for (const channel of samples) for (let i = 0; i < channel.length; i++) channel[i]! *= gain;
  return { samples, sampleRate };
}
