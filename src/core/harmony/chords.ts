/** Chords: what they are made of, and how they are written and read. */
import {
  asPitchClass,
  noteName,
  notePattern,
  plainName,
  readNote,
  type PitchClass,
  type Spelling,
} from "./notes";

/** Every kind of chord that is told apart, by its name in Harte's syntax. */
export const chordQualities = {
  maj: { intervals: [0, 4, 7], suffix: "", says: "major" },
  min: { intervals: [0, 3, 7], suffix: "m", says: "minor" },
  "7": { intervals: [0, 4, 7, 10], suffix: "7", says: "seventh" },
  maj7: { intervals: [0, 4, 7, 11], suffix: "maj7", says: "major seventh" },
  min7: { intervals: [0, 3, 7, 10], suffix: "m7", says: "minor seventh" },
  sus2: { intervals: [0, 2, 7], suffix: "sus2", says: "suspended second" },
  sus4: { intervals: [0, 5, 7], suffix: "sus4", says: "suspended fourth" },
  dim: { intervals: [0, 3, 6], suffix: "dim", says: "diminished" },
  aug: { intervals: [0, 4, 8], suffix: "aug", says: "augmented" },
  "5": { intervals: [0, 7], suffix: "5", says: "power chord" },
} as const satisfies Record<string, { intervals: readonly number[]; suffix: string; says: string }>;

export type ChordQuality = keyof typeof chordQualities;
export const chordQualityNames = Object.keys(chordQualities) as ChordQuality[];

/** A chord; the bass is its root unless another note lies below. */
export interface Chord {
  root: PitchClass;
  quality: ChordQuality;
  bass: PitchClass;
}

/** Pitch classes of a chord from its root up. */
export const chordNotes = ({ root, quality }: Chord): PitchClass[] =>
  chordQualities[quality].intervals.map((interval) => asPitchClass(root + interval));

/** Semitone steps between neighbouring notes, e.g. 3 and 4 for a minor triad. */
export const chordSteps = ({ quality }: Chord): number[] => {
  const { intervals } = chordQualities[quality];
  return intervals.slice(1).map((interval, i) => interval - intervals[i]!);
};

/** A chord's name for people: `F♯m7`, `C/E`; `–` where no chord sounds. */
export function chordName(chord: Chord | null, spelling: Spelling = "sharps"): string {
  if (!chord) return "–";
  const bass = chord.bass === chord.root ? "" : `/${noteName(chord.bass, spelling)}`;
  return `${noteName(chord.root, spelling)}${chordQualities[chord.quality].suffix}${bass}`;
}

/** A chord in words: `F♯ minor seventh`. */
export const chordWords = (chord: Chord, spelling: Spelling = "sharps"): string =>
  `${noteName(chord.root, spelling)} ${chordQualities[chord.quality].says}`;

/** Degrees of the major scale in semitones, by their number in Harte's syntax. */
const degreeSemitones = [0, 2, 4, 5, 7, 9, 11];

/** The degree of an interval above the root, as Harte writes basses: `b3`, `5`, `b7`. */
const degreeNames = ["1", "b2", "2", "b3", "3", "4", "b5", "5", "b6", "6", "b7", "7"];

/**
 * A chord's label (Harte, Sandler, Abdallah & Gómez 2005, "Symbolic representation of musical
 * chords"): `F#:min7`, `C:maj/3`; `N` where no chord sounds.
 */
export function harteLabel(chord: Chord | null): string {
  if (!chord) return "N";
  const bass = chord.bass === chord.root ? "" : `/${degreeNames[asPitchClass(chord.bass - chord.root)]}`;
  return `${plainName(chord.root)}:${chord.quality}${bass}`;
}

/** Shorthands beyond our own kinds, with the nearest kind that is told apart. */
const wider: Record<string, ChordQuality> = {
  dim7: "dim",
  hdim7: "dim",
  minmaj7: "min",
  maj6: "maj",
  "6": "maj",
  min6: "min",
  "9": "7",
  "11": "7",
  "13": "7",
  maj9: "maj7",
  maj13: "maj7",
  min9: "min7",
  min11: "min7",
  min13: "min7",
  "1": "5",
  // As musicians write them.
  "": "maj",
  M: "maj",
  m: "min",
  "-": "min",
  m7: "min7",
  "-7": "min7",
  M7: "maj7",
  Δ: "maj7",
  m6: "min",
  m9: "min7",
  m7b5: "dim",
  major: "maj",
  minor: "min",
  add9: "maj",
  sus: "sus4",
  "°": "dim",
  o: "dim",
  ø: "dim",
  "+": "aug",
};

const isQuality = (text: string): text is ChordQuality => text in chordQualities;

/** Semitones of a degree such as `b3`, `#5`, `9`; null where it is none. */
function readDegree(text: string): number | null {
  const found = /^([b#]*)(\d{1,2})$/.exec(text);
  if (!found) return null;
  const number = Number(found[2]);
  if (number < 1 || number > 13) return null;
  const signs = [...found[1]!].reduce((sum, sign) => sum + (sign === "#" ? 1 : -1), 0);
  return degreeSemitones[(number - 1) % 7]! + 12 * Math.floor((number - 1) / 7) + signs;
}

/** The kind with the most notes in common with some intervals, none of its own missing. */
function qualityOf(intervals: ReadonlySet<number>): ChordQuality | null {
  const fitting = chordQualityNames.filter((name) =>
    chordQualities[name].intervals.every((interval) => intervals.has(interval)),
  );
  return fitting.reduce<ChordQuality | null>(
    (best, name) =>
      best && chordQualities[best].intervals.length >= chordQualities[name].intervals.length ? best : name,
    null,
  );
}

const harteForm = new RegExp(`^(${notePattern})(?::([a-z0-9]*)(?:\\(([^)]*)\\))?)?(?:/([b#]*\\d{1,2}))?$`);
const plainForm = new RegExp(`^(${notePattern})([^/]*)(?:/(${notePattern}))?$`);

/**
 * Reads a chord as it stands in annotations (`F#:min7/b3`, `C`, `C:(1,b3,5)`) or as musicians write
 * it (`F♯m7`, `C/E`). Kinds that are not told apart become the nearest that is.
 *
 * @returns the chord, null for no chord (`N`, `–`), or undefined where the text is no chord.
 */
export function readChord(text: string): Chord | null | undefined {
  const label = text.trim();
  if (["N", "X", "–", "-", "N.C."].includes(label)) return null;
  const harte = harteForm.exec(label);
  if (harte) {
    const root = readNote(harte[1]!)!;
    const shorthand = harte[2] ?? "";
    let quality = isQuality(shorthand) ? shorthand : wider[shorthand];
    if (harte[3] !== undefined && shorthand === "") {
      const degrees = harte[3].split(",").map((degree) => readDegree(degree.trim()));
      if (degrees.some((degree) => degree === null)) return undefined;
      quality = qualityOf(new Set([0, ...degrees.map((degree) => asPitchClass(degree!))])) ?? undefined;
    }
    if (!quality) return undefined;
    const bass = harte[4] === undefined ? 0 : readDegree(harte[4]);
    return bass === null ? undefined : { root, quality, bass: asPitchClass(root + bass) };
  }
  const plain = plainForm.exec(label);
  if (!plain) return undefined;
  const root = readNote(plain[1]!)!;
  const suffix = plain[2]!.trim();
  const lower = suffix.toLowerCase();
  const quality = isQuality(suffix) ? suffix : (wider[suffix] ?? (isQuality(lower) ? lower : wider[lower]));
  if (!quality) return undefined;
  return { root, quality, bass: plain[3] === undefined ? root : readNote(plain[3])! };
}

/** A chord moved by semitones. */
export const transposed = (chord: Chord | null, semitones: number): Chord | null =>
  chord && {
    ...chord,
    root: asPitchClass(chord.root + semitones),
    bass: asPitchClass(chord.bass + semitones),
  };

/** Whether two chords are the same, their basses left aside. */
export const sameChord = (a: Chord | null, b: Chord | null): boolean =>
  a === b || (a !== null && b !== null && a.root === b.root && a.quality === b.quality);

/**
 * Major or minor as the overlap of annotations counts it (MIREX 2013 "majmin" vocabulary as in
 * mir_eval, Raffel et al. 2014): chords by their third and fifth; null for no chord, undefined for
 * one that is neither major nor minor.
 */
export function majorOrMinor(chord: Chord | null): { root: PitchClass; minor: boolean } | null | undefined {
  if (!chord) return null;
  const intervals: readonly number[] = chordQualities[chord.quality].intervals;
  if (!intervals.includes(7)) return undefined;
  if (intervals.includes(4)) return { root: chord.root, minor: false };
  return intervals.includes(3) ? { root: chord.root, minor: true } : undefined;
}
