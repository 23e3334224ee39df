/** Which drums are struck where in each bar, so that bars that differ in one drum alone are told apart. */
import type { DrumHit } from "../drums/hits";
import { backVoices, drumVoices, type DrumVoice } from "../drums/voices";
import { beatAt, type Grid } from "../grid/grid";
import type { Fraction } from "../units";

const { floor, max, min, round, sqrt } = Math;

/** Drums that recreations put in each other's place, and that are heard as one another. */
const kinds: readonly (readonly DrumVoice[])[] = [
  ["kick"],
  backVoices,
  ["hat", "openHat", "cymbal"],
  ["tom", "perc"],
];
const kindOf = drumVoices.map((voice) => kinds.findIndex((own) => own.includes(voice)));
/** Slots of a bar: sixteenths and triplets of four beats both fall on slots. */
const slotsPerBar = 48;
const size = kinds.length * slotsPerBar;
/** A soft hit counts at least this much: which drums play says more than how hard. */
const leastWeight: Fraction = 0.5;
/** Share of a hit that its neighbouring slots get, since feel differs. */
const blur: Fraction = 0.5;
/** Hits less sure than this are left out. */
const leastSure: Fraction = 0.3;
/** A kind with fewer hits a bar than this over a whole track is not played in it. */
const leastPerBar = 0.2;

/** Struck drums of each bar. */
export interface BarDrums {
  count: number;
  /** `count × kinds × slots`, ≥ 0. */
  rows: Float32Array;
  /** Kinds that the track plays at all. */
  plays: readonly boolean[];
}

/**
 * @param firstBar number of the bar of row 0.
 * @param count how many bars.
 */
export function barDrums(hits: readonly DrumHit[], grid: Grid, firstBar: number, count: number): BarDrums {
  const rows = new Float32Array(count * size);
  const sums = new Float64Array(kinds.length);
  for (const { time, voice, velocity, confidence } of hits) {
    if (confidence < leastSure) continue;
    const slot = round((beatAt(grid, time) / grid.beatsPerBar - (firstBar - 1)) * slotsPerBar);
    const bar = floor(slot / slotsPerBar);
    if (bar < 0 || bar >= count) continue;
    const kind = kindOf[drumVoices.indexOf(voice)]!;
    const weight = confidence * (leastWeight + (1 - leastWeight) * velocity);
    sums[kind]! += confidence;
    const place = slot - bar * slotsPerBar;
    const row = bar * size + kind * slotsPerBar;
    for (let by = -1; by <= 1; by++) {
      // What falls just before a bar belongs to the end of the one before, where the same is true of others.
      const at = row + ((place + by + slotsPerBar) % slotsPerBar);
      rows[at] = max(rows[at]!, by === 0 ? weight : blur * weight);
    }
  }
  return { count, rows, plays: Array.from(sums, (sum) => sum >= leastPerBar * count) };
}

/**
 * How alike bars are in their drums, 0–1, and how much that says, 0–1: nothing where neither bar has
 * any. Kinds that one of the tracks does not play at all are left out: a recreation without hats is
 * not another passage. Both `a.count × b.count`.
 */
export function drumSimilarity(a: BarDrums, b: BarDrums): { similarity: Float32Array; says: Float32Array } {
  const similarity = new Float32Array(a.count * b.count);
  const says = new Float32Array(a.count * b.count);
  const shared = kinds.map((_, kind) => a.plays[kind]! && b.plays[kind]!);
  const powers = ({ rows, count }: BarDrums) =>
    Float64Array.from({ length: count * kinds.length }, (_, i) => {
      let power = 0;
      const start = i * slotsPerBar;
      for (let k = start; k < start + slotsPerBar; k++) power += rows[k]! * rows[k]!;
      return power;
    });
  const [ownA, ownB] = [powers(a), powers(b)];
  for (let i = 0; i < a.count; i++) {
    for (let j = 0; j < b.count; j++) {
      let common = 0;
      let whole = 0;
      for (let kind = 0; kind < kinds.length; kind++) {
        if (!shared[kind]) continue;
        const power = ownA[i * kinds.length + kind]! + ownB[j * kinds.length + kind]!;
        if (power === 0) continue;
        const [x, y] = [i * size + kind * slotsPerBar, j * size + kind * slotsPerBar];
        let product = 0;
        for (let k = 0; k < slotsPerBar; k++) product += a.rows[x + k]! * b.rows[y + k]!;
        // The root keeps a kick from drowning among hats.
        const weight = sqrt(power);
        common += (weight * 2 * product) / power;
        whole += weight;
      }
      similarity[i * b.count + j] = whole > 0 ? common / whole : 0;
      says[i * b.count + j] = min(1, whole / fullySaid);
    }
  }
  return { similarity, says };
}

/** Roots of the power of kinds, summed, from which on a bar's drums say all they can. */
const fullySaid = 2;
