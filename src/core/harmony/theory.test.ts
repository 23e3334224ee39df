/**
 * Names of notes, chords and keys, and the arithmetic on them: against a general-purpose library of
 * music theory, and against examples worked by hand (common practice, no source).
 */
import { Chord as Library, Interval, Key as LibraryKey, Note, Progression, Scale } from "tonal";
import {
  chordName,
  chordNotes,
  chordQualities,
  chordQualityNames,
  chordSteps,
  harteLabel,
  majorOrMinor,
  readChord,
  transposed,
  type Chord,
} from "./chords";
import {
  allKeys,
  keyName,
  keySignatureOf,
  otherKeyName,
  readKey,
  relationOf,
  relationSentence,
  romanNumeral,
  scaleNames,
  shiftInto,
  spellingOf,
  type Key,
} from "./keys";
import { nearestShift, noteName, otherName, pitchName, plainName, readNote } from "./notes";

const key = (text: string): Key => readKey(text)!;
const chord = (text: string): Chord => readChord(text)!;
const plain = (name: string) => name.replace("♯", "#").replace("♭", "b");
const pitchClasses = Array.from({ length: 12 }, (_, i) => i);

describe("notes", () => {
  it("are named and read as the library has them", () => {
    for (const pitchClass of pitchClasses) {
      for (const spelling of ["sharps", "flats"] as const) {
        const name = plainName(pitchClass, spelling);
        expect(Note.chroma(name)).toBe(pitchClass);
        expect(readNote(name)).toBe(pitchClass);
        expect(readNote(noteName(pitchClass, spelling))).toBe(pitchClass);
        expect(otherName(pitchClass, spelling)).toBe(
          name.length === 1
            ? null
            : noteName(Note.chroma(Note.enharmonic(name)), spelling === "sharps" ? "flats" : "sharps"),
        );
      }
    }
    for (const name of ["Cb", "E#", "B#", "Fb", "Abb", "F##"]) expect(readNote(name)).toBe(Note.chroma(name));
    expect(readNote("H")).toBeNull();
  });

  it("have their octave as MIDI numbers them", () => {
    for (const pitch of [21, 36, 60, 69, 108])
      expect(plain(pitchName(pitch))).toBe(Note.fromMidiSharps(pitch));
  });

  it.each([
    ["E", "F#", 2],
    ["E", "G", 3],
    ["F#", "E", -2],
    ["C", "F#", 6],
    ["B", "C", 1],
    ["C", "A", -3],
  ])("from %s to %s are %i semitones the shorter way", (from, to, semitones) => {
    expect(nearestShift(readNote(from)!, readNote(to)!)).toBe(semitones);
  });
});

/** The library's names of our kinds. */
const libraryNames: Record<string, string> = { maj: "M", min: "m", min7: "m7", "5": "5" };

describe("chords", () => {
  it.each(chordQualityNames)(
    "of the kind %s have the notes that the library gives them, on every root",
    (quality) => {
      for (const root of pitchClasses) {
        const { notes } = Library.get(`${plainName(root)}${libraryNames[quality] ?? quality}`);
        expect(notes.length).toBeGreaterThan(1);
        expect(chordNotes({ root, quality, bass: root })).toEqual(notes.map((note) => Note.chroma(note)));
      }
    },
  );

  it.each(chordQualityNames)("of the kind %s are read back from both ways of writing", (quality) => {
    for (const root of pitchClasses) {
      for (const bass of [root, (root + 7) % 12]) {
        const own = { root, quality, bass };
        expect(readChord(harteLabel(own))).toEqual(own);
        for (const spelling of ["sharps", "flats"] as const)
          expect(readChord(chordName(own, spelling))).toEqual(own);
      }
    }
  });

  it.each([
    ["A♯ minor", "A#m", "A♯ C♯ F", [3, 4]],
    ["C major", "C", "C E G", [4, 3]],
    ["F♯ minor seventh", "F#m7", "F♯ A C♯ E", [3, 4, 3]],
    ["G suspended fourth", "Gsus4", "G C D", [5, 2]],
    ["E power chord", "E5", "E B", [7]],
  ])("as steps: %s", (_name, text, notes, steps) => {
    expect(
      chordNotes(chord(text))
        .map((note) => noteName(note))
        .join(" "),
    ).toBe(notes);
    expect(chordSteps(chord(text))).toEqual(steps);
  });

  // Worked by hand from Harte et al. 2005.
  it.each([
    ["C:maj/3", { root: 0, quality: "maj", bass: 4 }],
    ["A:min/b7", { root: 9, quality: "min", bass: 7 }],
    ["Bb:maj7", { root: 10, quality: "maj7", bass: 10 }],
    ["C:(1,b3,5)", { root: 0, quality: "min", bass: 0 }],
    ["D:(3,5,b7)", { root: 2, quality: "7", bass: 2 }],
    ["G:9", { root: 7, quality: "7", bass: 7 }],
    ["F#", { root: 6, quality: "maj", bass: 6 }],
    ["F♯m7/C♯", { root: 6, quality: "min7", bass: 1 }],
    ["am", { root: 9, quality: "min", bass: 9 }],
    ["N", null],
    ["purple", undefined],
    ["C:purple", undefined],
    ["", undefined],
  ])("%s is read", (text, expected) => {
    expect(readChord(text)).toEqual(expected);
  });

  it("count as major or minor by third and fifth", () => {
    const kind = (text: string) => majorOrMinor(readChord(text)!);
    expect(kind("C7")).toEqual({ root: 0, minor: false });
    expect(kind("Cm7")).toEqual({ root: 0, minor: true });
    expect(kind("Csus4")).toBeUndefined();
    expect(kind("Cdim")).toBeUndefined();
    expect(kind("N")).toBeNull();
  });

  it("are moved by semitones as the library moves notes", () => {
    for (const semitones of [-10, -3, 2, 7]) {
      const moved = transposed(chord("F#m7/C#"), semitones)!;
      const by = Interval.fromSemitones(semitones);
      expect(moved.root).toBe(Note.chroma(Note.transpose("F#", by)));
      expect(moved.bass).toBe(Note.chroma(Note.transpose("C#", by)));
      expect(moved.quality).toBe("min7");
    }
  });
});

describe("keys", () => {
  it("have the notes that the library gives them", () => {
    for (const own of allKeys) {
      const scale = Scale.get(`${plainName(own.tonic)} ${own.mode}`);
      expect(scaleNames(own).map((name) => readNote(name))).toEqual(
        scale.notes.map((note) => Note.chroma(note)),
      );
    }
  });

  it("are spelled with the accidentals of their signature", () => {
    for (const own of allKeys) {
      const name = plain(keyName(own).split(" ")[0]!);
      const signature =
        own.mode === "major"
          ? LibraryKey.majorKey(name).keySignature
          : LibraryKey.minorKey(name).keySignature;
      // Six sharps are six flats; more than six has a simpler name.
      expect(signature.length).toBeLessThanOrEqual(6);
      if (signature.startsWith("b")) expect(spellingOf(own)).toBe("flats");
      expect(keySignatureOf(own)).toBe(signature.startsWith("b") ? -signature.length : signature.length);
    }
  });

  it.each([
    ["F# minor", "F♯ minor", "G♭ minor"],
    ["Bb", "B♭ major", "A♯ major"],
    ["A minor", "A minor", null],
    ["d#m", "D♯ minor", "E♭ minor"],
  ])("%s is %s and also %s", (text, name, other) => {
    expect(keyName(key(text))).toBe(name);
    expect(otherKeyName(key(text))).toBe(other);
  });

  it.each(["", "H minor", "F# dorian", "minor"])("%p is no key", (text) => {
    expect(readKey(text)).toBeNull();
  });

  it.each([
    ["F# minor", ["F#m", "D", "A", "E"], "i – VI – III – VII"],
    ["A minor", ["Am", "Dm", "F", "Em"], "i – iv – VI – v"],
    ["A minor", ["Am", "E7", "Bdim", "Bb"], "i – V7 – ii° – ♭II"],
    ["C major", ["C", "G", "Am", "F"], "I – V – vi – IV"],
    ["Bb major", ["Bbmaj7", "Gm7", "Cm7", "F"], "Imaj7 – vi7 – ii7 – V"],
    ["C major", ["C", "Bb", "Ab", "F#dim"], "I – ♭VII – ♭VI – ♯iv°"],
  ])("in %s the degrees of %j are %s", (name, chords, expected) => {
    expect(chords.map((text) => romanNumeral(chord(text), key(name))).join(" – ")).toBe(expected);
  });

  it("have degrees as the library counts them in major", () => {
    const loop = ["C", "Dm7", "Em", "Fmaj7", "G7", "Am"];
    for (const tonic of ["C", "Eb", "F#"]) {
      const moved = loop.map((text) => transposed(chord(text), readNote(tonic)!)!);
      const theirs = Progression.toRomanNumerals(
        tonic,
        moved.map((own) => plain(chordName(own, tonic === "Eb" ? "flats" : "sharps"))),
      );
      const ours = moved.map((own) => romanNumeral(own, key(tonic)));
      // The library writes capitals throughout and names the kind of chord behind them.
      expect(ours.map((numeral) => numeral.toUpperCase().replace(/[^IV]/g, ""))).toEqual(
        theirs.map((numeral) => numeral.replace(/[^IV]/g, "")),
      );
    }
  });

  it.each([
    ["F# minor", "F# minor", "same", 0],
    ["F# minor", "A major", "relative", 3],
    ["F# minor", "F# major", "parallel", 0],
    ["C major", "G major", "fifth", -5],
    ["C major", "F major", "fifth", 5],
    ["F# minor", "G minor", "apart", 1],
  ])("%s and %s are %s", (reference, version, kind, semitones) => {
    expect(relationOf(key(reference), key(version))).toMatchObject({ kind, semitones });
  });

  it.each([
    ["F# minor", "F# minor", "Both are in F♯ minor."],
    [
      "F# minor",
      "A major",
      "Yours reads as A major, the relative of F♯ minor: the same notes, another home.",
    ],
    ["C major", "G major", "Yours is in G major, a fifth above C major (5 semitones down)."],
    ["F# minor", "G minor", "Yours is in G minor, 1 semitone up from F♯ minor."],
    ["F# minor", "B major", "Yours is in B major; its notes are those of F♯ minor 2 semitones up."],
  ])("of %s and %s in a sentence", (reference, version, sentence) => {
    expect(relationSentence(key(reference), key(version))).toBe(sentence);
  });

  it.each([
    ["E minor", "F# minor", 2, -10],
    ["F# minor", "E minor", -2, 10],
    ["E minor", "G major", 0, null],
    ["A minor", "D major", 2, -10],
    ["C major", "F# major", 6, -6],
  ])("to bring %s into %s takes %i semitones or %p", (from, to, semitones, otherWay) => {
    expect(shiftInto(key(from), key(to))).toEqual({ semitones, otherWay });
  });
});

it("has a kind of chord for each set of intervals only once", () => {
  const sets = chordQualityNames.map((name) => chordQualities[name].intervals.join());
  expect(new Set(sets).size).toBe(sets.length);
});
