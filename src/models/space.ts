/** What the Stereo view shows of places between left and right, of space and of texture. */
import { voiceNames } from "@/core/drums";
import {
  spaceGaps,
  spaceRanges,
  sustainedRanges,
  type Positions,
  type Space,
  type Texture,
} from "@/core/envelopes";
import { measureRules, type MixAspect, type TrackMeasures } from "@/core/match";
import { bandLimits, wholeOf, type BandLimits, type Wobble } from "@/core/tone";
import { fixed, frequency } from "./format";

/** Where something sits on both sides, −1 left … 1 right; null where it is not heard. */
export interface PlaceRow {
  name: string;
  reference: number | null;
  version: number | null;
  /** Hits of the side that has fewer; null for held sounds. */
  hits: number | null;
}

export interface SpaceRow {
  low: number;
  high: number;
  reference: Space["ranges"][number];
  version: Space["ranges"][number];
  /** Fuller gaps (+) or emptier ones (−), dB. */
  gapDb: number | null;
}

/** One measure of texture on both sides, with how surely it is known, 0–1. */
export interface TextureRow {
  key: string;
  name: string;
  unit: "dB" | "Hz" | "cents";
  reference: number | null;
  version: number | null;
  confidence: number;
  /** Null where both are alike. */
  words: string | null;
}

export interface SpaceModel {
  score: number | null;
  places: PlaceRow[];
  space: SpaceRow[];
  texture: TextureRow[];
}

const placesOf = (reference: Positions, version: Positions): PlaceRow[] => {
  const voices = [...new Set([...reference.voices, ...version.voices].map(({ voice }) => voice))];
  return [
    ...voices.map((voice) => {
      const [ours, theirs] = [reference, version].map((side) =>
        side.voices.find((own) => own.voice === voice),
      );
      return {
        name: voiceNames[voice],
        reference: ours?.position ?? null,
        version: theirs?.position ?? null,
        hits: Math.min(ours?.hits ?? Infinity, theirs?.hits ?? Infinity),
      };
    }),
    ...sustainedRanges.map(({ name }, i) => ({
      name: `${name}, held`,
      reference: reference.sustained[i]!,
      version: version.sustained[i]!,
      hits: null,
    })),
  ];
};

/** Differences that are worth a word, and how sure one must be. */
const leastConfidence = 0.5;

function textureOf(
  reference: Texture,
  version: Texture,
  limits: Record<"reference" | "version", BandLimits | null>,
): TextureRow[] {
  const both = Math.min(reference.floorConfidence, version.floorConfidence);
  const brightening = Math.min(reference.brighteningConfidence, version.brighteningConfidence);
  const differs = (a: number | null, b: number | null, least: number) =>
    a !== null && b !== null && Math.abs(b - a) >= least;
  const octavesApart = (a: number | undefined, b: number | undefined) =>
    a === undefined || b === undefined ? 0 : Math.log2(b / a);
  const top = octavesApart(limits.reference?.high, limits.version?.high);
  const bottom = octavesApart(limits.reference?.low, limits.version?.low);
  return [
    {
      key: "high",
      name: "Carries up to",
      unit: "Hz",
      reference: limits.reference?.high ?? null,
      version: limits.version?.high ?? null,
      confidence: 1,
      words:
        Math.abs(top) < 0.34
          ? null
          : top < 0
            ? "the top is cut off: look for a low-pass or a coded sample"
            : "the reference is low-passed; yours goes on",
    },
    {
      key: "low",
      name: "Carries from",
      unit: "Hz",
      reference: limits.reference?.low ?? null,
      version: limits.version?.low ?? null,
      confidence: 1,
      words:
        Math.abs(bottom) < 0.5
          ? null
          : bottom > 0
            ? "less low end than the reference carries"
            : "goes lower than the reference",
    },
    {
      key: "hiss",
      name: "Quietest moments above 5 kHz",
      unit: "dB",
      reference: reference.hissDb,
      version: version.hissDb,
      confidence: both,
      words:
        !differs(reference.hissDb, version.hissDb, 3) || both < leastConfidence
          ? null
          : version.hissDb! > reference.hissDb!
            ? "more hiss, or highs that never stop"
            : "the reference has hiss under it, yours has less",
    },
    {
      key: "floor",
      name: "Quietest moments, all bands",
      unit: "dB",
      reference: reference.floorDb,
      version: version.floorDb,
      confidence: both,
      words: null,
    },
    {
      key: "brightening",
      name: "Brighter where louder",
      unit: "dB",
      reference: reference.brighteningDb,
      version: version.brighteningDb,
      confidence: brightening,
      words:
        !differs(reference.brighteningDb, version.brighteningDb, 3) ||
        brightening < leastConfidence ||
        // Where both grow darker it is how they are played.
        Math.max(reference.brighteningDb!, version.brighteningDb!) <= 0
          ? null
          : version.brighteningDb! > reference.brighteningDb!
            ? "more harmonics with level than the reference: less drive"
            : "the reference gains harmonics with level: drive it more",
    },
  ];
}

/** Straying less than this is not heard. From memory, no source. */
const leastWobble = 5;

const wobbleRow = ({ reference, version }: Record<"reference" | "version", Wobble | null>): TextureRow => {
  const [ours, theirs] = [reference?.depthCents ?? 0, version?.depthCents ?? 0];
  const confidence = Math.min(reference?.confidence ?? 0, version?.confidence ?? 0);
  const differs = Math.abs(theirs - ours) >= leastWobble && confidence >= leastConfidence;
  return {
    key: "wobble",
    name: "Wobble of pitch, whole file",
    unit: "cents",
    reference: reference?.depthCents ?? null,
    version: version?.depthCents ?? null,
    confidence,
    words: !differs
      ? null
      : theirs > ours
        ? `pitch wobbles, ${fixed(version!.rateHz)} times a second`
        : `the reference wobbles like tape, ${fixed(reference!.rateHz)} times a second`,
  };
};

export function spaceModel(
  reference: TrackMeasures,
  version: TrackMeasures,
  aspects: readonly { name: MixAspect; score: number | null }[],
  wobble: Record<"reference" | "version", Wobble | null>,
): SpaceModel {
  const [ours, theirs] = [reference.envelopes, version.envelopes];
  const gaps = spaceGaps(ours.space, theirs.space);
  return {
    score: aspects.find(({ name }) => name === "space")?.score ?? null,
    places: placesOf(ours.positions, theirs.positions),
    space: spaceRanges.map(({ low, high }, i) => ({
      low,
      high,
      reference: ours.space.ranges[i]!,
      version: theirs.space.ranges[i]!,
      gapDb: gaps[i]!,
    })),
    texture: textureOf(ours.texture, theirs.texture, {
      reference: bandLimits(wholeOf(reference.spectrum)),
      version: bandLimits(wholeOf(version.spectrum)),
    }).concat(wobbleRow(wobble)),
  };
}

/** Decays shorter than this are short; those cut off this often are gated. */
const longDecay = 1.2;
const shortDecay = 0.4;
const oftenGated = 0.6;
/** A kind of decay is spoken of where so many are heard. */
const fewestDecays = 12;

/** What kind of decay a range has; null where too few are heard. */
export const decayWords = ({ decaySeconds, gated }: SpaceRow["reference"]): string | null =>
  decaySeconds === null
    ? null
    : gated > oftenGated
      ? "gated"
      : decaySeconds >= longDecay
        ? "long"
        : decaySeconds <= shortDecay
          ? "short"
          : "middling";

/** What to do about space, the plainest first. */
export function spaceSentences({ space }: SpaceModel): string[] {
  const least = measureRules.reverberance.justNoticeable;
  const range = ({ low, high }: SpaceRow) => `${frequency(low)} to ${frequency(high)}`;
  const sentences = space
    .filter(({ gapDb }) => gapDb !== null && Math.abs(gapDb) >= least)
    .sort((a, b) => Math.abs(b.gapDb!) - Math.abs(a.gapDb!))
    .map((row) =>
      row.gapDb! > 0
        ? `${range(row)}: gaps ${fixed(row.gapDb)} dB fuller. Less or shorter reverberation, or fewer held notes.`
        : `${range(row)}: gaps ${fixed(-row.gapDb!)} dB emptier. More room, or longer notes.`,
    );
  for (const row of space) {
    const [ours, theirs] = [decayWords(row.reference), decayWords(row.version)];
    if (Math.min(row.reference.decays, row.version.decays) < fewestDecays) continue;
    if (
      ours &&
      theirs &&
      ours !== theirs &&
      (ours === "gated" || theirs === "gated" || ours === "long" || theirs === "long")
    )
      sentences.push(`${range(row)}: decays are ${theirs}, the reference's ${ours}.`);
  }
  return sentences;
}

/** A voice or a range of held sounds this far from its place is said. */
const leastMove = 0.15;
/** Kick, bass and snare belong in the middle, within this. Common practice, no source. */
const middle = 0.08;
/** Some hits of a voice may be others that were taken for it; so many are not. */
const fewestHits = 20;
const centred = [voiceNames.kick, voiceNames.snare, "Bass, held"];

const placeWords = (position: number): string =>
  Math.abs(position) < 0.05
    ? "in the middle"
    : `${Math.round(100 * Math.abs(position))} % ${position < 0 ? "left" : "right"}`;

/** What sits elsewhere than in the reference, and what is off centre. */
export function placeSentences({ places }: SpaceModel): { key: string; text: string; isWarning: boolean }[] {
  return places.flatMap(({ name, reference, version, hits }) => {
    if (version === null || (hits !== null && hits < fewestHits)) return [];
    const isOff =
      centred.includes(name) &&
      Math.abs(version) > middle &&
      Math.abs(reference ?? 0) < Math.abs(version) - 0.04;
    if (!isOff && (reference === null || Math.abs(version - reference) < leastMove)) return [];
    return [
      {
        key: name,
        text: `${name} ${placeWords(version)}${reference === null ? "" : `, the reference's ${placeWords(reference)}`}${isOff ? ": it belongs in the middle" : ""}.`,
        isWarning: isOff,
      },
    ];
  });
}
