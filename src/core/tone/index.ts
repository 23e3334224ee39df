/** Tone: average spectra in fractional-octave bands and the gap between two of them. */
export * from "./bands";
export * from "./gap";
export * from "./spectrum";
