/**
 * The typical kick of a track below some 900 Hz: all kicks are laid over one another to a fraction of
 * a millisecond, so that what does not repeat cancels. Taken away again it leaves the bass.
 */
import { median } from "../median";
import type { Fraction, Hertz, Seconds } from "../units";

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
const afterKick: Seconds = 1;
/** Hits are heard a little early or late. */
const furthest: Seconds = 0.008;
const fewestKicks = 6;
const passes = 2;
/** Strokes within this ratio are taken for equal ones: 3 dB. */
const sameStroke = Math.SQRT2;
/** The tail fades from this share of what is known of it. */
export const fadesFrom: Fraction = 0.85;

/** A bass note that begins this near to a kick sounds with it from its beginning on. */
const besideKick: Seconds = 0.05;

/**
 * How long each kick sounds without another kick or a bass note beginning, and whether it begins
 * without one. Bass that always comes after the kick does not cancel, so it must be kept out.
 *
 * @param kicks in order.
 * @param bassStarts in order.
 */
export function aloneUntil(
  kicks: readonly Seconds[],
  bassStarts: readonly Seconds[],
): { until: Seconds; withBass: boolean }[] {
  let next = 0;
  return kicks.map((kick, i) => {
    while (next < bassStarts.length && bassStarts[next]! <= kick - besideKick) next++;
    let later = next;
    while (later < bassStarts.length && bassStarts[later]! < kick + besideKick) later++;
    return { until: min(kicks[i + 1] ?? Infinity, bassStarts[later] ?? Infinity), withBass: later > next };
  });
}

/** Those that begin without a bass note, where they are enough to tell of all. */
export function cleanest<T extends { withBass: boolean }>(all: readonly T[]): readonly T[] {
  const clean = all.filter(({ withBass }) => !withBass);
  return clean.length >= max(fewestKicks, all.length / 5) ? clean : all;
}

/**
 * @param samples of the band.
 * @param kicks in order.
 * @param bassStarts when bass notes are heard to begin, in order.
 * @returns null where there are fewer than six kicks.
 */
export function typicalKick(
  samples: Float32Array,
  rate: Hertz,
  kicks: readonly Seconds[],
  bassStarts: readonly Seconds[],
): TypicalKick | null {
  const before = round(beforeKick * rate);
  const length = before + round(afterKick * rate);
  const reach = round(furthest * rate);
  const places = aloneUntil(kicks, bassStarts)
    .map(({ until, withBass }, i) => {
      const at = round(kicks[i]! * rate) - before;
      return { at, gain: 1, withBass, room: min(length, round(until * rate) - round(0.005 * rate) - at) };
    })
    .filter(({ at }) => at - reach >= 0 && at + length + reach < samples.length);
  if (places.length < fewestKicks) return null;
  const asked = cleanest(places);
  const typical = new Float32Array(length);
  const counts = new Float32Array(length);
  const gather = () => {
    typical.fill(0);
    counts.fill(0);
    for (const { at, gain, room } of asked) {
      // Each is brought to one level; what is far too soft or loud is not this drum.
      if (gain < 0.3 || gain > 3) continue;
      for (let i = 0; i < room; i++) {
        typical[i]! += samples[at + i]! / gain;
        counts[i]!++;
      }
    }
    const fewest = max(fewestKicks / 2, asked.length / 10);
    let known = 0;
    while (known < length && counts[known]! >= fewest) known++;
    const fadeAt = fadesFrom * known;
    for (let i = 0; i < length; i++) {
      const fade = i >= known ? 0 : min(1, (known - i) / max(1, known - fadeAt));
      typical[i] = i >= known ? 0 : (typical[i]! / counts[i]!) * fade;
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
    // A bass that sounds with a kick makes it seem louder or softer than it is struck: small
    // differences are taken for that, so that no bass is taken away with them.
    const usual = median(places.map(({ gain }) => gain));
    for (const place of places) {
      if (place.gain > usual / sameStroke && place.gain < usual * sameStroke) place.gain = usual;
    }
    gather();
  }
  return { rate, samples: typical, places: places.map(({ at, gain }) => ({ at, gain })) };
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
