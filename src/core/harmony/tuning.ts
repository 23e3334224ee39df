/** How far a track is tuned off A4 = 440 Hz (ISO 16), from the pitches of all spectral peaks. */
import type { Cents } from "../units";

const { exp, floor, max, min, round, sqrt } = Math;

/** Below this MIDI pitch peaks are too wide to say anything about cents. */
const lowestTold = 57;
const bins = 100;
/** Cents over which peaks are gathered: a standard deviation. */
const spread = 4;
const reach = 5 * spread;
const kernel = Float64Array.from({ length: 2 * reach + 1 }, (_, i) =>
  exp(-0.5 * ((i - reach) / spread) ** 2),
);

/**
 * The commonest deviation from the semitones: instruments that are out of tune with the rest, such
 * as a detuned synthesiser, stand beside it and do not pull it.
 *
 * @param pitches fractional MIDI numbers.
 * @returns −50 … 50; 0 where nothing is pitched.
 */
export function tuningOf(pitches: Float32Array, strengths: Float32Array, count: number): Cents {
  const histogram = new Float64Array(bins);
  for (let i = 0; i < count; i++) {
    const pitch = pitches[i]!;
    if (pitch <= lowestTold) continue;
    // Shared between the two nearest bins; square roots, so that many notes count rather than one loud one.
    const place = bins * (pitch - floor(pitch));
    const bin = floor(place);
    const weight = sqrt(strengths[i]!);
    histogram[bin % bins]! += weight * (1 - (place - bin));
    histogram[(bin + 1) % bins]! += weight * (place - bin);
  }
  const gathered = histogram.map((_, bin) => {
    let sum = 0;
    for (let k = -reach; k <= reach; k++) sum += kernel[k + reach]! * histogram[(bin + k + bins) % bins]!;
    return sum;
  });
  const best = gathered.indexOf(max(...gathered));
  const here = gathered[best]!;
  if (!(here > 0)) return 0;
  const below = gathered[(best + bins - 1) % bins]!;
  const above = gathered[(best + 1) % bins]!;
  const bend = below - 2 * here + above;
  const place = best + (bend < 0 ? max(-0.5, min(0.5, (0.5 * (below - above)) / bend)) : 0);
  return place - bins * round(place / bins);
}
