/** Elements of two tracks held against each other, through the lens or a frequency range. */
import type { LensMeasures } from "../lens/lensMeasures";
import { lensParts, type DrumPart, type LensPart } from "../lens/parts";
import type { Covering } from "../lens/covering";
import type { LevelInBars } from "../lens/levelInBars";
import type { ComparedMovement } from "../lens/movement";
import type { ComparedPresence } from "../lens/presence";
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
import {
  measured,
  scoreRange,
  shared,
  withError,
  type ComparedAspect,
  type ComparedMeasure,
} from "./compared";
import { comparedAccents, comparedPattern, comparedTiming, type DrumGaps } from "./drumGaps";
import { comparedBass, type LowGaps } from "./lowGaps";
import type { ElementAspect, MeasureName } from "./measures";
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
  movement: ComparedMovement;
  /** What covers it more than in the reference. */
  coverings: Covering[];
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
  /** By how many points that may be off, either way, by how exactly it was measured; 0 where that is not known. */
  spread: Percent | null;
  /** How it was heard: through the lens, with how free it stands on the side where it stands less free. */
  through: { kind: "lens"; freeDb: Decibels } | { kind: "range" };
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

/** A part that stands free by so much is measured as if it were alone; */
const fullyFree: Decibels = 10;
/** one that does not counts at least this much. */
const leastTrust = 0.25;

/** What is compared of an element, and within which bands. */
interface Heard {
  spectra: readonly [reference: Spectrum, version: Spectrum];
  shares: Float64Array;
  through: ComparedElement["through"];
  /** Until a stroke is 10 dB down; null where it is not a drum or cannot be told. */
  strokes: readonly [reference: Milliseconds | null, version: Milliseconds | null];
}

/** Elements that the lens lifts out as one, or that are layers of one, are told apart by their range. */
const isShared = (part: LensPart, all: readonly Focus[]): boolean =>
  part === "music" || all.filter(({ lens }) => lens === part).length > 1;

const everything = shareOfBands(10, 22_000);

function heardOf(
  { lens: part, fromHz, toHz }: Focus,
  lens: LensPair | null,
  mixes: Heard["spectra"],
  all: readonly Focus[],
): Heard {
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
  const mixes = [reference.spectrum, version.spectrum] as const;
  const louder = louderBy(reference, version);
  const common = lens && louder !== null ? commonGap(lens, louder) : louder;
  return elements.map((focus) => {
    const part = focus.lens;
    const heard = heardOf(focus, lens, mixes, elements);
    const { spectra, shares, through } = heard;
    const powers = spectra.map(wholeOf) as [Float32Array, Float32Array];
    const isLifted = through.kind === "lens";
    const bars = isLifted ? (lens?.bars?.[part!] ?? null) : null;
    const trust = isLifted ? trustIn(through.freeDb) : 1;
    const level = levelOf(
      powers.map((own) => focusLevel(own, shares)) as [Decibels, Decibels],
      part && !isShared(part, elements) ? (bars?.level ?? null) : null,
      reference.loudness.integratedLufs,
      isLifted ? common : louder,
    );
    const present = isLifted ? bandsOf(powers) : null;
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
    const own = part && part !== "music" ? ofPart?.(part) : undefined;
    const measuredAspects = [
      elementAspect("level", 1, [level]),
      elementAspect("tone", 1, [measured("elementTone", null, null, shape)]),
      ...(isLifted ? [comparedImage(heard), comparedPresence(bars), comparedMovement(bars)] : []),
      ...(isLifted && isStruck(part!) ? [comparedEnvelope(heard)] : []),
      ...(own ?? []),
    ];
    const aspects = isLifted ? measuredAspects.map((aspect) => withErrors(aspect, trust)) : measuredAspects;
    return { aspects, score: elementScore(aspects), spread: spreadOf(aspects), through, trust, bars };
  });
}

const elementAspect = (
  name: ElementAspect,
  weight: number,
  measures: ComparedMeasure[],
): ComparedAspect<ElementAspect> => ({
  name,
  weight,
  measures,
  score: elementScore(measures.map(({ score }) => ({ score, weight: 1 }))),
});

/**
 * How far gaps through the lens are off: the median of what was found where nothing differs, of parts that
 * stand free and of parts that hardly do (`npm run bench -- --only elements`, "One change in one element").
 */
const measuringErrors: Partial<Record<MeasureName, { free: number; hardly: number }>> = {
  elementLevel: { free: 0.3, hardly: 1 },
  elementTone: { free: 1.3, hardly: 2.8 },
  elementWidth: { free: 0.5, hardly: 1.2 },
  brightnessMovement: { free: 0.05, hardly: 0.4 },
  levelMovement: { free: 0.5, hardly: 2 },
  strokeLength: { free: 0.2, hardly: 0.5 },
};

function withErrors(
  { name, weight, measures }: ComparedAspect<ElementAspect>,
  trust: Fraction,
): ComparedAspect<ElementAspect> {
  const known = measures.map((measure) => {
    const error = measuringErrors[measure.name];
    const share = (trust - leastTrust) / (1 - leastTrust);
    return error ? withError(measure, error.hardly + share * (error.free - error.hardly)) : measure;
  });
  return elementAspect(name, weight, known);
}

/** By how many points a score may as well be off: what each measure's error moves it by, added as chance adds. */
function spreadOf(aspects: readonly ComparedAspect<ElementAspect>[]): Percent | null {
  const own = elementScore(aspects);
  if (own === null) return null;
  let squares = 0;
  aspects.forEach((aspect, i) =>
    aspect.measures.forEach((measure, k) => {
      const range = scoreRange(measure);
      if (!range || range[0] === range[1]) return;
      const [low, high] = range.map((score) => {
        const measures = aspect.measures.map((one, j) => (j === k ? { ...one, score } : one));
        const changed = elementAspect(aspect.name, aspect.weight, measures);
        return elementScore(aspects.map((one, j) => (j === i ? changed : one)))!;
      }) as [Percent, Percent];
      squares += ((high - low) / 2) ** 2;
    }),
  );
  return Math.sqrt(squares);
}

const trustIn = (freeDb: Decibels): Fraction => max(leastTrust, min(1, freeDb / fullyFree));

/** By how much the version is louder in all; null where one is silent. */
const louderBy = (reference: TrackMeasures, version: TrackMeasures): Decibels | null =>
  reference.loudness.integratedLufs === null || version.loudness.integratedLufs === null
    ? null
    : version.loudness.integratedLufs - reference.loudness.integratedLufs;

/** Of fewer parts nobody knows which was turned up: then the loudness of the whole tells. */
const fewestInCommon = 3;

/**
 * By how much the parts of the version are louder in common: the median of what single parts are louder
 * by and the loudness of the whole. One part that is turned up makes the whole louder, but not the others softer.
 */
function commonGap({ reference, version, bars }: LensPair, louder: Decibels): Decibels {
  const votes = [{ gap: louder, weight: 0.5 }];
  for (const part of lensParts) {
    const own = bars?.[part].level;
    const [ours, theirs] = [reference[part].freeDb, version[part].freeDb];
    if (own && ours !== null && theirs !== null)
      votes.push({ gap: own.gap, weight: trustIn(min(ours, theirs)) });
  }
  if (votes.length <= fewestInCommon) return louder;
  votes.sort((a, b) => a.gap - b.gap);
  const half = votes.reduce((sum, { weight }) => sum + weight, 0) / 2;
  let below = 0;
  for (const [i, { gap, weight }] of votes.entries()) {
    // Between two of them where as much lies on either side.
    if (below + weight === half) return (gap + votes[i + 1]!.gap) / 2;
    below += weight;
    if (below > half) return gap;
  }
  return louder;
}

/**
 * @param levels of both sides, over all that is compared.
 * @param inBars the same bar against bar; null where that is not known.
 * @param louder by how much the version is louder in common; null where one side is silent.
 */
function levelOf(
  [ours, theirs]: readonly [Decibels, Decibels],
  inBars: LevelInBars | null,
  lufs: number | null,
  louder: Decibels | null,
): ComparedMeasure {
  const [own, gap] = inBars ? [inBars.reference, inBars.gap] : [ours, theirs - ours];
  const known = lufs !== null && louder !== null && Number.isFinite(own) && Number.isFinite(gap);
  return known
    ? measured("elementLevel", own - lufs, own - lufs + gap - louder)
    : measured("elementLevel", null, null);
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
  const of = (name: "brightnessMovement" | "levelMovement", gap: number | null | undefined) =>
    measured(name, null, null, gap ?? null, typeof gap === "number" ? undefined : remark);
  return elementAspect("movement", 0.5, [
    of("brightnessMovement", bars?.movement.brightness),
    of("levelMovement", bars?.movement.level),
  ]);
};
const isStruck = (part: LensPart): boolean => part !== "bass" && part !== "music";

function comparedEnvelope({ strokes: [ours, theirs] }: Heard): ComparedAspect<ElementAspect> {
  const octaves = ours && theirs ? Math.log2(theirs / ours) : null;
  const remark = "Its strokes follow one another too closely, or too few stand free.";
  return elementAspect("envelope", 0.5, [
    measured("strokeLength", ours, theirs, octaves, octaves === null ? remark : undefined),
  ]);
}

/** Further aspects of drums and of the bass, from how their hits and notes compare. */
export const partAspects =
  (drums: ((part: DrumPart) => DrumGaps | null) | null, low: LowGaps | null) =>
  (part: LensPart): ComparedAspect<ElementAspect>[] => {
    if (part === "music") return [];
    if (part === "bass") return [elementAspect("notes", 1, comparedBass(low))];
    const own = drums?.(part) ?? null;
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
