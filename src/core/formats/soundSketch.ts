/**
 * What a file sounds like, in short: enough to tell a part of a mix from a mix, and which of several
 * is mastered louder. Common practice of people who sort folders, no source.
 */
import type { Hertz, Seconds } from "../units";

const { abs, ceil, exp, floor, min, PI, round } = Math;

/** Upper edges of the bands below the last one: bass, low mids, mids. */
const edges: readonly Hertz[] = [150, 600, 2400];
export const sketchBands = edges.length + 1;
const frameSeconds: Seconds = 0.1;

export interface SoundSketch {
  durationSeconds: Seconds;
  /** Mean square of each band in each tenth of a second: frames × `sketchBands`. */
  powers: Float32Array;
}

/** Takes the sketch of samples that come in pieces. @param frames how many samples will come in all. */
export function soundSketcher(frames: number, rate: Hertz) {
  const length = round(frameSeconds * rate);
  const powers = new Float32Array(ceil(frames / length) * sketchBands);
  const pole = edges.map((edge) => 1 - exp((-2 * PI * edge) / rate));
  const once = new Float64Array(edges.length);
  const twice = new Float64Array(edges.length);
  let at = 0;
  return {
    /** @param channels of equal length. */
    add(channels: readonly Float32Array[]): void {
      const size = channels[0]?.length ?? 0;
      for (let i = 0; i < size && at < frames; i++, at++) {
        let x = 0;
        for (const channel of channels) x += channel[i]!;
        x /= channels.length;
        const row = ((at / length) | 0) * sketchBands;
        let below = 0;
        for (let e = 0; e < edges.length; e++) {
          once[e]! += pole[e]! * (x - once[e]!);
          twice[e]! += pole[e]! * (once[e]! - twice[e]!);
          powers[row + e]! += (twice[e]! - below) ** 2 / length;
          below = twice[e]!;
        }
        powers[row + edges.length]! += (x - below) ** 2 / length;
      }
    },
    finish: (): SoundSketch => ({ durationSeconds: frames / rate, powers }),
  };
}

/** Cells this much below the strongest of a file hold nothing of it. */
const silent = 1e-5;
/** Files of one session end together. */
const sameLength: Seconds = 0.2;
/** Where a part is, the mix of it has at least this much of its power: equalising a whole mix changes it by less. */
const leastShare = 0.5;
/** Share of the sounding cells of a part for which that holds. */
const mostlyInside = 0.97;
/** Where the mix is this much stronger beside the part than where the part is all there is, it holds something else. */
const elseRatio = 6;
/** Share of the sounding cells of a mix that hold something else than a part of it. */
const leastElse = 0.3;
/** In so many of a part's sounding cells it is all there is, or nearly: their ratio tells its gain in the mix. */
const alone = 0.1;

/** Whether one file is a part of the mix that another one holds: never louder than it, and mostly not all of it. */
export function isPartOf(part: SoundSketch, mix: SoundSketch): boolean {
  if (abs(part.durationSeconds - mix.durationSeconds) > sameLength) return false;
  const cells = min(part.powers.length, mix.powers.length);
  const floorOf = ({ powers }: SoundSketch) => silent * powers.reduce((most, x) => (x > most ? x : most), 0);
  const [ownFloor, mixFloor] = [floorOf(part), floorOf(mix)];
  if (ownFloor === 0) return false;
  const ratios: number[] = [];
  let inside = 0;
  for (let i = 0; i < cells; i++) {
    const own = part.powers[i]!;
    if (own <= ownFloor) continue;
    ratios.push(mix.powers[i]! / own);
    if (mix.powers[i]! >= leastShare * own) inside++;
  }
  if (inside < mostlyInside * ratios.length) return false;
  const ratio = ratios.sort((a, b) => a - b)[floor(alone * ratios.length)]!;
  let sounding = 0;
  let other = 0;
  for (let i = 0; i < cells; i++) {
    if (mix.powers[i]! <= mixFloor) continue;
    sounding++;
    if (mix.powers[i]! > elseRatio * ratio * part.powers[i]!) other++;
  }
  return other >= leastElse * sounding;
}

/** Mean power of the whole file. */
export const sketchPower = ({ powers }: SoundSketch): number =>
  powers.reduce((sum, x) => sum + x, 0) / (powers.length / sketchBands);
