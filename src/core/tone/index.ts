/** Tone: average spectra in fractional-octave bands and the gap between two of them. */
export * from "./bands";
export * from "./gap";
export * from "./spectrum";
export {
  fineBandCount,
  resonanceGaps,
  type Resonance,
  type ResonanceEstimate,
  type ResonanceGap,
} from "./resonances";
export { bandLimits, type BandLimits } from "./limits";
export type { Wobble } from "./wobble";
