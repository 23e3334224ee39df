/** Tasks of the computing threads: one-shots held against a drum, and made ready to be heard in its place. */
import { loadFft } from "@/core/dsp/fft";
import type { DrumVoice } from "@/core/drums/voices";
import {
  adjusted,
  bestLayers,
  gainToMatch,
  layered,
  levelled,
  loopFit,
  measureHit,
  oneShot,
  rankCandidates,
  type LayerSetting,
  type LoopFit,
  type LoopSide,
  type OneShot,
  type Ranked,
  type RankedLayer,
} from "@/core/hits";
import type { HitMeasures } from "@/core/hits/hitMeasures";

/** A sound as it was read from its file. */
export interface ReadSound {
  samples: [Float32Array, Float32Array];
  sampleRate: number;
}

/** How a sound is tuned and shaped. */
export interface Shaping {
  semitones: number;
  decay: number;
}

/** As many as a page shows at first, and some more. */
const mostSuggested = 12;

export interface RankedOneShot extends Ranked {
  id: string;
  measures: HitMeasures;
}

/** A sound with what it is like as a drum of some voice. */
export interface MeasuredSound extends ReadSound {
  id: string;
  measures: HitMeasures;
}

const shotsOf = (sounds: readonly MeasuredSound[]) =>
  sounds.map(({ id, samples, sampleRate, measures }) => ({
    id,
    shot: { samples, rate: sampleRate, measures },
  }));

/** What each sound is like as a drum of a voice: the longest part of ranking it. */
export async function measureSounds({
  voice,
  sounds,
}: {
  voice: DrumVoice;
  sounds: readonly ReadSound[];
}): Promise<HitMeasures[]> {
  await loadFft();
  return sounds.map(({ samples, sampleRate }) => measureHit(samples, sampleRate, voice));
}

/** Tuning moves the beginning: it is found anew. */
function shaped({ samples, sampleRate }: ReadSound, voice: DrumVoice, shaping: Shaping): OneShot | null {
  const shot = oneShot(samples, sampleRate, voice);
  const isAsItIs = shaping.semitones === 0 && shaping.decay === 1;
  return shot && (isAsItIs ? shot : oneShot(adjusted(shot, shaping), sampleRate, voice));
}

/** Best first; for the first of them, what would bring them nearer. */
export async function rankOneShots({
  target,
  voice,
  sounds,
}: {
  target: OneShot;
  voice: DrumVoice;
  sounds: readonly MeasuredSound[];
}): Promise<RankedOneShot[]> {
  await loadFft();
  return rankCandidates(target, voice, shotsOf(sounds), mostSuggested).map(({ shot, ...own }) => ({
    ...own,
    measures: shot.measures,
  }));
}

/** What would make loops fit a track, nearest first; what is no loop is left out. */
export function fitLoops({
  reference,
  loops,
}: {
  reference: LoopSide;
  loops: readonly ({ id: string } & LoopSide)[];
}): ({ id: string } & LoopFit)[] {
  const best = ({ drums, chords }: LoopFit) => Math.max(drums?.score ?? 0, chords?.score ?? 0);
  return loops
    .flatMap(({ id, ...loop }) => {
      const fit = loopFit(loop, reference);
      return fit ? [{ id, ...fit }] : [];
    })
    .sort((a, b) => best(b) - best(a));
}

/** The sounds that would fill what a sound lacks against a drum, best first. */
export async function layersFor({
  target,
  voice,
  first,
  shaping,
  sounds,
}: {
  target: OneShot;
  voice: DrumVoice;
  first: ReadSound;
  shaping: Shaping;
  sounds: readonly MeasuredSound[];
}): Promise<({ id: string } & RankedLayer)[]> {
  await loadFft();
  const base = shaped(first, voice, shaping);
  if (!base) return [];
  return bestLayers(target, voice, base, shotsOf(sounds)).map(({ shot: _, ...own }) => own);
}

/** A one-shot tuned and shaped, with another laid over it on request, as loud as the drum it stands in for. */
export async function prepareSound({
  target,
  voice,
  sound,
  shaping,
  layer,
}: {
  target: OneShot;
  voice: DrumVoice;
  sound: ReadSound;
  shaping: Shaping;
  layer: ({ sound: ReadSound } & LayerSetting) | null;
}): Promise<ReadSound | null> {
  await loadFft();
  const base = shaped(sound, voice, shaping);
  const over = layer && oneShot(layer.sound.samples, layer.sound.sampleRate, voice);
  if (!base) return null;
  const [samples, sampleRate] =
    over && layer
      ? [layered(levelled(target, base), levelled(target, over), target.rate, layer), target.rate]
      : [[base.samples[0].slice(), base.samples[1].slice()] as [Float32Array, Float32Array], base.rate];
  const gain = gainToMatch(target, samples, sampleRate);
  for (const channel of samples) for (let i = 0; i < channel.length; i++) channel[i]! *= gain;
  return { samples, sampleRate };
}
