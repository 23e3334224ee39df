/**
 * Units as types, and every conversion between them. A public signature of the core names its
 * unit through one of these aliases instead of a bare `number`.
 */

/** Time in seconds from the start of the file. */
export type Seconds = number;
/** A stretch of time, `from` < `to`. */
export interface Span {
  from: Seconds;
  to: Seconds;
}
/** Frequency in cycles per second. */
export type Hertz = number;
export type Milliseconds = number;
/** A level or level difference in decibels; a level is relative to full scale (dBFS). */
export type Decibels = number;
/** Loudness in LUFS (absolute) as defined by ITU-R BS.1770; −70 and below count as silence. */
export type Lufs = number;
/** A loudness difference in loudness units; 1 LU = 1 dB. */
export type LoudnessUnits = number;
/** True peak level in dB relative to full scale, measured on the oversampled signal. */
export type Dbtp = number;
/** Tempo in beats per minute. */
export type Bpm = number;
/** A hundredth of an equal-tempered semitone. */
export type Cents = number;
/** Ratios on a logarithmic scale: of frequency, or of time. */
export type Octaves = number;
/** A share between 0 and 1. */
export type Fraction = number;
/** A score or share between 0 and 100. */
export type Percent = number;

const { log10, log2, max, abs } = Math;

/** Decibels of a ratio of powers. `powerToDecibels(0)` is `-Infinity`. */
export const powerToDecibels = (power: number): Decibels => 10 * log10(power);
/** Decibels of a ratio of amplitudes. `amplitudeToDecibels(0)` is `-Infinity`. */
export const amplitudeToDecibels = (amplitude: number): Decibels => 20 * log10(amplitude);
/** Ratio of powers for a difference in decibels. */
export const decibelsToPower = (decibels: Decibels): number => 10 ** (decibels / 10);
/** Ratio of amplitudes for a difference in decibels. */
export const decibelsToAmplitude = (decibels: Decibels): number => 10 ** (decibels / 20);

/** The value, or null where it is not a finite number (a level of silence has no meaning). */
export const finiteOrNull = (value: number): number | null => (Number.isFinite(value) ? value : null);

/**
 * Gap between two tempi in percent of the reference, after folding octaves: a version read at half
 * or double the reference's tempo beats in the same musical tempo.
 *
 * @returns the signed gap in percent and the factor (½, 1 or 2) by which the version was multiplied.
 */
export function tempoGap(reference: Bpm, version: Bpm): { percent: number; foldedBy: 0.5 | 1 | 2 } {
  const folds = [1, 0.5, 2] as const;
  let best: { percent: number; foldedBy: 0.5 | 1 | 2 } = { percent: Infinity, foldedBy: 1 };
  for (const foldedBy of folds) {
    const percent = 100 * ((version * foldedBy) / reference - 1);
    const distance = abs(log2((version * foldedBy) / reference));
    const bestDistance = abs(log2(max(1e-9, 1 + best.percent / 100)));
    if (distance < bestDistance) best = { percent, foldedBy };
  }
  return best;
}

/** Semitones by which a recording sounds higher when it is played at another speed: 12 · log2(ratio). */
export const semitonesOfRatio = (ratio: number): number => 12 * log2(ratio);
/** The speed that shifts a recording by semitones. */
export const ratioOfSemitones = (semitones: number): number => 2 ** (semitones / 12);
/** Length of a note value in seconds, e.g. 1/8 for an eighth, at a tempo whose beat is a quarter. */
export const noteSeconds = (bpm: Bpm, value: number): Seconds => (240 / bpm) * value;
