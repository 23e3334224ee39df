/** A version held against what is typical of its style instead of against the reference. */
import { stereoOfWhole } from "../stereo";
import { audibleSpan, rootMeanSquareGap, toneWeight, wholeOf, type BandGap, type Spectrum } from "../tone";
import {
  outside,
  toneBands,
  toneCurve,
  type FigureName,
  type TypicalRange,
  type Yardstick,
} from "../yardstick";
import { measured, type ComparedMeasure } from "./compared";
import type { MeasureName, MixAspect } from "./measures";

/** Aspects of the whole mix that a yardstick has ranges for, and can be the target of. */
export const styleAspects = ["loudness", "dynamics", "tone", "width"] as const satisfies readonly MixAspect[];
export type StyleAspect = (typeof styleAspects)[number];

/** What is typical, and in which aspects it takes the reference's place. */
export interface StyleTarget {
  yardstick: Yardstick;
  aspects: readonly StyleAspect[];
}

const clamp = (value: number, { low, high }: Pick<TypicalRange, "low" | "high">) =>
  Math.min(high, Math.max(low, value));

/**
 * One figure held against its typical range: within it there is no gap, outside the gap is the way back.
 *
 * @returns null where too few tracks have it.
 */
export function againstStyle(
  name: MeasureName,
  figure: FigureName,
  value: number | null,
  { ranges }: Yardstick,
): ComparedMeasure | null {
  const range = ranges[figure];
  if (!range) return null;
  const { low, high } = range;
  const gap = value === null ? null : outside(value, range);
  return {
    ...measured(name, value === null ? null : clamp(value, range), value, gap),
    typical: { low, high },
  };
}

export const widthAgainstStyle = (spectrum: Spectrum, yardstick: Yardstick): ComparedMeasure | null =>
  againstStyle("width", "width", stereoOfWhole(spectrum).sideToMidDb, yardstick);

/**
 * How far each third-octave band lies outside of what is typical, at equal weight; `reference` is the
 * typical level nearest to the version's own.
 *
 * @returns null with too few tracks.
 */
export function curveAgainstStyle(spectrum: Spectrum, { tone }: Yardstick): BandGap[] | null {
  if (!tone) return null;
  const levels = toneCurve(wholeOf(spectrum));
  const heardFrom = Math.max(...levels) - audibleSpan;
  return toneBands.map((band, i) => {
    const version = levels[i]!;
    const range = { low: tone.low[i]!, high: tone.high[i]! };
    return {
      ...band,
      reference: clamp(version, range),
      version,
      gap: outside(version, range),
      // What neither has counts for nothing; what the style has and the version lacks does.
      weight: Math.max(version, range.low) > heardFrom ? toneWeight(band.centre) : 0,
    };
  });
}

export const toneAgainstStyle = (curve: readonly BandGap[]): ComparedMeasure => ({
  ...measured("tone", null, null, rootMeanSquareGap(curve)),
  typical: true,
});
