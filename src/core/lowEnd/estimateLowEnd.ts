import type { Hertz, Seconds } from "../units";
import type { StrokeCurves } from "../grid/strokeCurves";
import { bassLine, type LowEndWithoutKicks } from "./bassLine";
import { hearBass } from "./bassNetwork";
import { bassSpectra } from "./bassSpectra";
import { lowBand, toLowRate, type LowEnd } from "./lowBand";
import type { BassNote } from "./notes";
import { typicalKick, withoutKick } from "./typicalKick";

/**
 * Tells kicks from the rest below some 250 Hz.
 *
 * @param channels left and right, same length.
 * @param bassStarts when bass notes are heard to begin, in order.
 * @param kicks in order.
 */
export function kickAndRest(
  channels: readonly [Float32Array, Float32Array],
  sampleRate: Hertz,
  bassStarts: readonly Seconds[],
  kicks: readonly Seconds[],
): { lowEnd: LowEnd; rest: LowEndWithoutKicks } {
  const band = lowBand(channels, sampleRate);
  const { rate, mid, side, full, fullRate } = band;
  const typical = typicalKick(full, fullRate, kicks, bassStarts);
  const restInFull = typical ? withoutKick(full, typical) : full;
  const low = typical ? toLowRate(restInFull, band) : mid;
  const kick = Float32Array.from(mid, (x, i) => x - low[i]!);
  return {
    lowEnd: { rate, kick, rest: low, side },
    rest: { low, rate, full: restInFull, fullRate },
  };
}

/**
 * Kick and rest of the low end, and the bass line that is read from the rest.
 *
 * @param strokes how probably strokes of each kind fall on each frame, as the drum model hears them.
 */
export function estimateLowEnd(
  channels: readonly [Float32Array, Float32Array],
  sampleRate: Hertz,
  bassStarts: readonly Seconds[],
  kicks: readonly Seconds[],
  strokes: { curves: StrokeCurves; framesPerSecond: Hertz },
): { lowEnd: LowEnd; bass: BassNote[] } {
  const { lowEnd, rest } = kickAndRest(channels, sampleRate, bassStarts, kicks);
  const heard = hearBass(bassSpectra(rest.full, rest.fullRate, strokes.curves, strokes.framesPerSecond));
  return { lowEnd, bass: bassLine(rest, heard, bassStarts, kicks) };
}
