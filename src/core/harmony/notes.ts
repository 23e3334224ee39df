/** Note names. Plain names are used: A♯ C♯ F rather than A♯ C♯ E♯; nobody needs a double accidental. */

/** 0 = C … 11 = B. */
export type PitchClass = number;

/** Whether the black keys are written as sharps or as flats. */
export type Spelling = "sharps" | "flats";

const sharps = ["C", "C♯", "D", "D♯", "E", "F", "F♯", "G", "G♯", "A", "A♯", "B"] as const;
const flats = ["C", "D♭", "D", "E♭", "E", "F", "G♭", "G", "A♭", "A", "B♭", "B"] as const;

/** A pitch class from any whole number of semitones. */
export const asPitchClass = (semitones: number): PitchClass => ((semitones % 12) + 12) % 12;

/** The name of a pitch class for people, e.g. `F♯` or `G♭`. */
export const noteName = (pitchClass: PitchClass, spelling: Spelling = "sharps"): string =>
  (spelling === "sharps" ? sharps : flats)[asPitchClass(pitchClass)]!;

/** The other name of a black key, null for a white one. */
export function otherName(pitchClass: PitchClass, spelling: Spelling): string | null {
  const other = noteName(pitchClass, spelling === "sharps" ? "flats" : "sharps");
  return other === noteName(pitchClass, spelling) ? null : other;
}

/** The name in plain letters as files and the command line have it: `F#`, `Bb`. */
export const plainName = (pitchClass: PitchClass, spelling: Spelling = "sharps"): string =>
  noteName(pitchClass, spelling).replace("♯", "#").replace("♭", "b");

const letters: Record<string, PitchClass> = { C: 0, D: 2, E: 4, F: 5, G: 7, A: 9, B: 11 };

/** Any number of sharps or flats after a letter. */
export const notePattern = "[A-Ga-g](?:[#♯]+|[b♭]+)?";

/**
 * Reads a note name: a letter and any number of sharps (# or ♯) or flats (b or ♭).
 *
 * @returns null where it is no note.
 */
export function readNote(text: string): PitchClass | null {
  if (!new RegExp(`^${notePattern}$`).test(text)) return null;
  const signs = [...text.slice(1)];
  const up = signs.filter((sign) => sign === "#" || sign === "♯").length;
  return asPitchClass(letters[text[0]!.toUpperCase()]! + up - (signs.length - up));
}

/** Semitones from one pitch class to another the shorter way, −5 … 6. */
export const nearestShift = (from: PitchClass, to: PitchClass): number => {
  const up = asPitchClass(to - from);
  return up > 6 ? up - 12 : up;
};

/** Frequency of a MIDI pitch, fractions too (ISO 16: A4 = 440 Hz is pitch 69). */
export const hertzOfPitch = (midi: number): number => 440 * 2 ** ((midi - 69) / 12);

/** A MIDI pitch with its octave, middle C being C4 (ISO 16: A4 = 440 Hz is pitch 69). */
export const pitchName = (pitch: number, spelling: Spelling = "sharps"): string =>
  `${noteName(pitch, spelling)}${Math.floor(pitch / 12) - 1}`;
