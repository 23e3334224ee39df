import type { IntendedDifference } from "../drums/compareDrums";
import { pumpingGap, spaceGaps, type EnvelopeMeasures } from "../envelopes";
import type { LoudnessMeasures } from "../loudness";
import { rootMeanSquareWidthGap } from "../stereo";
import { gapCurve, rootMeanSquareGap, wholeOf, type BandGap, type Spectrum } from "../tone";
import { tempoGap, type Bpm, type Decibels, type Fraction, type Percent } from "../units";
import { defaultAspectWeights, mixAspects, shortestForRangeSeconds, type MixAspect } from "./measures";
import { aspectOf, measured, shared, type ComparedAspect, type ComparedMeasure } from "./compared";
import { comparedAccents, comparedPattern, comparedTiming, type DrumGaps } from "./drumGaps";
import { comparedBass, comparedLowEnd, type LowGaps } from "./lowGaps";
import { weightedMean } from "./score";
import {
  againstStyle,
  curveAgainstStyle,
  toneAgainstStyle,
  widthAgainstStyle,
  type StyleAspect,
  type StyleTarget,
} from "./style";

/** Differences that the producer wants; they are compensated before comparing. */
export interface IntendedChanges {
  /** Intended tempo of the version; null for the reference's. */
  bpm: Bpm | null;
  /** Semitones by which the version is intended to sound higher. */
  semitones: number;
  /** Intended differences of the drums; none when left out. */
  drums?: readonly IntendedDifference[];
}

export const nothingIntended: IntendedChanges = { bpm: null, semitones: 0 };

/** How two tracks are compared. */
export interface ComparisonSettings {
  weights?: Record<MixAspect, number>;
  /** Semitones by which the version was found to sound higher; null where that cannot be said. */
  semitones?: number | null;
  intended?: IntendedChanges;
  /** What chords and sections have in common; left out where they cannot be compared. */
  plans?: PlanOverlap | null;
  /** How far drums are apart; left out where they cannot be compared. */
  drums?: DrumGaps | null;
  /** How far bass lines and low ends are apart; left out where they cannot be compared. */
  low?: LowGaps | null;
  /** What is typical of the style, where some aspects are held against that; null where none is. */
  style?: StyleTarget | null;
}

/** Shares of chords and sections that both sides have in common; null where nothing can be said. */
export interface PlanOverlap {
  chordOverlap: Fraction | null;
  formOverlap: Fraction | null;
}

/** What is known of one track, or of spans of it, when it is compared. */
export interface TrackMeasures {
  bpm: Bpm | null;
  loudness: LoudnessMeasures;
  spectrum: Spectrum;
  envelopes: EnvelopeMeasures;
}

export interface Comparison {
  match: Percent | null;
  aspects: ComparedAspect<MixAspect>[];
  /** dB that make the version as loud as the reference; 0 where one is silent. */
  gainToReference: Decibels;
  /** What tone is judged by, per third octave: against the reference at equal loudness, or what is typical. */
  toneCurve: BandGap[];
}

/** Gain in dB that makes the version as loud as the reference; 0 where one of them is silent. */
export const gainToReference = (reference: TrackMeasures, version: TrackMeasures): Decibels =>
  reference.loudness.integratedLufs === null || version.loudness.integratedLufs === null
    ? 0
    : reference.loudness.integratedLufs - version.loudness.integratedLufs;

function comparedTempo(
  reference: TrackMeasures,
  version: TrackMeasures,
  intended: IntendedChanges,
): ComparedMeasure {
  if (intended.bpm !== null && version.bpm !== null) {
    const { percent, foldedBy } = tempoGap(intended.bpm, version.bpm);
    const remark = `Intended to be at ${intended.bpm.toFixed(2)} BPM; compared with that.`;
    return measured("tempo", intended.bpm, version.bpm * foldedBy, percent, remark);
  }
  if (reference.bpm === null || version.bpm === null) {
    return measured("tempo", reference.bpm, version.bpm, null, "No steady tempo was found on one side.");
  }
  const { percent, foldedBy } = tempoGap(reference.bpm, version.bpm);
  const remark =
    foldedBy === 1
      ? undefined
      : `The version was read at ${foldedBy === 2 ? "half" : "double"} the reference's beat; compared at the same beat.`;
  return measured("tempo", reference.bpm, version.bpm * foldedBy, percent, remark);
}

function comparedKey(semitones: number | null, intended: IntendedChanges): ComparedMeasure {
  if (semitones === null) {
    return measured("transposition", null, null, null, "One side has too little that is pitched.");
  }
  // The way round the octave does not matter to the key.
  const apart = semitones - intended.semitones;
  const gap = apart - 12 * Math.round(apart / 12);
  return intended.semitones === 0
    ? measured("transposition", 0, semitones, gap)
    : measured(
        "transposition",
        intended.semitones,
        semitones,
        gap,
        "Transposed on purpose; compared with that.",
      );
}

function comparedRange(reference: LoudnessMeasures, version: LoudnessMeasures): ComparedMeasure {
  const shortest = Math.min(reference.measuredSeconds, version.measuredSeconds);
  return shortest < shortestForRangeSeconds
    ? measured(
        "loudnessRange",
        reference.loudnessRangeLu,
        version.loudnessRangeLu,
        null,
        "Left out: under a minute, where loudness range says little.",
      )
    : measured("loudnessRange", reference.loudnessRangeLu, version.loudnessRangeLu);
}

function comparedPunch(reference: TrackMeasures, version: TrackMeasures): ComparedMeasure[] {
  const [ours, theirs] = [reference.envelopes.punch, version.envelopes.punch];
  const remark = ours && theirs ? undefined : "One side has too few kicks and back-beats.";
  return [
    measured("attack", ours?.attackDb ?? null, theirs?.attackDb ?? null, undefined, remark),
    measured("sustain", ours?.sustainDb ?? null, theirs?.sustainDb ?? null, undefined, remark),
  ];
}

function comparedPumping(reference: TrackMeasures, version: TrackMeasures): ComparedMeasure {
  const [ours, theirs] = [reference.envelopes.pumping, version.envelopes.pumping];
  const bpm = version.bpm ?? reference.bpm;
  return ours && theirs && bpm
    ? measured("pumping", null, null, pumpingGap(ours, theirs, 60 / bpm).gapDb)
    : measured("pumping", null, null, null, "One side has too few kicks.");
}

function comparedSpace(reference: TrackMeasures, version: TrackMeasures): ComparedMeasure {
  const gaps = spaceGaps(reference.envelopes.space, version.envelopes.space).filter((gap) => gap !== null);
  if (gaps.length === 0) return measured("reverberance", null, null, null, "Too few beats on one side.");
  const mean = gaps.reduce((sum, gap) => sum + gap, 0) / gaps.length;
  const size = Math.sqrt(gaps.reduce((sum, gap) => sum + gap * gap, 0) / gaps.length);
  return measured("reverberance", null, null, mean < 0 ? -size : size);
}

/** The measures of each aspect, worked out when it is asked for, and what several of them share. */
function measuresByAspect(
  reference: TrackMeasures,
  version: TrackMeasures,
  {
    semitones = null,
    intended = nothingIntended,
    plans = null,
    drums = null,
    low = null,
    style = null,
  }: ComparisonSettings,
) {
  const gain = gainToReference(reference, version);
  const styleIn = (name: StyleAspect) => (style?.aspects.includes(name) ? style.yardstick : null);
  const { loudness } = version;
  const inLoudness = styleIn("loudness");
  const inDynamics = styleIn("dynamics");
  const inTone = styleIn("tone");
  const inWidth = styleIn("width");
  const styleCurve = inTone ? curveAgainstStyle(version.spectrum, inTone) : null;
  const curve = styleCurve ?? gapCurve(wholeOf(reference.spectrum), wholeOf(version.spectrum), gain, 3);
  const measures: Record<MixAspect, () => ComparedMeasure[]> = {
    tempo: () => [comparedTempo(reference, version, intended)],
    harmony: () => [
      comparedKey(semitones, intended),
      shared("chords", plans?.chordOverlap, "One side has no chords that could be held against the other's."),
    ],
    form: () => [shared("sections", plans?.formOverlap, "The bars of the two could not be lined up.")],
    pattern: () => [comparedPattern(drums)],
    timing: () => [comparedTiming(drums)],
    swing: () => [
      measured(
        "swing",
        drums?.swing?.reference ?? null,
        drums?.swing?.version ?? null,
        undefined,
        drums?.swing ? undefined : "Too few hits between the eighths on one side.",
      ),
    ],
    accents: () => [comparedAccents(drums)],
    bass: () => comparedBass(low),
    lowEnd: () => comparedLowEnd(low),
    loudness: () => [
      (inLoudness && againstStyle("integratedLoudness", "loudness", loudness.integratedLufs, inLoudness)) ??
        measured("integratedLoudness", reference.loudness.integratedLufs, loudness.integratedLufs),
    ],
    dynamics: () => [
      (inDynamics && loudness.measuredSeconds >= shortestForRangeSeconds
        ? againstStyle("loudnessRange", "loudnessRange", loudness.loudnessRangeLu, inDynamics)
        : null) ?? comparedRange(reference.loudness, loudness),
      (inDynamics &&
        againstStyle("peakToLoudness", "peakToLoudness", loudness.peakToLoudnessLu, inDynamics)) ??
        measured("peakToLoudness", reference.loudness.peakToLoudnessLu, loudness.peakToLoudnessLu),
    ],
    punch: () => comparedPunch(reference, version),
    pumping: () => [comparedPumping(reference, version)],
    tone: () => [
      styleCurve && loudness.integratedLufs !== null
        ? toneAgainstStyle(styleCurve)
        : measured(
            "tone",
            null,
            null,
            reference.loudness.integratedLufs === null || loudness.integratedLufs === null
              ? null
              : rootMeanSquareGap(curve),
          ),
    ],
    width: () => [
      (inWidth && widthAgainstStyle(version.spectrum, inWidth)) ??
        measured("width", null, null, rootMeanSquareWidthGap(reference.spectrum, version.spectrum)),
    ],
    space: () => [comparedSpace(reference, version)],
  };
  return { measures, gainToReference: gain, toneCurve: curve };
}

/** Some aspects of two tracks, or of spans of them, by themselves: nothing else is worked out. */
export function compareAspects(
  reference: TrackMeasures,
  version: TrackMeasures,
  names: readonly MixAspect[],
  settings: ComparisonSettings = {},
): Omit<Comparison, "match"> {
  const { measures, ...common } = measuresByAspect(reference, version, settings);
  const { weights = defaultAspectWeights } = settings;
  return { aspects: names.map((name) => aspectOf(name, weights[name], measures[name]())), ...common };
}

/**
 * Compares two tracks, or spans of them, as whole mixes.
 *
 * A measure that one side does not have is left out, never counted as 0 or 100. Exchanging the two
 * changes the sign of every gap and no score.
 */
export function compareMixes(
  reference: TrackMeasures,
  version: TrackMeasures,
  settings: ComparisonSettings = {},
): Comparison {
  const compared = compareAspects(reference, version, mixAspects, settings);
  return { match: weightedMean(compared.aspects), ...compared };
}

/** One element as it counts towards a version's match. */
export interface WeighedElement {
  score: Percent | null;
  weight: number;
}

/** A version's match: the weighted mean over whole-mix aspects and elements. */
export const versionMatch = (comparison: Comparison, elements: readonly WeighedElement[]): Percent | null =>
  weightedMean([...comparison.aspects, ...elements]);
