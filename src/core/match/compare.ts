import type { IntendedDifference } from "../drums/compareDrums";
import { pumpingGap, spaceGaps, type EnvelopeMeasures } from "../envelopes";
import type { LoudnessMeasures } from "../loudness";
import type { LensMeasures } from "../lens/lensMeasures";
import type { DrumPart, LensPart } from "../lens/parts";
import type { ComparedPresence } from "../lens/presence";
import { rootMeanSquareWidthGap } from "../stereo";
import { gapCurve, rootMeanSquareGap, shareOfBands, wholeOf, type Spectrum } from "../tone";
import {
  decibelsToPower,
  powerToDecibels,
  tempoGap,
  type Bpm,
  type Decibels,
  type Fraction,
  type Hertz,
  type Percent,
  type Seconds,
} from "../units";
import {
  defaultAspectWeights,
  mixAspects,
  shortestForRangeSeconds,
  type ElementAspect,
  type MixAspect,
} from "./measures";
import { aspectOf, measured, shared, type ComparedAspect, type ComparedMeasure } from "./compared";
import { comparedBass, comparedLowEnd, type LowGaps } from "./lowGaps";
import { weightedMean } from "./score";

const { max, min } = Math;

/** What the lens has lifted out of both sides. */
export interface LensPair {
  reference: LensMeasures;
  version: LensMeasures;
  /** Where each part plays on both sides; null where they have no bars that answer each other. */
  presence: Record<LensPart, ComparedPresence> | null;
}

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
}

/** Shares of chords and sections that both sides have in common; null where nothing can be said. */
export interface PlanOverlap {
  chordOverlap: Fraction | null;
  formOverlap: Fraction | null;
}

/** How far the drums of both sides are apart; null where one side has none, or too few. */
export interface DrumGaps {
  /** F-measure of the hits. */
  pattern: Fraction | null;
  timing: Seconds | null;
  accents: Decibels | null;
  swing: { reference: Percent; version: Percent } | null;
}

/** What is known of one track, or of spans of it, when it is compared. */
export interface TrackMeasures {
  bpm: Bpm | null;
  loudness: LoudnessMeasures;
  spectrum: Spectrum;
  envelopes: EnvelopeMeasures;
}

/** What an element is heard through. */
export interface Focus {
  /** The part that the lens lifts out for it; none where it is a frequency range of the mix alone. */
  lens?: LensPart | null;
  fromHz: Hertz;
  toHz: Hertz;
}

export interface ComparedElement {
  aspects: ComparedAspect<ElementAspect>[];
  score: Percent | null;
  /** How it was heard: through the lens, with how free it stands on the side where it stands less free. */
  through: { kind: "lens"; freeDb: Decibels } | { kind: "range" };
  /** How much its score is to be trusted, 0–1: what does not stand free says less. */
  trust: Fraction;
}

export interface Comparison {
  match: Percent | null;
  aspects: ComparedAspect<MixAspect>[];
  /** dB that make the version as loud as the reference; 0 where one is silent. */
  gainToReference: Decibels;
}

const noDrums = "One side has no drums that could be held against the other's.";

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

const comparedTiming = (drums: DrumGaps | null): ComparedMeasure =>
  measured(
    "hitTiming",
    null,
    null,
    typeof drums?.timing === "number" ? 1000 * drums.timing : null,
    drums ? undefined : noDrums,
  );

const comparedAccents = (drums: DrumGaps | null): ComparedMeasure =>
  measured("accents", null, null, drums?.accents ?? null, drums ? undefined : noDrums);

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

/**
 * Compares two tracks, or spans of them, as whole mixes.
 *
 * A measure that one side does not have is left out, never counted as 0 or 100. Exchanging the two
 * changes the sign of every gap and no score.
 */
export function compareMixes(
  reference: TrackMeasures,
  version: TrackMeasures,
  {
    weights = defaultAspectWeights,
    semitones = null,
    intended = nothingIntended,
    plans = null,
    drums = null,
    low = null,
  }: ComparisonSettings = {},
): Comparison {
  const gain = gainToReference(reference, version);
  const curve = gapCurve(wholeOf(reference.spectrum), wholeOf(version.spectrum), gain, 3);
  const measures: Record<MixAspect, ComparedMeasure[]> = {
    tempo: [comparedTempo(reference, version, intended)],
    harmony: [
      comparedKey(semitones, intended),
      shared("chords", plans?.chordOverlap, "One side has no chords that could be held against the other's."),
    ],
    form: [shared("sections", plans?.formOverlap, "The bars of the two could not be lined up.")],
    pattern: [shared("drumHits", drums?.pattern, noDrums)],
    timing: [comparedTiming(drums)],
    swing: [
      measured(
        "swing",
        drums?.swing?.reference ?? null,
        drums?.swing?.version ?? null,
        undefined,
        drums?.swing ? undefined : "Too few hits between the eighths on one side.",
      ),
    ],
    accents: [comparedAccents(drums)],
    bass: comparedBass(low),
    lowEnd: comparedLowEnd(low),
    loudness: [
      measured("integratedLoudness", reference.loudness.integratedLufs, version.loudness.integratedLufs),
    ],
    dynamics: [
      comparedRange(reference.loudness, version.loudness),
      measured("peakToLoudness", reference.loudness.peakToLoudnessLu, version.loudness.peakToLoudnessLu),
    ],
    punch: comparedPunch(reference, version),
    pumping: [comparedPumping(reference, version)],
    tone: [
      measured(
        "tone",
        null,
        null,
        reference.loudness.integratedLufs === null || version.loudness.integratedLufs === null
          ? null
          : rootMeanSquareGap(curve),
      ),
    ],
    width: [measured("width", null, null, rootMeanSquareWidthGap(reference.spectrum, version.spectrum))],
    space: [comparedSpace(reference, version)],
  };
  const aspects = mixAspects.map((name) => aspectOf(name, weights[name], measures[name]));
  return { match: weightedMean(aspects), aspects, gainToReference: gain };
}

/** Level of a frequency range in dB, from powers per twelfth-octave band. */
function focusLevel(powers: Float32Array, shares: Float64Array): Decibels {
  let power = 0;
  for (let b = 0; b < powers.length; b++) power += powers[b]! * shares[b]!;
  return powerToDecibels(power);
}

/** A part that stands free by so much is measured as if it were alone; */
const fullyFree: Decibels = 10;
/** one that does not counts at least this much. */
const leastTrust = 0.25;

/** What is compared of an element, and within which bands. */
interface Heard {
  powers: readonly [reference: Float32Array, version: Float32Array];
  shares: Float64Array;
  through: ComparedElement["through"];
}

/** Parts that the lens lifts out as one are told apart by their range. */
const isShared = (part: LensPart): boolean => part === "music";

/**
 * Compares elements: the level of each against the loudness of the whole mix, and the shape of its
 * spectrum. Heard through the lens where it has lifted the element out of both sides, else through its
 * frequency range.
 *
 * @param lens what the lens has lifted out of both sides; null where that is not known.
 * @param ofPart further aspects of a part, measured otherwise.
 * @returns one for each focus.
 */
export function compareElements(
  reference: TrackMeasures,
  version: TrackMeasures,
  elements: readonly Focus[],
  lens: LensPair | null = null,
  ofPart?: (part: LensPart) => ComparedAspect<ElementAspect>[],
): ComparedElement[] {
  const mixes = [wholeOf(reference.spectrum), wholeOf(version.spectrum)] as const;
  const everything = shareOfBands(10, 22_000);
  return elements.map(({ lens: part, fromHz, toHz }) => {
    const range = shareOfBands(fromHz, toHz);
    const heard = (): Heard => {
      if (part && lens) {
        const [ours, theirs] = [lens.reference[part], lens.version[part]];
        if (ours.freeDb !== null && theirs.freeDb !== null)
          return {
            powers: [ours.powers, theirs.powers],
            shares: isShared(part) ? range : everything,
            through: { kind: "lens", freeDb: min(ours.freeDb, theirs.freeDb) },
          };
      }
      return { powers: mixes, shares: range, through: { kind: "range" } };
    };
    const { powers, shares, through } = heard();
    const relative = (own: Float32Array, lufs: number | null) => {
      const value = focusLevel(own, shares);
      return lufs === null || !Number.isFinite(value) ? null : value - lufs;
    };
    const level = measured(
      "elementLevel",
      relative(powers[0], reference.loudness.integratedLufs),
      relative(powers[1], version.loudness.integratedLufs),
    );
    const present = through.kind === "lens" ? bandsOf(powers) : null;
    // Bands that the element has, the mean difference taken out: what is left is shape.
    const inside = gapCurve(powers[0], powers[1], 0, 12).map(({ gap, weight }, i) => ({
      gap,
      weight: weight > 0 ? shares[i]! * (present?.[i] ?? 1) : 0,
    }));
    const weights = inside.reduce((sum, band) => sum + band.weight, 0);
    const mean = inside.reduce((sum, band) => sum + band.weight * band.gap, 0) / (weights || 1);
    const shape =
      level.gap === null
        ? null
        : rootMeanSquareGap(inside.map(({ gap, weight }) => ({ gap: gap - mean, weight })));
    const own = part && !isShared(part) ? ofPart?.(part) : undefined;
    const aspects = [
      aspectOf<ElementAspect>("level", 1, [level]),
      aspectOf<ElementAspect>("tone", 1, [measured("elementTone", null, null, shape)]),
      ...(through.kind === "lens" ? presenceOf(lens?.presence?.[part!]) : []),
      ...(own ?? []),
    ];
    const trust = through.kind === "lens" ? max(leastTrust, min(1, through.freeDb / fullyFree)) : 1;
    return { aspects, score: weightedMean(aspects), through, trust };
  });
}

const presenceOf = (presence: ComparedPresence | undefined): ComparedAspect<ElementAspect>[] => [
  aspectOf<ElementAspect>("presence", 1, [
    shared("presence", presence?.share, "It hardly stands free, or no bars answer each other."),
  ]),
];

/** Further aspects of drums and of the bass, from how their hits and notes compare. */
export const partAspects =
  (drums: ((part: DrumPart) => DrumGaps | null) | null, low: LowGaps | null) =>
  (part: LensPart): ComparedAspect<ElementAspect>[] => {
    if (part === "music") return [];
    if (part === "bass") return [aspectOf<ElementAspect>("notes", 1, comparedBass(low))];
    const own = drums?.(part) ?? null;
    return [
      aspectOf<ElementAspect>("pattern", 1, [shared("drumHits", own?.pattern, noDrums)]),
      aspectOf<ElementAspect>("timing", 0.5, [comparedTiming(own)]),
      aspectOf<ElementAspect>("accents", 0.5, [comparedAccents(own)]),
    ];
  };

/** Bands this far below a part's loudest hold what others left in it. */
const quietest: Decibels = 36;

/** Which bands a part has on either side, 0 or 1 each. */
function bandsOf(powers: Heard["powers"]): Float64Array {
  const least = powers.map((own) => own.reduce((a, b) => max(a, b), 0) * decibelsToPower(-quietest));
  return Float64Array.from(powers[0], (own, band) =>
    own > least[0]! || powers[1][band]! > least[1]! ? 1 : 0,
  );
}

/** One element as it counts towards a version's match. */
export interface WeighedElement {
  score: Percent | null;
  weight: number;
}

/** A version's match: the weighted mean over whole-mix aspects and elements. */
export const versionMatch = (comparison: Comparison, elements: readonly WeighedElement[]): Percent | null =>
  weightedMean([...comparison.aspects, ...elements]);
