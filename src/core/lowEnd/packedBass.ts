/** Notes of a bass line as columns: a third of what they take as objects. */
import type { BassNote } from "./notes";

export interface PackedBass {
  starts: number[];
  ends: number[];
  midis: number[];
  cents: number[];
  levels: number[];
  sure: number[];
}

export const packBass = (notes: readonly BassNote[]): PackedBass => ({
  starts: notes.map(({ start }) => start),
  ends: notes.map(({ end }) => end),
  midis: notes.map(({ midi }) => midi),
  cents: notes.map(({ cents }) => cents),
  levels: notes.map(({ levelDb }) => levelDb),
  sure: notes.map(({ sure }) => sure),
});

export const unpackBass = ({ starts, ends, midis, cents, levels, sure }: PackedBass): BassNote[] =>
  starts.map((start, i) => ({
    start,
    end: ends[i]!,
    midi: midis[i]!,
    cents: cents[i]!,
    levelDb: levels[i]!,
    sure: sure[i]!,
  }));
