/** Changes of chords and sections by hand. Each takes a list and gives a new one, or the same where nothing fits. */
import type { Chord } from "../harmony/chords";
import { transposed } from "../harmony/chords";
import type { PlacedChord } from "../harmony/harmonyEstimate";
import type { CountedSection } from "./trackPlan";

const { max, min } = Math;

/** Gives a chord another name. What a producer says is certain. */
export const renamedChord = (
  chords: readonly PlacedChord[],
  place: number,
  chord: Chord | null,
): PlacedChord[] => chords.map((own, i) => (i === place ? { ...own, chord, confidence: 1 } : own));

/** Splits a chord in two that are the same, at a beat within it. */
export function splitChord(chords: readonly PlacedChord[], place: number, beat: number): PlacedChord[] {
  const own = chords[place];
  if (!own || beat <= own.startBeat || beat >= own.endBeat) return [...chords];
  return [
    ...chords.slice(0, place),
    { ...own, endBeat: beat, confidence: 1 },
    { ...own, startBeat: beat, confidence: 1 },
    ...chords.slice(place + 1),
  ];
}

/** Makes a chord last over the one after it. */
export function joinedChord(chords: readonly PlacedChord[], place: number): PlacedChord[] {
  const own = chords[place];
  const next = chords[place + 1];
  if (!own || !next) return [...chords];
  return [
    ...chords.slice(0, place),
    { ...own, endBeat: next.endBeat, confidence: 1 },
    ...chords.slice(place + 2),
  ];
}

/** Moves where a chord begins; the one before ends there. Both keep a beat at least. */
export function movedChord(chords: readonly PlacedChord[], place: number, startBeat: number): PlacedChord[] {
  const own = chords[place];
  const before = chords[place - 1];
  if (!own) return [...chords];
  const earliest = before ? before.startBeat + 1 : -Infinity;
  const beat = max(earliest, min(own.endBeat - 1, startBeat));
  return chords.map((other, i) =>
    i === place
      ? { ...other, startBeat: beat, confidence: 1 }
      : i === place - 1
        ? { ...other, endBeat: beat, confidence: 1 }
        : other,
  );
}

/** All chords moved by semitones. */
export const transposedChords = (chords: readonly PlacedChord[], semitones: number): PlacedChord[] =>
  chords.map((own) => ({ ...own, chord: transposed(own.chord, semitones) }));

/** Moves the bar with which a section begins; the one before ends there. Both keep a bar at least. */
export function movedSection(
  sections: readonly CountedSection[],
  place: number,
  firstBar: number,
): CountedSection[] {
  const own = sections[place];
  if (!own) return [...sections];
  const before = sections[place - 1];
  const bar = max(before ? before.firstBar + 1 : -Infinity, min(own.lastBar, Math.round(firstBar)));
  return sections.map((other, i) =>
    i === place ? { ...other, firstBar: bar } : i === place - 1 ? { ...other, lastBar: bar - 1 } : other,
  );
}

/** Splits a section so that a second part of the same name begins with a bar. */
export function splitSection(
  sections: readonly CountedSection[],
  place: number,
  bar: number,
): CountedSection[] {
  const own = sections[place];
  if (!own || bar <= own.firstBar || bar > own.lastBar) return [...sections];
  return [
    ...sections.slice(0, place),
    { ...own, lastBar: bar - 1 },
    { ...own, firstBar: bar },
    ...sections.slice(place + 1),
  ];
}

/** Makes a section last over the one after it. */
export function joinedSection(sections: readonly CountedSection[], place: number): CountedSection[] {
  const own = sections[place];
  const next = sections[place + 1];
  if (!own || !next) return [...sections];
  return [...sections.slice(0, place), { ...own, lastBar: next.lastBar }, ...sections.slice(place + 2)];
}

export const changedSection = (
  sections: readonly CountedSection[],
  place: number,
  change: Partial<Pick<CountedSection, "name" | "letter" | "presence">>,
): CountedSection[] => sections.map((own, i) => (i === place ? { ...own, ...change } : own));
