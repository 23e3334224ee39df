/** Elements of two tracks held against each other, through the lens or a frequency range. */
import type { LensMeasures } from "../lens/lensMeasures";
import type { DrumPart, LensPart } from "../lens/parts";
import type { ComparedPresence } from "../lens/presence";
import { gapCurve, rootMeanSquareGap, shareOfBands, wholeOf } from "../tone";
import {
  decibelsToPower,
  powerToDecibels,
  type Decibels,
  type Fraction,
  type Hertz,
  type Percent,
} from "../units";
import type { TrackMeasures } from "./compare";
import { aspectOf, measured, shared, type ComparedAspect } from "./compared";
import { comparedAccents, comparedPattern, comparedTiming, type DrumGaps } from "./drumGaps";
import { comparedBass, type LowGaps } from "./lowGaps";
import type { ElementAspect } from "./measures";
import { weightedMean } from "./score";

const { max, min } = Math;

/** What the lens has lifted out of both sides. */
export interface LensPair {
  reference: LensMeasures;
  version: LensMeasures;
  /** Where each part plays on both sides; null where they have no bars that answer each other. */
  presence: Record<LensPart, ComparedPresence> | null;
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
  /** Where only one side plays it; null where that is not known. */
  presence: ComparedPresence | null;
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
    const presence = through.kind === "lens" ? (lens?.presence?.[part!] ?? null) : null;
    return { aspects, score: weightedMean(aspects), through, trust, presence };
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
      aspectOf<ElementAspect>("pattern", 1, [comparedPattern(own)]),
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
