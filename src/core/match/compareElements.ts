/** Elements of two tracks held against each other, through the lens or a frequency range. */
import type { LensMeasures, PartMeasures } from "../lens/lensMeasures";
import type { DrumPart, LensPart } from "../lens/parts";
import type { Covering } from "../lens/covering";
import type { LevelInBars } from "../lens/levelInBars";
import type { ComparedMovement } from "../lens/movement";
import type { ComparedPresence } from "../lens/answeredBars";
import type { ToneInBars } from "../lens/toneInBars";
import { stereoOfWhole } from "../stereo";
import { gapCurve, rootMeanSquareGap, shareOfBands, wholeOf, type Spectrum } from "../tone";
import {
  decibelsToPower,
  powerToDecibels,
  type Decibels,
  type Fraction,
  type Hertz,
  type Milliseconds,
  type Percent,
} from "../units";
import type { TrackMeasures } from "./compare";
import { measured, shared, withError, type ComparedAspect, type ComparedMeasure } from "./compared";
import { comparedAccents, comparedPattern, comparedTiming, type DrumGaps } from "./drumGaps";
import { comparedBass, comparedBassTiming, type LowGaps } from "./lowGaps";
import type { ElementAspect } from "./measures";
import { elementAspect, errorOf, spreadOf, toneOnAverage, trustIn, withErrors } from "./elementErrors";
import { commonGap, levelOf, louderBy } from "./elementLevels";
import { elementScore } from "./score";

const { max, min } = Math;

/** What the lens has lifted out of both sides. */
export interface LensPair {
  reference: LensMeasures;
  version: LensMeasures;
  /** What each part does in the bars that answer each other; null where there are none. */
  bars: Record<LensPart, ComparedBars> | null;
}

/** What a part does from bar to bar on both sides. */
export interface ComparedBars {
  presence: ComparedPresence;
  level: LevelInBars | null;
  tone: ToneInBars | null;
  movement: ComparedMovement;
  /** By how much fuller the gaps between its sounds are in the version; null where that cannot be told. */
  space: Decibels | null;
  /** What covers it more than in the reference. */
  coverings: Covering[];
}

/** An element that has stems on both sides. */
export interface StemPair {
  reference: PartMeasures;
  version: PartMeasures;
  /** Null where no bars answer each other. */
  bars: ComparedBars | null;
}

/** What an element is heard through. */
export interface Focus {
  /** By which it may have stems. */
  id?: string;
  /** The part that the lens lifts out for it; none where it is a frequency range of the mix alone. */
  lens?: LensPart | null;
  fromHz: Hertz;
  toHz: Hertz;
  /** One that is left out is no layer of the others. */
  state?: string;
}

export interface ComparedElement {
  aspects: ComparedAspect<ElementAspect>[];
  score: Percent | null;
  /** By how many points that may be off, either way, by how exactly it was measured; 0 where that is not known. */
  spread: Percent | null;
  /** How it was heard: by its stems, or through the lens, with how free it stands on the side where it stands less free. */
  through: { kind: "stems" } | { kind: "lens"; freeDb: Decibels } | { kind: "range" };
  /** How much its score is to be trusted, 0–1: what does not stand free says less. */
  trust: Fraction;
  /** What it does from bar to bar; null where that is not known. */
  bars: ComparedBars | null;
}

/** Level of a frequency range in dB, from powers per twelfth-octave band. */
function focusLevel(powers: Float32Array, shares: Float64Array): Decibels {
  let power = 0;
  for (let b = 0; b < powers.length; b++) power += powers[b]! * shares[b]!;
  return powerToDecibels(power);
}

/** What is compared of an element, and within which bands. */
interface Heard {
  spectra: readonly [reference: Spectrum, version: Spectrum];
  shares: Float64Array;
  through: ComparedElement["through"];
  /** Until an even stroke is 10 dB down; null where it is not a drum or cannot be told. */
  strokes: readonly [reference: Milliseconds | null, version: Milliseconds | null];
}

/** Elements that the lens lifts out as one, or that are layers of one, are told apart by their range. */
const isShared = (part: LensPart, all: readonly Focus[]): boolean =>
  part === "music" || all.filter(({ lens, state }) => lens === part && state !== "left out").length > 1;

const everything = shareOfBands(10, 22_000);

/** Standing free by so much on one side, a part is surely there. */
const surelyThere: Decibels = 0;

/** Whether a part was lifted out of one side alone: its range would say how loud others are there. */
function isOnOneSide(part: LensPart | null | undefined, lens: LensPair | null): boolean {
  if (!part || part === "music" || !lens) return false;
  const [ours, theirs] = [lens.reference[part].freeDb, lens.version[part].freeDb];
  return (ours === null) !== (theirs === null) && (ours ?? theirs)! >= surelyThere;
}

/** Of elements that are lifted out as one, those that reach down to here are taken to have the chords. */
const chordsReachDownTo: Hertz = 250;

const onOneSide = "The lens found it on one side alone.";

function heardOf(
  { lens: part, fromHz, toHz }: Focus,
  lens: LensPair | null,
  stems: StemPair | null,
  mixes: Heard["spectra"],
  all: readonly Focus[],
): Heard {
  if (stems)
    return {
      spectra: [stems.reference.spectrum, stems.version.spectrum],
      shares: everything,
      through: { kind: "stems" },
      strokes: [null, null],
    };
  const range = shareOfBands(fromHz, toHz);
  const [ours, theirs] = part && lens ? [lens.reference[part], lens.version[part]] : [null, null];
  return ours && theirs && ours.freeDb !== null && theirs.freeDb !== null
    ? {
        spectra: [ours.spectrum, theirs.spectrum],
        shares: isShared(part!, all) ? range : everything,
        through: { kind: "lens", freeDb: min(ours.freeDb, theirs.freeDb) },
        strokes: [ours.strokeMs, theirs.strokeMs],
      }
    : { spectra: mixes, shares: range, through: { kind: "range" }, strokes: [null, null] };
}

/**
 * Compares elements: the level of each against the loudness of the whole mix, the shape of its spectrum,
 * its width and what it does from bar to bar. Heard through the lens where it has lifted the element out of
 * both sides, else through its frequency range.
 *
 * @param lens what the lens has lifted out of both sides; null where that is not known.
 * @param stems by id, of those elements that have stems on both sides; these go before the lens.
 * @param ofPart further aspects of a part, measured otherwise, and without the bars in which one side does not play it.
 * @returns one for each focus.
 */
export function compareElements(
  reference: TrackMeasures,
  version: TrackMeasures,
  elements: readonly Focus[],
  lens: LensPair | null = null,
  ofPart?: (part: LensPart, silent: readonly number[]) => ComparedAspect<ElementAspect>[],
  stems: ReadonlyMap<string, StemPair> = new Map(),
): ComparedElement[] {
  const mixes = [reference.spectrum, version.spectrum] as const;
  const louder = louderBy(reference, version);
  const common = lens && louder !== null ? commonGap(lens, louder) : louder;
  return elements.map((focus) => {
    const part = focus.lens;
    const pair = stems.get(focus.id ?? "") ?? null;
    const heard = heardOf(focus, lens, pair, mixes, elements);
    const { spectra, shares, through } = heard;
    const powers = spectra.map(wholeOf) as [Float32Array, Float32Array];
    const isLifted = through.kind !== "range";
    const bars = pair ? pair.bars : isLifted ? (lens?.bars?.[part!] ?? null) : null;
    const trust = through.kind === "lens" ? trustIn(through.freeDb) : 1;
    const level = levelOf(
      powers.map((own) => focusLevel(own, shares)) as [Decibels, Decibels],
      pair || (part && !isShared(part, elements)) ? (bars?.level ?? null) : null,
      reference.loudness.integratedLufs,
      isLifted ? common : louder,
    );
    const own =
      part && (part !== "music" || focus.fromHz <= chordsReachDownTo)
        ? ofPart?.(part, [...(bars?.presence.missing ?? []), ...(bars?.presence.extra ?? [])])
        : undefined;
    if (!pair && isOnOneSide(part, lens)) {
      const aspects = aspectsOnOneSide(own ?? []);
      return { aspects, score: elementScore(aspects), spread: spreadOf(aspects), through, trust, bars };
    }
    const measuredAspects = [
      elementAspect("level", 1, [level]),
      elementAspect("tone", 1, [comparedTone(heard, powers, bars?.tone ?? null, level.gap !== null, trust)]),
      ...(isLifted
        ? [comparedImage(heard), comparedPresence(bars), comparedMovement(bars), comparedSpace(bars)]
        : []),
      ...(through.kind === "lens" && isStruck(part!) ? [comparedEnvelope(heard)] : []),
      ...(own ?? []),
    ];
    const aspects = isLifted ? measuredAspects.map((aspect) => withErrors(aspect, trust)) : measuredAspects;
    return { aspects, score: elementScore(aspects), spread: spreadOf(aspects), through, trust, bars };
  });
}

/** What is left to compare of a part that is there on one side alone: strokes may be too soft to be lifted out. */
function aspectsOnOneSide(own: ComparedAspect<ElementAspect>[]): ComparedAspect<ElementAspect>[] {
  const isPlayed = own.some(({ name, score }) => name === "pattern" && score !== null);
  return [
    elementAspect("level", 1, [measured("elementLevel", null, null, null, onOneSide)]),
    elementAspect("tone", 1, [measured("elementTone", null, null, null, onOneSide)]),
    elementAspect("presence", 1, [shared("presence", isPlayed ? null : 0, onOneSide)]),
    ...own,
  ];
}

/** Root-mean-square of a gap curve, the mean difference taken out: what is left is shape. */
function shapeOf(curve: readonly { gap: Decibels; weight: number }[]): Decibels | null {
  const weights = curve.reduce((sum, { weight }) => sum + weight, 0);
  const mean = curve.reduce((sum, { gap, weight }) => sum + weight * gap, 0) / (weights || 1);
  return rootMeanSquareGap(curve.map(({ gap, weight }) => ({ gap: gap - mean, weight })));
}

/** Bar against bar where that is known, else on average, which is off by more. */
function comparedTone(
  { shares, through }: Heard,
  powers: readonly [Float32Array, Float32Array],
  inBars: ToneInBars | null,
  isThere: boolean,
  trust: Fraction,
): ComparedMeasure {
  const of = (shape: Decibels | null) => measured("elementTone", null, null, isThere ? shape : null);
  if (inBars)
    return of(shapeOf(Array.from(inBars.gap, (gap, b) => ({ gap, weight: shares[b]! * inBars.weight[b]! }))));
  const present = through.kind === "range" ? null : bandsOf(powers);
  const average = of(
    shapeOf(
      gapCurve(powers[0], powers[1], 0, 12).map(({ gap, weight }, b) => ({
        gap,
        weight: weight > 0 ? shares[b]! * (present?.[b] ?? 1) : 0,
      })),
    ),
  );
  return through.kind === "lens" ? withError(average, errorOf(toneOnAverage, trust)) : average;
}

/** Bands of a spectrum that lie within a range. */
const within = ({ mid, side, cross }: Spectrum, shares: Float64Array): Spectrum => {
  const cut = (powers: Float32Array) => powers.map((power, b) => power * shares[b]!);
  return { mid: cut(mid), side: cut(side), cross: cut(cross) };
};

function comparedImage({ spectra, shares }: Heard): ComparedAspect<ElementAspect> {
  const [ours, theirs] = spectra.map((own) => within(own, shares)) as [Spectrum, Spectrum];
  const [own, other] = [stereoOfWhole(ours), stereoOfWhole(theirs)];
  return elementAspect("width", 0.5, [
    measured("elementWidth", heardWidth(own.sideToMidDb), heardWidth(other.sideToMidDb)),
    measured("elementBalance", own.balanceDb, other.balanceDb),
  ]);
}

/** Narrower than that a part is as good as mono: what others left in it is wider than it is itself. */
const narrowest: Decibels = -15;
const widest: Decibels = 6;
const heardWidth = (sideToMid: Decibels | null): Decibels | null =>
  sideToMid === null ? null : max(narrowest, min(widest, sideToMid));

const comparedPresence = (bars: ComparedBars | null): ComparedAspect<ElementAspect> =>
  elementAspect("presence", 1, [
    shared("presence", bars?.presence.share, "It hardly stands free, or no bars answer each other."),
  ]);

const comparedMovement = (bars: ComparedBars | null): ComparedAspect<ElementAspect> => {
  const remark = "Too few bars in which both play it and it stands free.";
  const of = (name: "toneMovement" | "levelMovement", gap: number | null | undefined) =>
    measured(name, null, null, gap ?? null, typeof gap === "number" ? undefined : remark);
  return elementAspect("movement", 0.5, [
    of("toneMovement", bars?.movement.tone),
    of("levelMovement", bars?.movement.level),
  ]);
};

const comparedSpace = (bars: ComparedBars | null): ComparedAspect<ElementAspect> =>
  elementAspect("space", 0.5, [
    typeof bars?.space === "number"
      ? measured("elementSpace", null, null, bars.space)
      : measured("elementSpace", null, null, null, "Too few bars in which both play it and it stands free."),
  ]);

const isStruck = (part: LensPart): boolean => part !== "bass" && part !== "music";

/** What others leave in a part that stands less free lasts longer than its strokes. */
const leastFreeStrokes: Decibels = 2;

function comparedEnvelope({ strokes: [ours, theirs], through }: Heard): ComparedAspect<ElementAspect> {
  const isFree = through.kind === "lens" && through.freeDb >= leastFreeStrokes;
  const octaves = isFree && ours && theirs ? Math.log2(theirs / ours) : null;
  const remark = isFree
    ? "Its strokes follow one another too closely."
    : "It does not stand free enough for how its strokes decay.";
  return elementAspect("envelope", 0.5, [
    octaves === null
      ? measured("strokeLength", null, null, null, remark)
      : measured("strokeLength", ours, theirs, octaves),
  ]);
}

/**
 * What filters, codecs and other parts alone change: about as many beats of the same recording are heard
 * with another chord (bench "Same sound").
 */
const chordsMisheard: Fraction = 0.06;

/**
 * Further aspects of parts, from how their hits, notes and chords compare.
 *
 * @param chordOverlap share of the beats on which both have the same chord; null where that is not known.
 */
export const partAspects =
  (
    drums: ((part: DrumPart, silent: readonly number[]) => DrumGaps | null) | null,
    low: LowGaps | null,
    chordOverlap: Fraction | null = null,
  ) =>
  (part: LensPart, silent: readonly number[]): ComparedAspect<ElementAspect>[] => {
    if (part === "music") {
      const common = chordOverlap === null ? null : min(1, chordOverlap + chordsMisheard);
      return [
        elementAspect("chords", 1, [
          shared("chords", common, "One side has no chords that could be held against the other's."),
        ]),
      ];
    }
    if (part === "bass")
      return [
        elementAspect("notes", 1, comparedBass(low)),
        elementAspect("timing", 0.5, [comparedBassTiming(low)]),
      ];
    const own = drums?.(part, silent) ?? null;
    return [
      elementAspect("pattern", 1, [comparedPattern(own)]),
      elementAspect("timing", 0.5, [comparedTiming(own)]),
      elementAspect("accents", 0.5, [comparedAccents(own)]),
    ];
  };

/** Bands this far below a part's loudest hold what others left in it. */
const quietest: Decibels = 36;

/** Which bands a part has on either side, 0 or 1 each. */
function bandsOf(powers: readonly [Float32Array, Float32Array]): Float64Array {
  const least = powers.map((own) => own.reduce((a, b) => max(a, b), 0) * decibelsToPower(-quietest));
  return Float64Array.from(powers[0], (own, band) =>
    own > least[0]! || powers[1][band]! > least[1]! ? 1 : 0,
  );
}
