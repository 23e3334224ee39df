import type { Key } from "@/core/harmony/keys";
import type { LoudnessMeasures } from "@/core/loudness";
import type { ComparedAspect, MixAspect, TrackMeasures } from "@/core/match";
import {
  itemPlan,
  matchOf,
  type FullComparison,
  type StudyRecord,
  type StudyResults,
  type TrackRecord,
} from "@/core/study";
import { spectralSlope, wholeOf } from "@/core/tone";
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
  aspects: ComparedAspect<MixAspect>[];
  /** Score of each element, by its id. */
  elementScores: Record<string, number | null>;
  /** How much each of them is to be trusted, 0–1. */
  elementTrust: Record<string, number>;
  /** The share of the match that counts, by the evidence that the one recreates the other, 0–1. */
  evidence: number;
  /** dB added to the version in the curves. */
  gainToReference: number;
  reference: SideNumbers;
  version: SideNumbers;
  findings: Finding[];
}

const numbersOf = (measures: TrackMeasures, key: Key | null): SideNumbers => ({
  bpm: measures.bpm,
  key,
  loudness: measures.loudness,
  slopeDbPerOctave: spectralSlope(wholeOf(measures.spectrum)),
});

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
  return {
    ...state,
    aspects: compared.mix.aspects,
    elementScores: Object.fromEntries(
      compared.elements.map(({ element, compared: own }) => [element.id, own.score]),
    ),
    elementTrust: Object.fromEntries(
      compared.elements.map(({ element, compared: own }) => [element.id, own.trust]),
    ),
    evidence: compared.evidence,
    gainToReference: compared.mix.gainToReference,
    reference: numbersOf(reference, keys.reference),
    version: numbersOf(version, keys.version),
    findings: state.nothingRecreated ? [] : findingsOf(compared, reference, version),
  };
}

/** The match of what is compared, with the weights that count now. */
export const overviewMatch = (
  { nothingRecreated, aspects, elementScores, elementTrust, evidence }: OverviewModel,
  study: Pick<StudyRecord, "elements" | "aspectWeights">,
): number | null =>
  nothingRecreated
    ? null
    : matchOf(
        {
          aspects: Object.fromEntries(aspects.map(({ name, score }) => [name, score])) as Record<
            MixAspect,
            number | null
          >,
          elements: elementScores,
          trust: elementTrust,
          evidence,
        },
        study,
      );

/** The key of a track as it counts; null where there is none. */
export function keyOf({ plans }: StudyResults, track: TrackRecord | null): Key | null {
  const plan = track && plans.get(track.id);
  return track && plan ? itemPlan(plan.value, track).key : null;
}

/** The numbers of the reference alone; null until it is analysed. */
export function referenceNumbers(results: StudyResults): SideNumbers | null {
  const { reference } = results.study;
  const analysis = reference && results.analyses.get(reference.file.hash);
  return analysis
    ? {
        bpm: results.grids.get(reference.id)?.bpm ?? analysis.tempo?.bpm ?? null,
        key: keyOf(results, reference),
        loudness: analysis.loudness,
        slopeDbPerOctave: analysis.slopeDbPerOctave,
      }
    : null;
}
