import type { Key } from "@/core/harmony/keys";
import type { LoudnessMeasures } from "@/core/loudness";
import type { ComparedAspect, MixAspect, TrackMeasures } from "@/core/match";
import type { FullComparison } from "@/core/study";
import {
  gapCurve,
  spectralSlope,
  wholeOf,
  type BandGap,
  type BandsPerOctave,
  type Spectrum,
} from "@/core/tone";
import { findingsOf, type Finding } from "./findings";

/** One side's numbers. */
export interface SideNumbers {
  bpm: number | null;
  key: Key | null;
  loudness: LoudnessMeasures;
  slopeDbPerOctave: number | null;
}

/** What the overview shows of a comparison. */
export interface OverviewModel {
  /** Whether nothing of what is selected is recreated. */
  nothingRecreated: boolean;
  /** Whether it is worked out again after a change. */
  outdated: boolean;
  match: number | null;
  aspects: ComparedAspect<MixAspect>[];
  /** dB added to the version in the curves. */
  gainToReference: number;
  reference: SideNumbers;
  version: SideNumbers;
  curves: SpectrumCurves;
  findings: Finding[];
}

/** Which part of the stereo picture a spectrum is of. */
export type SpectrumPart = "whole" | "mid" | "side";

/** Gap curves by part and by bands an octave. */
export type SpectrumCurves = Record<SpectrumPart, Record<BandsPerOctave, BandGap[]>>;

const numbersOf = (measures: TrackMeasures, key: Key | null): SideNumbers => ({
  bpm: measures.bpm,
  key,
  loudness: measures.loudness,
  slopeDbPerOctave: spectralSlope(wholeOf(measures.spectrum)),
});

/** The gap curves of two spectra at equal loudness. */
export function spectrumCurves(reference: Spectrum, version: Spectrum, shift: number): SpectrumCurves {
  const curvesOf = (a: ArrayLike<number>, b: ArrayLike<number>) => {
    const curve = (perOctave: BandsPerOctave) => gapCurve(a, b, shift, perOctave);
    return { 3: curve(3), 6: curve(6), 12: curve(12) };
  };
  return {
    whole: curvesOf(wholeOf(reference), wholeOf(version)),
    mid: curvesOf(reference.mid, version.mid),
    side: curvesOf(reference.side, version.side),
  };
}

export function overviewModel(
  reference: TrackMeasures,
  version: TrackMeasures,
  compared: FullComparison,
  {
    keys,
    ...state
  }: Pick<OverviewModel, "nothingRecreated" | "outdated"> & {
    keys: Record<"reference" | "version", Key | null>;
  },
): OverviewModel {
  const curves = spectrumCurves(reference.spectrum, version.spectrum, compared.mix.gainToReference);
  return {
    ...state,
    match: state.nothingRecreated ? null : compared.match,
    aspects: compared.mix.aspects,
    gainToReference: compared.mix.gainToReference,
    reference: numbersOf(reference, keys.reference),
    version: numbersOf(version, keys.version),
    curves,
    findings: state.nothingRecreated ? [] : findingsOf(compared, reference, version, curves.whole[3]),
  };
}
