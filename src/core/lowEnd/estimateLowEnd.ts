import type { Hertz, Seconds } from "../units";
import { bassLine } from "./bassLine";
import { lowBand, toLowRate, type LowEnd } from "./lowBand";
import type { BassNote } from "./notes";
import { typicalKick, withoutKick } from "./typicalKick";

/**
 * Tells kicks from the rest below some 250 Hz and reads the bass line from what is left.
 *
 * @param channels left and right, same length.
 * @param bassStarts when bass notes are heard to begin, in order.
 * @param kicks in order.
 */
export function estimateLowEnd(
  channels: readonly [Float32Array, Float32Array],
  sampleRate: Hertz,
  bassStarts: readonly Seconds[],
  kicks: readonly Seconds[],
): { lowEnd: LowEnd; bass: BassNote[] } {
  const band = lowBand(channels, sampleRate);
  const { rate, mid, side, full, fullRate } = band;
  const typical = typicalKick(full, fullRate, kicks, bassStarts);
  const restInFull = typical ? withoutKick(full, typical) : full;
  const rest = typical ? toLowRate(restInFull, band) : mid;
  const kick = Float32Array.from(mid, (x, i) => x - rest[i]!);
  return {
    lowEnd: { rate, kick, rest, side },
    bass: bassLine({ low: rest, rate, full: restInFull, fullRate }, bassStarts, kicks),
  };
}
