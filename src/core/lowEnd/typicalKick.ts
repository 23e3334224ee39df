/**
 * The typical kick of a track below some 900 Hz: all kicks are laid over one another to a fraction of
 * a millisecond, so that what does not repeat cancels. Taken away again it leaves the bass.
 */
import type { Hertz, Seconds } from "../units";

const { max, min, round } = Math;

export interface TypicalKick {
  rate: Hertz;
  /** From `beforeKick` ahead of the hit on. */
  samples: Float32Array;
  /** For each kick where it really begins, in samples of the band, and how loud it is beside the typical one. */
  places: { at: number; gain: number }[];
}

/** How much of a kick is kept: ahead of the hit and after it. */
export const beforeKick: Seconds = 0.01;
const afterKick: Seconds = 0.6;
/** Hits are heard a little early or late. */
const furthest: Seconds = 0.012;
const fewestKicks = 6;
const passes = 2;
/** The tail fades, as other sounds come in. */
const fadeFrom: Seconds = 0.25;

/**
 * @param samples of the band.
 * @param kicks in order.
 * @returns null where there are fewer than six.
 */
export function typicalKick(
  samples: Float32Array,
  rate: Hertz,
  kicks: readonly Seconds[],
): TypicalKick | null {
  const before = round(beforeKick * rate);
  const length = before + round(afterKick * rate);
  const reach = round(furthest * rate);
  const places = kicks
    .map((time) => ({ at: round(time * rate) - before, gain: 1 }))
    .filter(({ at }) => at - reach >= 0 && at + length + reach < samples.length);
  if (places.length < fewestKicks) return null;
  const rooms = places.map(({ at }, i) => min(length, (places[i + 1]?.at ?? Infinity) - at));
  const typical = new Float32Array(length);
  const counts = new Float32Array(length);
  const gather = () => {
    typical.fill(0);
    counts.fill(0);
    places.forEach(({ at, gain }, k) => {
      // Each is brought to one level; what is far too soft or loud is not this drum.
      if (gain < 0.3 || gain > 3) return;
      for (let i = 0; i < rooms[k]!; i++) {
        typical[i]! += samples[at + i]! / gain;
        counts[i]!++;
      }
    });
    for (let i = 0; i < length; i++) {
      const fade = min(1, max(0, 1 - (i - before - fadeFrom * rate) / ((afterKick - fadeFrom) * rate)));
      typical[i] = counts[i]! >= fewestKicks / 2 ? (typical[i]! / counts[i]!) * fade : 0;
    }
  };
  gather();
  const compared = min(length, before + round(0.12 * rate));
  for (let pass = 0; pass < passes; pass++) {
    let own = 0;
    for (let i = 0; i < compared; i++) own += typical[i]! * typical[i]!;
    if (own <= 0) return null;
    for (const place of places) {
      let best = -Infinity;
      let lag = 0;
      for (let d = -reach; d <= reach; d++) {
        let sum = 0;
        for (let i = 0; i < compared; i++) sum += samples[place.at + d + i]! * typical[i]!;
        if (sum > best) [best, lag] = [sum, d];
      }
      place.at = max(0, min(samples.length - length - 1, place.at + lag));
      place.gain = max(0, best / own);
    }
    gather();
  }
  return { rate, samples: typical, places };
}

/** The band without its kicks. */
export function withoutKick(samples: Float32Array, { samples: typical, places }: TypicalKick): Float32Array {
  const rest = Float32Array.from(samples);
  places.forEach(({ at, gain }, k) => {
    const room = min(typical.length, (places[k + 1]?.at ?? Infinity) - at);
    for (let i = 0; i < room; i++) rest[at + i]! -= gain * typical[i]!;
  });
  return rest;
}
