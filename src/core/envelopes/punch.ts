/** Punch: how far drum hits stand out of the mix, and how much of them goes on after the attack. */
import { z } from "zod";
import { countRange, decibelRange } from "../ranges";
import { powerToDecibels, type Hertz, type Seconds } from "../units";

const { max, min, round } = Math;

/** Frames of 10 ms from a hit: before it, its attack, and what is left of it. */
const before = { from: -5, to: -2 } as const;
const attack = { from: -1, to: 3 } as const;
const body = { from: 6, to: 14 } as const;
const fewestHits = 6;

export const punchSchema = z.object({
  hits: countRange,
  /** Peak of the hits over the mean level of everything. */
  attackDb: decibelRange,
  /** What is left of them 60 to 140 ms later, against their peak. */
  sustainDb: decibelRange,
});
export type Punch = z.infer<typeof punchSchema>;

/**
 * @param powers of every frame; those that are not wanted are not counted in `mean`.
 * @param mean power of what is measured.
 * @param hits of kick and back-beat, in order.
 * @returns null where there are fewer than six.
 */
export function measurePunch(
  powers: Float64Array,
  framesPerSecond: Hertz,
  mean: number,
  hits: readonly Seconds[],
): Punch | null {
  let count = 0;
  let peaks = 0;
  let bodies = 0;
  for (const [i, time] of hits.entries()) {
    const frame = round(time * framesPerSecond);
    const next = i + 1 < hits.length ? (hits[i + 1]! - time) * framesPerSecond : Infinity;
    if (frame + before.from < 0 || frame + body.to >= powers.length || next < body.to) continue;
    const meanOf = (span: { from: number; to: number }) => {
      let sum = 0;
      for (let t = span.from; t <= span.to; t++) sum += powers[frame + t]!;
      return sum / (span.to - span.from + 1);
    };
    const floor = meanOf(before);
    let peak = 0;
    for (let t = attack.from; t <= attack.to; t++) peak = max(peak, powers[frame + t]!);
    if (peak < 2 * floor) continue;
    count++;
    // What was there before is not the hit's.
    peaks += peak - floor;
    bodies += meanOf(body) - min(floor, meanOf(body));
  }
  if (count < fewestHits || mean <= 0) return null;
  const tenths = (value: number) => round(10 * value) / 10;
  return {
    hits: count,
    attackDb: tenths(powerToDecibels(peaks / count / mean)),
    sustainDb: tenths(max(-40, powerToDecibels(max(bodies, 1e-12) / peaks))),
  };
}
