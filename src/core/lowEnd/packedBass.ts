/** Notes of a bass line as columns: a third of what they take as objects. */
import type { BassNote, BassSlide } from "./notes";

export interface PackedBass {
  starts: number[];
  ends: number[];
  midis: number[];
  cents: number[];
  levels: number[];
  sure: number[];
  /** Of the notes that slide, with their places. */
  slides: [note: number, slide: BassSlide][];
}

export const packBass = (notes: readonly BassNote[]): PackedBass => ({
  starts: notes.map(({ start }) => start),
  ends: notes.map(({ end }) => end),
  midis: notes.map(({ midi }) => midi),
  cents: notes.map(({ cents }) => cents),
  levels: notes.map(({ levelDb }) => levelDb),
  sure: notes.map(({ sure }) => sure),
  slides: notes.flatMap(({ slide }, i): PackedBass["slides"] => (slide ? [[i, slide]] : [])),
});

export function unpackBass({ starts, ends, midis, cents, levels, sure, slides }: PackedBass): BassNote[] {
  const notes = starts.map((start, i): BassNote => ({
    start,
    end: ends[i]!,
    midi: midis[i]!,
    cents: cents[i]!,
    levelDb: levels[i]!,
    sure: sure[i]!,
  }));
  for (const [note, slide] of slides) notes[note]!.slide = slide;
  return notes;
}
