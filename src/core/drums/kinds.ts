/**
 * Kinds: strokes of one voice that sound alike are strokes of one drum. A track may have two kicks, or
 * a snare and another on top of it in the chorus. Which kicks and snares are two is learned; of other voices
 * strokes are compared as they sound.
 */
import { drumBandCount, type DrumBands } from "./bands";
import type { DrumHit } from "./hits";
import { soundAt, soundSize, bandOfSound } from "./kindredSounds";
import { drumsModel } from "./drumsModel";
import { tellDrumsApart, type DrumsModel } from "./tellDrumsApart";
import { byVoice, type DrumVoice } from "./voices";

const { round, sqrt } = Math;

/** Of each voice the model that tells its drums apart, or else the bands (of `drumBandCount`) that are its own. */
const toldBy: Record<DrumVoice, DrumsModel | readonly [first: number, end: number]> = {
  kick: drumsModel.kick,
  snare: drumsModel.snare,
  clap: drumsModel.snare,
  rim: drumsModel.snare,
  hat: [26, drumBandCount],
  openHat: [26, drumBandCount],
  tom: [2, 26],
  cymbal: [22, drumBandCount],
  perc: [8, drumBandCount],
};
/** As alike as this (cosine) is the same drum. */
const sameDrum = 0.7;
/** Drums with fewer strokes than this, or this share of their voice, are taken for the drum that is nearest. */
const leastStrokes = 4;
const leastShare = 0.06;

interface Cluster {
  sum: Float64Array;
  members: number[];
}

const likeness = (sum: Float64Array, sounds: Float32Array, at: number): number => {
  let both = 0;
  let power = 0;
  for (let d = 0; d < soundSize; d++) {
    both += sum[d]! * sounds[at + d]!;
    power += sum[d]! ** 2;
  }
  return power > 0 ? both / sqrt(power) : 0;
};

/** Which of some strokes are of one drum: numbers from 0, the drum with most strokes first. */
function clustered(sounds: Float32Array, order: readonly number[]): Int32Array {
  let clusters: Cluster[] = [];
  const nearest = (at: number): [Cluster | null, number] => {
    let best: Cluster | null = null;
    let most = -1;
    for (const cluster of clusters) {
      const like = likeness(cluster.sum, sounds, at);
      if (like > most) [best, most] = [cluster, like];
    }
    return [best, most];
  };
  const put = (cluster: Cluster, i: number) => {
    cluster.members.push(i);
    for (let d = 0; d < soundSize; d++) cluster.sum[d]! += sounds[i * soundSize + d]!;
  };
  for (const i of order) {
    const [best, like] = nearest(i * soundSize);
    if (best && like >= sameDrum) put(best, i);
    else {
      const own: Cluster = { sum: new Float64Array(soundSize), members: [] };
      put(own, i);
      clusters.push(own);
    }
  }
  const least = Math.max(leastStrokes, leastShare * order.length);
  const large = clusters.filter(({ members }) => members.length >= least);
  if (large.length > 0) {
    const strays = clusters.filter((cluster) => !large.includes(cluster)).flatMap(({ members }) => members);
    clusters = large;
    for (const i of strays) nearest(i * soundSize)[0]!.members.push(i);
  } else clusters = [{ sum: new Float64Array(soundSize), members: [...order] }];
  clusters.sort((a, b) => b.members.length - a.members.length);
  const kinds = new Int32Array(order.length);
  clusters.forEach(({ members }, kind) => {
    for (const i of members) kinds[i] = kind;
  });
  return kinds;
}

/** Against its own mean over its own bands, of length 1: how much of everything there is tells no drums apart. */
function centre(sounds: Float32Array, at: number, first: number, end: number): void {
  const isOwn = (d: number) => bandOfSound(d) >= first && bandOfSound(d) < end;
  let sum = 0;
  let count = 0;
  for (let d = 0; d < soundSize; d++) {
    if (!isOwn(d)) continue;
    sum += sounds[at + d]!;
    count++;
  }
  let power = 0;
  for (let d = 0; d < soundSize; d++) {
    sounds[at + d] = isOwn(d) ? sounds[at + d]! - sum / count : 0;
    power += sounds[at + d]! ** 2;
  }
  for (let d = 0; d < soundSize; d++) sounds[at + d]! /= sqrt(power) || 1;
}

/** Kinds of strokes of one voice, by how alike they sound in the bands that are its own. */
function alike(
  hits: readonly DrumHit[],
  bands: DrumBands,
  [first, end]: readonly [first: number, end: number],
): Int32Array {
  const sounds = new Float32Array(hits.length * soundSize);
  hits.forEach(({ time }, k) => {
    const at = k * soundSize;
    soundAt(bands, round(time * bands.framesPerSecond), sounds, at);
    centre(sounds, at, first, end);
  });
  // The surest strokes say what a drum sounds like.
  const order = hits.map((_, k) => k).sort((a, b) => hits[b]!.confidence - hits[a]!.confidence);
  return clustered(sounds, order);
}

/** Says of every hit which drum of its voice it is of: 0 the one with most strokes. */
export function withKinds(hits: readonly DrumHit[], bands: DrumBands): DrumHit[] {
  const numbered = hits.map((hit, i) => ({ hit, i }));
  const result = [...hits];
  for (const [voice, own] of byVoice(numbered, ({ hit }) => hit.voice)) {
    const strokes = own.map(({ hit }) => hit);
    const by = toldBy[voice];
    const kinds =
      "axes" in by
        ? tellDrumsApart(
            strokes.map(({ time }) => time),
            bands,
            by,
          )
        : alike(strokes, bands, by);
    own.forEach(({ hit, i }, k) => (result[i] = { ...hit, kind: kinds[k]! }));
  }
  return result;
}
