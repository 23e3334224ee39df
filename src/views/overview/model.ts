import type { LoudnessMeasures } from "@/core/loudness";
import type { ComparedAspect, MixAspect, TrackMeasures } from "@/core/match";
import type { FullComparison, SpanPair } from "@/core/study";
import { gapCurve, spectralSlope, wholeOf, type BandGap, type BandsPerOctave } from "@/core/tone";
import { findingsOf, type Finding } from "./findings";

/** One side's numbers. */
export interface SideNumbers {
  bpm: number | null;
  /** Other readings of the beat, most likely first. */
  loudness: LoudnessMeasures;
  slopeDbPerOctave: number | null;
}

/** What the overview shows of a comparison. */
export interface OverviewModel {
  spans: SpanPair;
  match: number | null;
  aspects: ComparedAspect<MixAspect>[];
  /** dB added to the version in the curves. */
  gainToReference: number;
  reference: SideNumbers;
  version: SideNumbers;
  curves: Record<BandsPerOctave, BandGap[]>;
  findings: Finding[];
}

const numbersOf = (measures: TrackMeasures): SideNumbers => ({
  bpm: measures.bpm,
  loudness: measures.loudness,
  slopeDbPerOctave: spectralSlope(wholeOf(measures.spectrum)),
});

export function overviewModel(
  reference: TrackMeasures, version: TrackMeasures, compared: FullComparison, spans: SpanPair,
): OverviewModel {
  const a = wholeOf(reference.spectrum);
  const b = wholeOf(version.spectrum);
  const curve = (perOctave: BandsPerOctave) => gapCurve(a, b, compared.mix.gainToReference, perOctave);
  const curves = { 3: curve(3), 6: curve(6), 12: curve(12) };
  return {
    spans,
    match: compared.match,
    aspects: compared.mix.aspects,
    gainToReference: compared.mix.gainToReference,
    reference: numbersOf(reference),
    version: numbersOf(version),
    curves,
    findings: findingsOf(compared, reference, version, curves[3]),
  };
}
