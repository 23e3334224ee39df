/** What is kept of the parts of a track: their power by band over time, and how free each stands. */
import { averageSpectrum, type FractionalOctaveSpectrogram, type Spectrum } from "../tone";
import type { Decibels, Milliseconds, Seconds, Span } from "../units";
import type { StrokeLevels } from "./strokes";
import { ofLensParts, type DrumPart, type LensPart } from "./parts";

/** Raise it whenever the same file can be taken apart otherwise. */
export const lensVersion = 5;

/** What a part is by band, and how free it stands; null where there is none of it. */
export interface PartMeasures {
  freeDb: Decibels | null;
  spectrum: Spectrum;
  /** Of drums, over the whole track: until an even stroke is 10 dB down; null where that cannot be told. */
  strokeMs: Milliseconds | null;
}
export type LensMeasures = Record<LensPart, PartMeasures>;

/** Powers of a part over time; every second frame of the analysis. */
export type PartSpectrogram = Omit<FractionalOctaveSpectrogram, "durationSeconds">;

/** Everything that is kept of a track's parts. */
export interface LiftedTrack {
  free: Record<LensPart, Decibels | null>;
  /** Mean square of each part, ten times a second. */
  levels: Record<LensPart, Float32Array>;
  spectrograms: Record<LensPart, PartSpectrogram>;
  /** Until even strokes of each drum are 10 dB down; null where that cannot be told. */
  strokeLengths: Record<DrumPart, Milliseconds | null>;
  /** When each drum is struck, and how loud. */
  strokes: Record<DrumPart, StrokeLevels>;
  durationSeconds: Seconds;
}

/** What is compared of the parts over some spans; null stands for the whole. */
export function lensMeasures(
  { free, spectrograms, strokeLengths, durationSeconds }: LiftedTrack,
  spans: readonly Span[] | null,
): LensMeasures {
  const measuresOf = (part: LensPart): PartMeasures => ({
    freeDb: free[part],
    spectrum: averageSpectrum({ ...spectrograms[part], durationSeconds }, spans),
    strokeMs: part === "bass" || part === "music" ? null : strokeLengths[part],
  });
  return ofLensParts(measuresOf);
}
