import type { EarlyFindings } from "@/core/analysis/early";
import { fixed } from "./format";

/** What is known of a track before its analysis has ended, in a line. */
export function earlyWords({ integratedLufs, truePeakDbtp, slopeDbPerOctave, grid }: EarlyFindings): string {
  if (integratedLufs === null) return "Silent.";
  return [
    ...(grid ? [`${fixed(grid.bpm, 2)} BPM, ${grid.beatsPerBar} beats to the bar`] : []),
    ...(grid === null ? ["no steady tempo"] : []),
    `${fixed(integratedLufs)} LUFS`,
    `${fixed(truePeakDbtp)} dBTP`,
    `slope ${fixed(slopeDbPerOctave)} dB/oct`,
  ].join(" · ");
}
