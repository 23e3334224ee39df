/** Takes out of a comparison what is not played but measured: levels, a shift of the grid, what is covered. */
import { firstAfter } from "../firstAfter";
import { median } from "../median";
import type { Decibels, Fraction, Seconds } from "../units";
import type { ComparedHit } from "./compareDrums";
import { velocityLevel } from "./groove";
import { kindred, clearVoices, leastForMean, trustedAt, type Placed } from "./pairing";
import { stepInBar, type BarShape } from "./patterns";
import { byVoice, drumVoices, voiceIndex, type DrumVoice } from "./voices";

const { abs, max, sqrt } = Math;

/** Beside a hit that agrees, another of its voice within this is a flam or an echo of hearing. */
const doubled: Seconds = 0.05;

/** Takes out of the differences in force how much harder the version strikes each voice in general. */
export function normaliseVelocityDifferences(hits: readonly ComparedHit[]): void {
  for (const [, all] of byVoice(hits, voiceOfHit)) {
    const own = all.filter((hit) => hit.velocityDifference !== null);
    if (own.length === 0) continue;
    const mean = own.reduce((sum, { velocityDifference }) => sum + velocityDifference!, 0) / own.length;
    for (const hit of own) hit.velocityDifference! -= mean;
  }
}

/** Voices whose shifts lie within this of one another move together. */
const together: Seconds = 0.003;
/** How much more than its number of hits the kick says of where the grid lies: others are heard against it. */
const kickCounts = 1.5;

/**
 * Takes out of all lateness what most of the drums have in common: that is where the grid lies, not
 * how drums are played. One voice that is late pulls the grid along, so that all others seem early.
 *
 * @returns what was taken out; 0 where too few voices play to tell.
 */
export function removeCommonShift(hits: readonly ComparedHit[]): Seconds {
  const matched = hits.filter((hit) => hit.timingDeviation !== null);
  const shifts = byVoice(matched, voiceOfHit).flatMap(([voice, own]) => {
    const late = own.map((hit) => hit.timingDeviation!);
    if (late.length < max(leastForMean, 0.05 * matched.length)) return [];
    // The root keeps a kick from drowning among hats.
    return [{ shift: median(late), weight: sqrt(late.length) * (voice === "kick" ? kickCounts : 1) }];
  });
  if (shifts.length < 2) return 0;
  let common = 0;
  let most = 0;
  for (const { shift: centre } of shifts) {
    const near = shifts.filter(({ shift }) => abs(shift - centre) <= together);
    const weight = near.reduce((sum, own) => sum + own.weight, 0);
    if (weight <= most) continue;
    most = weight;
    common = near.reduce((sum, own) => sum + own.weight * own.shift, 0) / weight;
  }
  for (const hit of matched) hit.timingDeviation! -= common;
  return common;
}

/** Says of a voice whether a side hears it surely enough on average for what lacks to be missing; a voice without hits is. */
function trustedVoices(side: readonly Placed[]): (voice: DrumVoice) => boolean {
  const counts = new Uint32Array(drumVoices.length);
  const sums = new Float64Array(drumVoices.length);
  for (const { hit } of side) {
    counts[voiceIndex[hit.voice]]!++;
    sums[voiceIndex[hit.voice]]! += hit.confidence;
  }
  return (voice) => {
    const i = voiceIndex[voice];
    return counts[i] === 0 || sums[i]! / counts[i]! >= trustedAt;
  };
}

const voiceOfHit = ({ voice }: ComparedHit) => voice;

const meanLevel = (hits: readonly Placed[]): Decibels =>
  hits.reduce((sum, { hit }) => sum + velocityLevel(hit.velocity), 0) / hits.length;

/** Of a voice that can be covered, a step that is there in more or fewer bars than this is rather covered now and then than played so. */
const coveredShares = { from: 0.15, to: 0.85, leastBars: 4 } as const;

/** Share of bars in which a step that can be covered is heard faintly on the other side, for it to be rather played there. */
const hintedShare = 0.2;

/** What each side hears too faintly to count, over so many bars. */
export interface Hints {
  reference: readonly Placed[];
  version: readonly Placed[];
  bars: number;
}

/** Says of a voice's step whether a side hears it faintly in so many bars that it is rather played there. */
function hinted(side: readonly Placed[], bars: number, shape: BarShape) {
  const length = shape.beatsPerBar * shape.stepsPerBeat;
  const counts = new Uint32Array(drumVoices.length * length);
  for (const own of side) counts[voiceIndex[own.hit.voice] * length + stepInBar(own, shape)]!++;
  return (voice: DrumVoice, step: number): boolean =>
    counts[voiceIndex[voice] * length + step]! >= hintedShare * bars;
}

/** A stroke of a voice that can be covered, this much softer than those that agree, is easily lost in another mix unless it is heard clearly. */
const easilyLost: Decibels = 6;
const heardClearly: Fraction = 0.92;

/**
 * Marks as unsure what lacks where the other side hardly hears the voice or hears its step now and
 * then or faintly, what is soft or sounds with another voice of its kind, and doubles of hits that agree.
 */
export function filterByConfidence(
  hits: readonly ComparedHit[],
  reference: readonly Placed[],
  version: readonly Placed[],
  shape: BarShape,
  hints: Hints,
): void {
  const isHinted = {
    missing: hinted(hints.version, hints.bars, shape),
    extra: hinted(hints.reference, hints.bars, shape),
  };
  const isTrusted = { missing: trustedVoices(version), extra: trustedVoices(reference) };
  for (const [voice, own] of byVoice(hits, voiceOfHit)) {
    const trust = { missing: isTrusted.missing(voice), extra: isTrusted.extra(voice) };
    // How often each step agrees, lacks and is too much: counted once, since tracks have many thousand hits.
    const counts = {
      agrees: new Map<number, number>(),
      missing: new Map<number, number>(),
      extra: new Map<number, number>(),
    };
    const stepOf = (hit: ComparedHit) => stepInBar((hit.reference ?? hit.version)!, shape);
    for (const hit of own) {
      const of = counts[hit.kind];
      of.set(stepOf(hit), (of.get(stepOf(hit)) ?? 0) + 1);
    }
    const isCovered = (hit: ComparedHit) => {
      if (clearVoices.includes(voice)) return false;
      if (hit.kind !== "agrees" && isHinted[hit.kind](voice, stepOf(hit))) return true;
      const there = counts.agrees.get(stepOf(hit)) ?? 0;
      const all = there + counts[hit.kind].get(stepOf(hit))!;
      const share = there / all;
      return all >= coveredShares.leastBars && share > coveredShares.from && share < coveredShares.to;
    };
    const agreed = own.filter(({ kind }) => kind === "agrees");
    const levels = {
      missing: meanLevel(agreed.map(({ reference: hit }) => hit!)),
      extra: meanLevel(agreed.map(({ version: hit }) => hit!)),
    };
    const isSoft = ({ kind, reference: ours, version: theirs }: ComparedHit) => {
      if (kind === "agrees" || clearVoices.includes(voice)) return false;
      const { velocity, confidence } = (ours ?? theirs)!.hit;
      return confidence < heardClearly && velocityLevel(velocity) < levels[kind] - easilyLost;
    };
    const times = {
      missing: agreed.map(({ reference: hit }) => hit!.hit.time).sort((a, b) => a - b),
      extra: agreed.map(({ version: hit }) => hit!.hit.time).sort((a, b) => a - b),
    };
    for (const hit of own) {
      if (hit.kind === "agrees") continue;
      const { time } = (hit.reference ?? hit.version)!.hit;
      const next = firstAfter(times[hit.kind], time - doubled);
      const isDouble = next !== null && next <= time + doubled;
      if (isDouble || !trust[hit.kind] || isCovered(hit) || isSoft(hit) || hit.masked) hit.reliable = false;
    }
  }
}

/** Nearer than this two strokes sound as one. */
const asOne: Seconds = 0.02;

/** Marks hits that sound together with another voice of their kind on either side, as a closed hat under an open one. */
export function markMasked(hits: readonly ComparedHit[]): void {
  for (const side of ["reference", "version"] as const) {
    const times: number[][] = drumVoices.map(() => []);
    for (const hit of hits) {
      const own = hit[side]?.hit;
      if (own) times[voiceIndex[own.voice]]!.push(own.time);
    }
    for (const own of times) own.sort((a, b) => a - b);
    for (const hit of hits) {
      const own = hit[side]?.hit;
      if (!own || hit.masked) continue;
      for (const other of kindred[own.voice]) {
        const next = firstAfter(times[voiceIndex[other]]!, own.time - asOne);
        if (next === null || next > own.time + asOne) continue;
        hit.masked = true;
        break;
      }
    }
  }
}
