/**
 * Which strokes of a track sound alike: those of one drum, whatever it is called. What the model hears
 * in one of them it ought to hear in the others.
 */
import type { Hertz } from "../units";
import { drumBandCount, type DrumBands } from "./bands";

const { max, min, round, sqrt } = Math;

/** Neighbouring bands that are taken together. */
const pooled = 2;
const bandsOfSound = drumBandCount / pooled;
/** Frames before a stroke from which it rises, and at which it is looked at afterwards. */
const before = [-5, -4, -3] as const;
const attack = [0, 1, 2, 3] as const;
const decay = [8, 9, 10] as const;
const decayBands = bandsOfSound / 2;
export const soundSize = bandsOfSound + decayBands;

/** The lowest band that a number of a sound is of. */
export const bandOfSound = (d: number): number =>
  d < bandsOfSound ? d * pooled : (d - bandsOfSound) * 2 * pooled;

/** How a stroke sounds: how far the bands rise, and what is left of it a tenth of a second later; of length 1. */
export function soundAt({ levels }: DrumBands, frame: number, to: Float32Array, offset: number): void {
  const frames = levels.length / drumBandCount;
  const at = (by: number, band: number) =>
    levels[min(frames - 1, max(0, frame + by)) * drumBandCount + band]!;
  let power = 0;
  for (let b = 0; b < bandsOfSound; b++) {
    let rise = 0;
    let left = 0;
    for (let band = b * pooled; band < (b + 1) * pooled; band++) {
      let floor = 0;
      for (const by of before) floor += at(by, band) / before.length;
      let top = 0;
      for (const by of attack) top = max(top, at(by, band));
      let later = 0;
      for (const by of decay) later += at(by, band) / decay.length;
      rise += max(0, top - floor);
      left += max(0, later - floor);
    }
    to[offset + b] = rise;
    to[offset + bandsOfSound + (b >> 1)] = (b & 1 ? to[offset + bandsOfSound + (b >> 1)]! : 0) + left / 2;
  }
  for (let i = 0; i < soundSize; i++) power += to[offset + i]! ** 2;
  const scale = power > 0 ? 1 / sqrt(power) : 0;
  for (let i = 0; i < soundSize; i++) to[offset + i]! *= scale;
}

/** Strokes that are alike at most so many are looked for. */
export const kindredCount = 10;
/** Less alike than this (cosine) is another sound. */
const leastAlike = 0.8;

/**
 * For every stroke the others that sound most like it.
 *
 * @param times of strokes, rising, in seconds.
 * @returns for each `kindredCount` places in `times`, −1 where there are no more, and how alike (0–1).
 */
export function kindredStrokes(
  times: readonly number[],
  bands: DrumBands,
): { places: Int32Array; likeness: Float32Array } {
  const rate: Hertz = bands.framesPerSecond;
  const count = times.length;
  const sounds = new Float32Array(count * soundSize);
  times.forEach((time, i) => soundAt(bands, round(time * rate), sounds, i * soundSize));
  const places = new Int32Array(count * kindredCount).fill(-1);
  const likeness = new Float32Array(count * kindredCount);
  const put = (i: number, other: number, like: number) => {
    const row = i * kindredCount;
    let k = kindredCount - 1;
    if (like <= likeness[row + k]!) return;
    for (; k > 0 && likeness[row + k - 1]! < like; k--) {
      likeness[row + k] = likeness[row + k - 1]!;
      places[row + k] = places[row + k - 1]!;
    }
    likeness[row + k] = like;
    places[row + k] = other;
  };
  for (let i = 0; i < count; i++) {
    const a = i * soundSize;
    for (let other = i + 1; other < count; other++) {
      const b = other * soundSize;
      let like = 0;
      for (let d = 0; d < soundSize; d++) like += sounds[a + d]! * sounds[b + d]!;
      if (like < leastAlike) continue;
      put(i, other, like);
      put(other, i, like);
    }
  }
  return { places, likeness };
}
