/** Hits from the curves of the drum model: every top that stands out, placed between the frames. */
import type { Fraction, Hertz, Seconds } from "../units";
import type { DrumActivations } from "./network";

const { max, min } = Math;

/** A top of one curve. */
export interface Peak {
  time: Seconds;
  /** Place of the curve. */
  curve: number;
  probability: Fraction;
  velocity: Fraction;
}

/** Tops lower than this are noise. */
export const leastActivation = 0.03;

/**
 * Tops of all curves in order of time. Curves rise to a hit and fall after it over two frames on
 * either side, so that the middle of what stands up is the time.
 */
export function peaksOf(
  { probabilities, velocities, curves }: DrumActivations,
  framesPerSecond: Hertz,
): Peak[] {
  const frames = probabilities.length / curves;
  const found: Peak[] = [];
  for (let curve = 0; curve < curves; curve++) {
    const at = (frame: number) => (frame < 0 || frame >= frames ? 0 : probabilities[frame * curves + curve]!);
    for (let frame = 0; frame < frames; frame++) {
      const here = at(frame);
      if (here < leastActivation || here < at(frame - 1) || here <= at(frame + 1)) continue;
      // What belongs to a neighbour, behind a dip, does not pull the time.
      const left = min(at(frame - 1), here);
      const right = min(at(frame + 1), here);
      const farLeft = min(at(frame - 2), left);
      const farRight = min(at(frame + 2), right);
      const sum = here + left + right + farLeft + farRight;
      const place = frame + (right - left + 2 * (farRight - farLeft)) / sum;
      found.push({
        time: max(0, place / framesPerSecond),
        curve,
        probability: here,
        velocity: min(1, max(0.05, velocities[frame * curves + curve]!)),
      });
    }
  }
  return found.sort((a, b) => a.time - b.time);
}
