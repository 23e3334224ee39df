import type { Decibels, Hertz } from "../units";
import { bands } from "./bands";

/** Frequencies between which a recording carries anything. */
export interface BandLimits {
  low: Hertz;
  high: Hertz;
}

/** What lies so far below the mean of the middle is not carried. From memory of how coders and tape sound, no source. */
const carried: Decibels = -36;
const middle = { from: 200, to: 4000 } as const;

/**
 * The lowest and the highest third octave that is less than 36 dB below the mean of those from 200
 * to 4000 Hz; null in silence.
 *
 * @param powers per twelfth-octave band.
 */
export function bandLimits(powers: ArrayLike<number>): BandLimits | null {
  const thirds = bands(12).map(({ centre }, b) => {
    let sum = 0;
    for (let k = Math.max(0, b - 2); k <= Math.min(powers.length - 1, b + 1); k++) sum += powers[k]!;
    return { hz: centre, level: 10 * Math.log10(sum + 1e-20) };
  });
  const inside = thirds.filter(({ hz }) => hz >= middle.from && hz <= middle.to);
  const mean = inside.reduce((sum, { level }) => sum + level, 0) / inside.length;
  if (mean < -120) return null;
  const heard = thirds.filter(({ level }) => level > mean + carried);
  return heard.length > 0 ? { low: heard[0]!.hz, high: heard.at(-1)!.hz } : null;
}
