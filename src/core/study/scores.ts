import {
  compareElements,
  compareMixes,
  evidenceShare,
  mixAspects,
  partAspects,
  versionMatch,
  weightedMean,
  type ComparedElement,
  type Comparison,
  type ComparisonSettings,
  type IntendedChanges,
  type LensPair,
  type MixAspect,
  type StemPair,
  type StyleTarget,
  type TrackMeasures,
} from "../match";
import type { Alignment, CoverageSpan } from "../align/coverage";
import type { BarRange } from "../grid/grid";
import type { Fraction, Percent } from "../units";
import { drumGaps } from "../drums/compareDrums";
import { lensParts, partOfVoice, type DrumPart } from "../lens/parts";
import type { StoredAlignment } from "./alignVersion";
import { causesBetween, type Cause } from "./causes";
import { countedComparison, type StoredComparison } from "./compareVersion";
import { countedLens, setBarsOf, setPresence, type StoredLens } from "./lens";
import { countedStems, type StoredStemPair } from "./stemPairs";
import { coverageOf } from "./results";
import type { ElementRecord, StudyRecord, TrackRecord } from "./records";

/** How close one version is, in all and part by part. Null where nothing can be said yet. */
export interface VersionScores {
  trackId: string;
  number: number;
  note: string;
  match: Percent | null;
  aspects: Record<MixAspect, Percent | null>;
  /** Score of each element, by its id; elements left out have none. */
  elements: Record<string, Percent | null>;
  /** How much each of them is to be trusted, 0–1. */
  trust: Record<string, Fraction>;
  /** The share of the match that counts, by the evidence that the one recreates the other. */
  evidence: Fraction;
  /** What those scores moved with that moved against the version before, by aspect or element id. */
  causes: Record<string, Cause>;
}

/** The match that scores come to with the weights of a study; elements left out do not count. */
export const matchOf = (
  { aspects, elements, trust, evidence }: Pick<VersionScores, "aspects" | "elements" | "trust" | "evidence">,
  study: Pick<StudyRecord, "elements" | "aspectWeights">,
): Percent | null => {
  const likeness = weightedMean([
    ...mixAspects.map((name) => ({ score: aspects[name], weight: study.aspectWeights[name] })),
    ...study.elements
      .filter(({ state }) => state !== "left out")
      .map(({ id, weight }) => ({ score: elements[id] ?? null, weight: weight * (trust[id] ?? 1) })),
  ]);
  return likeness && evidence * likeness;
};

/** A version's comparison with everything that its match is made of. */
export interface FullComparison {
  mix: Comparison;
  /** By element id, in the study's order; elements left out are compared but do not count. */
  elements: { element: ElementRecord; compared: ComparedElement }[];
  /** The share of the match that counts, by the evidence that the one recreates the other. */
  evidence: Fraction;
  match: Percent | null;
}

/** What drums and bass compare in beyond their sound. */
function furtherAspects(stored: StoredComparison | null, intended: IntendedChanges) {
  const ofPart = (part: DrumPart, silent: readonly number[]) =>
    stored?.drums
      ? drumGaps(
          { ...stored.drums, voices: stored.drums.voices.filter(({ voice }) => partOfVoice[voice] === part) },
          intended.drums ?? [],
          silent,
        )
      : null;
  const { low = null, plans = null } = stored ? countedComparison(stored, intended) : {};
  return partAspects(ofPart, low, plans?.chordOverlap ?? null);
}

/** What the lens lifts out, compared part by part without a study: one for each of `lensParts`. */
export const elementsThroughLens = (
  reference: TrackMeasures,
  version: TrackMeasures,
  lens: LensPair,
  stored: StoredComparison,
  intended: IntendedChanges,
): ComparedElement[] =>
  compareElements(
    reference,
    version,
    lensParts.map((part) => ({ lens: part, fromHz: 20, toHz: 20_000 })),
    lens,
    furtherAspects(stored, intended),
  );

/**
 * How the mixes of a study are compared.
 *
 * @param semitones by which the version was found to sound higher; null where that cannot be said.
 * @param stored what chords, sections and drums have in common; null where it is not known yet.
 * @param style what is typical, where some aspects are held against that.
 */
export function settingsOf(
  { aspectWeights: weights, intended }: Pick<StudyRecord, "aspectWeights" | "intended">,
  semitones: number | null,
  stored: StoredComparison | null,
  style: StyleTarget | null,
): ComparisonSettings {
  return { weights, intended, semitones, style, ...(stored ? countedComparison(stored, intended) : {}) };
}

/**
 * Compares everything of two tracks or spans that a study tracks.
 *
 * @param semitones by which the version was found to sound higher; null where that cannot be said.
 * @param stored what chords, sections and drums have in common; null where it is not known yet.
 * @param lens what the lens has lifted out of both; null where it is not known yet.
 * @param evidence as `evidenceShare` says.
 * @param style what is typical, where some aspects are held against that.
 * @param stems by element, of those that have stems on both sides.
 */
export function compareAll(
  reference: TrackMeasures,
  version: TrackMeasures,
  study: Pick<StudyRecord, "elements" | "aspectWeights" | "intended">,
  semitones: number | null = null,
  stored: StoredComparison | null = null,
  lens: LensPair | null = null,
  evidence: Fraction = 1,
  style: StyleTarget | null = null,
  stems: ReadonlyMap<string, StemPair> = new Map(),
): FullComparison {
  const mix = compareMixes(reference, version, settingsOf(study, semitones, stored, style));
  const compared = compareElements(
    reference,
    version,
    study.elements,
    lens,
    furtherAspects(stored, study.intended),
    stems,
  );
  const elements = study.elements.map((element, i) => ({ element, compared: compared[i]! }));
  const counting = elements
    .filter(({ element }) => element.state !== "left out")
    .map(({ element, compared }) => ({ score: compared.score, weight: element.weight * compared.trust }));
  const likeness = versionMatch(mix, counting);
  return { mix, elements, evidence, match: likeness && evidence * likeness };
}

/**
 * The elements that have stems on both sides, as they count.
 *
 * @param chosen bars of the reference that count; null for all.
 */
export const countedStemPairs = (
  stored: Readonly<Record<string, StoredStemPair>>,
  { reference, elements }: Pick<StudyRecord, "reference" | "elements">,
  version: TrackRecord,
  coverage: readonly CoverageSpan[],
  chosen: BarRange | null,
): ReadonlyMap<string, StemPair> =>
  new Map(
    elements.flatMap(({ id, lens }): [string, StemPair][] => {
      const own = stored[id];
      return own
        ? [[id, countedStems(own, coverage, chosen, setBarsOf(lens, setPresence(reference, version)))]]
        : [];
    }),
  );

/** The share of its match that counts of a version. */
export const evidenceOf = (
  { coverage }: Pick<TrackRecord, "coverage">,
  alignment: Alignment | null | undefined,
  { aspectWeights }: Pick<StudyRecord, "aspectWeights">,
): Fraction =>
  evidenceShare({
    related: alignment?.related ?? null,
    harmony: countedHarmony(alignment, aspectWeights),
    isSaid: coverage !== null,
  });

/** How far harmony agrees; null where that is not known, or harmony has no weight: other chords are intended. */
export const countedHarmony = (
  alignment: Alignment | null | undefined,
  { harmony }: StudyRecord["aspectWeights"],
): Fraction | null => (harmony > 0 ? (alignment?.harmony ?? null) : null);

/** What the scores of a version follow from. */
export interface ScoredVersion {
  alignment: StoredAlignment;
  /** Null while it is not known. */
  comparison: StoredComparison | null;
  /** What the lens has lifted out of both; none while it is not known. */
  lens?: StoredLens | null;
}

/**
 * The scores of every version of a study, oldest first: the cheap last step, which weights, intended
 * changes and states go into.
 *
 * @param known by track id; versions that are not aligned yet are missing.
 * @param style what is typical, where some aspects are held against that.
 */
export function scoresOfVersions(
  study: Pick<StudyRecord, "reference" | "versions" | "elements" | "aspectWeights" | "intended">,
  known: ReadonlyMap<string, ScoredVersion>,
  style: StyleTarget | null = null,
): VersionScores[] {
  let before: FullComparison | null = null;
  return study.versions.map((version) => {
    const { id, number, note } = version;
    const own = known.get(id);
    const compared = own
      ? compareAll(
          own.alignment.measures.reference,
          own.alignment.measures.version,
          study,
          own.alignment.alignment?.semitones ?? null,
          own.comparison,
          own.lens &&
            countedLens(
              own.lens,
              coverageOf(version, own.alignment.alignment),
              null,
              setPresence(study.reference, version),
            ),
          evidenceOf(version, own.alignment.alignment, study),
          style,
          countedStemPairs(
            own.comparison?.stems ?? {},
            study,
            version,
            coverageOf(version, own.alignment.alignment),
            null,
          ),
        )
      : null;
    const causes = compared && before ? causesBetween(before, compared) : {};
    if (compared && compared.match !== null) before = compared;
    const aspects = Object.fromEntries(
      mixAspects.map((name) => [name, compared?.mix.aspects.find((a) => a.name === name)?.score ?? null]),
    ) as Record<MixAspect, Percent | null>;
    const counted = (compared?.elements ?? []).filter(({ element }) => element.state !== "left out");
    return {
      trackId: id,
      number,
      note,
      match: compared?.match ?? null,
      aspects,
      elements: Object.fromEntries(counted.map(({ element, compared: c }) => [element.id, c.score])),
      trust: Object.fromEntries(counted.map(({ element, compared: c }) => [element.id, c.trust])),
      evidence: compared?.evidence ?? 1,
      causes,
    };
  });
}
