import {
  compareElement,
  compareMixes,
  mixAspects,
  versionMatch,
  type Comparison,
  type ComparedElement,
  type MixAspect,
  type TrackMeasures,
} from "../match";
import type { ComparedDrums } from "../drums/compareDrums";
import type { ComparedPlans } from "../plan/comparePlans";
import type { Percent } from "../units";
import type { LinedUp } from "./lineUp";
import type { ElementRecord, StudyRecord } from "./records";

/** How each version lies along the reference, by track id; those not lined up yet are missing. */
export type LinedUpByTrack = ReadonlyMap<string, LinedUp>;

/** How close one version is, in all and part by part. Null where nothing can be said yet. */
export interface Standing {
  trackId: string;
  number: number;
  note: string;
  match: Percent | null;
  aspects: Record<MixAspect, Percent | null>;
  /** Score of each element, by its id; elements left out have none. */
  elements: Record<string, Percent | null>;
}

/** A version's comparison with everything that its match is made of. */
export interface FullComparison {
  mix: Comparison;
  /** By element id, in the study's order; elements left out are compared but do not count. */
  elements: { element: ElementRecord; compared: ComparedElement }[];
  match: Percent | null;
}

/**
 * Compares everything of two tracks or spans that a study keeps count of.
 *
 * @param semitones by which the version was found to sound higher; null where that cannot be said.
 */
export function compareAll(
  reference: TrackMeasures,
  version: TrackMeasures,
  study: Pick<StudyRecord, "elements" | "aspectWeights" | "intended">,
  semitones: number | null = null,
  plans: ComparedPlans | null = null,
  drums: ComparedDrums | null = null,
): FullComparison {
  const { aspectWeights: weights, intended } = study;
  const mix = compareMixes(reference, version, { weights, intended, semitones, plans, drums });
  const elements = study.elements.map((element) => ({
    element,
    compared: compareElement(reference, version, element),
  }));
  const counting = elements
    .filter(({ element }) => element.state !== "left out")
    .map(({ element, compared }) => ({ score: compared.score, weight: element.weight }));
  return { mix, elements, match: versionMatch(mix, counting) };
}

/**
 * The standing of every version of a study, oldest first.
 *
 * @param plans what chords and sections have in common, by track id.
 * @param drums how the drums of both go together, by track id.
 */
export function standingsOf(
  study: StudyRecord,
  linedUp: LinedUpByTrack,
  plans: ReadonlyMap<string, ComparedPlans> = new Map(),
  drums: ReadonlyMap<string, ComparedDrums> = new Map(),
): Standing[] {
  return study.versions.map(({ id, number, note }) => {
    const pair = linedUp.get(id);
    const compared = pair
      ? compareAll(
          pair.measures.reference,
          pair.measures.version,
          study,
          pair.alignment?.semitones ?? null,
          plans.get(id) ?? null,
          drums.get(id) ?? null,
        )
      : null;
    const aspects = Object.fromEntries(
      mixAspects.map((name) => [name, compared?.mix.aspects.find((a) => a.name === name)?.score ?? null]),
    ) as Record<MixAspect, Percent | null>;
    return {
      trackId: id,
      number,
      note,
      match: compared?.match ?? null,
      aspects,
      elements: Object.fromEntries(
        (compared?.elements ?? [])
          .filter(({ element }) => element.state !== "left out")
          .map(({ element, compared: c }) => [element.id, c.score]),
      ),
    };
  });
}
