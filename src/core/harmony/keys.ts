/** Keys: their names and notes, chords in them, and how they lie to one another. */
import { chordQualities, type Chord } from "./chords";
import {
  asPitchClass,
  nearestShift,
  noteName,
  otherName,
  readNote,
  type PitchClass,
  type Spelling,
} from "./notes";

export type Mode = "major" | "minor";

export interface Key {
  tonic: PitchClass;
  mode: Mode;
}

/** Semitones of the scale above the tonic; minor is natural minor. */
export const scaleIntervals: Record<Mode, readonly number[]> = {
  major: [0, 2, 4, 5, 7, 9, 11],
  minor: [0, 2, 3, 5, 7, 8, 10],
};

/** All keys, by tonic, major before minor. */
export const allKeys: readonly Key[] = Array.from({ length: 24 }, (_, i) => ({
  tonic: i >> 1,
  mode: i % 2 === 0 ? "major" : "minor",
}));

/** The major key with the same notes. */
const relativeMajor = ({ tonic, mode }: Key): PitchClass =>
  mode === "major" ? tonic : asPitchClass(tonic + 3);

/** How the black keys of a key are usually written: by the signature with fewer accidentals. */
export const spellingOf = (key: Key): Spelling =>
  [1, 3, 5, 8, 10].includes(relativeMajor(key)) ? "flats" : "sharps";

/** The accidentals of a key's signature, −5 to 6: sharps above 0, flats below. */
export const keySignatureOf = (key: Key): number =>
  // Fifths up from C, with the fewest accidentals; of six, sharps, as such a key is spelt.
  ((7 * relativeMajor(key) + 5) % 12) - 5;

/** `F♯ minor`. */
export const keyName = (key: Key, spelling: Spelling = spellingOf(key)): string =>
  `${noteName(key.tonic, spelling)} ${key.mode}`;

/** The same key under its other name, where its tonic is a black key: `G♭ minor`. */
export function otherKeyName(key: Key): string | null {
  const other = otherName(key.tonic, spellingOf(key));
  return other && `${other} ${key.mode}`;
}

export const sameKey = (a: Key, b: Key): boolean => a.tonic === b.tonic && a.mode === b.mode;

/** Names of the notes of the scale from the tonic up. */
export const scaleNames = (key: Key, spelling: Spelling = spellingOf(key)): string[] =>
  scaleIntervals[key.mode].map((interval) => noteName(key.tonic + interval, spelling));

/**
 * Reads a key as people and tags write it: `F# minor`, `F♯m`, `Bb`, `A maj`, `gis`-like names not.
 *
 * @returns null where it is no key.
 */
export function readKey(text: string): Key | null {
  const found = /^\s*([A-Ga-g](?:[#♯b♭])?)\s*:?\s*(m|min|minor|maj|major|M|)\s*$/.exec(text);
  if (!found) return null;
  const tonic = readNote(found[1]!)!;
  return { tonic, mode: ["m", "min", "minor"].includes(found[2]!) ? "minor" : "major" };
}

const numerals = ["I", "II", "III", "IV", "V", "VI", "VII"];
const numeralSuffix: Partial<Record<Chord["quality"], string>> = {
  "7": "7",
  maj7: "maj7",
  min7: "7",
  sus2: "sus2",
  sus4: "sus4",
  dim: "°",
  aug: "+",
  "5": "5",
};

/**
 * A chord as a degree of a key: capitals where its third is major, small letters where it is minor.
 * In minor the degrees are those of natural minor, so that its usual loop reads i – VI – III – VII;
 * notes outside the scale are written against the degree below or above, whichever is nearer to a
 * flat: ♭II, ♯iv.
 */
export function romanNumeral(chord: Chord | null, key: Key): string {
  if (!chord) return "–";
  const scale = scaleIntervals[key.mode];
  const above = asPitchClass(chord.root - key.tonic);
  let degree = scale.indexOf(above);
  let sign = "";
  if (degree < 0) {
    // The tritone and, in minor, the leading note and the sixth of the major scale are raised.
    const raised = above === 6 || (key.mode === "minor" && (above === 11 || above === 9 || above === 4));
    sign = raised ? "♯" : "♭";
    degree = scale.indexOf(asPitchClass(above + (raised ? -1 : 1)));
  }
  const intervals: readonly number[] = chordQualities[chord.quality].intervals;
  const numeral = intervals.includes(3) ? numerals[degree]!.toLowerCase() : numerals[degree]!;
  return `${sign}${numeral}${numeralSuffix[chord.quality] ?? ""}`;
}

/** How a second key lies to a first. */
export type KeyRelation =
  | { kind: "same" | "relative" | "parallel" }
  | { kind: "fifth"; direction: "above" | "below" }
  | { kind: "apart" };

/**
 * How a key is related to another, with the shift that makes it the same in tonic (−5 … 6
 * semitones) and, of another mode, the shift to the relative.
 */
export function relationOf(reference: Key, version: Key): KeyRelation & { semitones: number } {
  const semitones = nearestShift(reference.tonic, version.tonic);
  const sameMode = reference.mode === version.mode;
  const relation: KeyRelation =
    sameMode && semitones === 0
      ? { kind: "same" }
      : !sameMode && relativeMajor(reference) === relativeMajor(version)
        ? { kind: "relative" }
        : !sameMode && semitones === 0
          ? { kind: "parallel" }
          : sameMode && semitones === -5
            ? { kind: "fifth", direction: "above" }
            : sameMode && semitones === 5
              ? { kind: "fifth", direction: "below" }
              : { kind: "apart" };
  return { ...relation, semitones };
}

const plural = (semitones: number) =>
  `${Math.abs(semitones)} semitone${Math.abs(semitones) === 1 ? "" : "s"} ${semitones > 0 ? "up" : "down"}`;

/** How the recreation's key lies to the reference's, in a sentence. */
export function relationSentence(reference: Key, version: Key): string {
  const relation = relationOf(reference, version);
  const own = keyName(version);
  switch (relation.kind) {
    case "same":
      return `Both are in ${own}.`;
    case "relative":
      return `Yours reads as ${own}, the relative of ${keyName(reference)}: the same notes, another home.`;
    case "parallel":
      return `Yours is in ${own}, the same tonic as ${keyName(reference)} in the other mode.`;
    case "fifth":
      return `Yours is in ${own}, a fifth ${relation.direction} ${keyName(reference)} (${plural(relation.semitones)}).`;
    default: {
      const toRelative = nearestShift(relativeMajor(reference), relativeMajor(version));
      const same = reference.mode === version.mode;
      return same
        ? `Yours is in ${own}, ${plural(relation.semitones)} from ${keyName(reference)}.`
        : `Yours is in ${own}; its notes are those of ${keyName(reference)} ${plural(toRelative)}.`;
    }
  }
}

/** What a sample in one key must do to sit in another. */
export interface KeyShift {
  /** Semitones the shorter way, −5 … 6. */
  semitones: number;
  /** The other way round the octave; null where nothing is to do. */
  otherWay: number | null;
}

/**
 * Semitones that bring music from one key into another. Keys of unlike mode are brought to the same
 * notes: E minor sits in G major as it is.
 */
export function shiftInto(from: Key, to: Key): KeyShift {
  const semitones =
    from.mode === to.mode
      ? nearestShift(from.tonic, to.tonic)
      : nearestShift(relativeMajor(from), relativeMajor(to));
  return { semitones, otherWay: semitones === 0 ? null : semitones > 0 ? semitones - 12 : semitones + 12 };
}
