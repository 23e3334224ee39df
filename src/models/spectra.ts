/** The average spectra of both sides and their gap, as pages are sent and show them. */
import type { TrackMeasures } from "@/core/match";
import { gapCurve, type BandGap, type BandsPerOctave } from "@/core/tone";

/** Which part of the stereo picture a spectrum is of. */
export type SpectrumPart = "whole" | "mid" | "side";

/**
 * The spectra of both sides, from which a page makes the curve that it shows: a tenth of what all
 * curves would weigh. Powers per twelfth-octave band.
 */
export interface ComparedSpectra {
  reference: Record<SpectrumPart, number[]>;
  version: Record<SpectrumPart, number[]>;
  /** dB added to the version for equal loudness. */
  shift: number;
}

/** Six digits are far finer than a curve can show. */
const sent = (powers: ArrayLike<number>) => Array.from(powers, (power) => Number(power.toPrecision(6)));
export const partsOf = (spectrum: Record<"mid" | "side", ArrayLike<number>>) => ({
  whole: sent(Array.from(spectrum.mid, (power, b) => power + spectrum.side[b]!)),
  mid: sent(spectrum.mid),
  side: sent(spectrum.side),
});

export const comparedSpectra = (
  reference: TrackMeasures,
  version: TrackMeasures,
  shift: number,
): ComparedSpectra => ({ reference: partsOf(reference.spectrum), version: partsOf(version.spectrum), shift });

/** The gap curve of a part of both sides at equal loudness. */
export const spectrumCurve = (
  { reference, version, shift }: ComparedSpectra,
  part: SpectrumPart,
  perOctave: BandsPerOctave,
): BandGap[] => gapCurve(reference[part], version[part], shift, perOctave);
