import type { Bpm, Seconds } from "../units";
import { readBars } from "./bars";
import { trackBeats } from "./beats";
import type { GridEstimate } from "./gridEstimate";
import type { OnsetStrength } from "./onset";

/** Times are kept to a tenth of a millisecond: finer than can be heard or measured. */
const kept = (seconds: Seconds): Seconds => Math.round(seconds * 1e4) / 1e4;

/**
 * Beats and bars at a tempo that is known; null where there are too few beats for two bars.
 *
 * @param from, to first and last sound.
 */
export function estimateGrid(
  onsets: OnsetStrength,
  bpm: Bpm,
  from: Seconds,
  to: Seconds,
): GridEstimate | null {
  const path = trackBeats(onsets, bpm, from, to);
  const bars = readBars(onsets, path.beats);
  if (!bars) return null;
  return {
    beats: bars.beats.map(kept),
    downbeats: bars.downbeats.map(kept),
    beatsPerBar: bars.beatsPerBar,
    steady: path.steady,
    confidence: Math.round(bars.confidence * 1000) / 1000,
  };
}
