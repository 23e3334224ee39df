/** Probabilities as log odds. */
import type { Fraction } from "../units";

const { log, max, min } = Math;

/** Log odds, held within bounds: beyond them a curve says no more. */
export const logOdds = (p: Fraction, most: number): number =>
  max(-most, min(most, log(max(1e-6, p) / max(1e-6, 1 - p))));
