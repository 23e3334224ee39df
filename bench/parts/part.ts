/** A part of the benchmark: it measures by itself and gives sections of the page of results. */

/** What a part is asked for. */
export interface PartOptions {
  /** Styles of the development songs. */
  styles: readonly string[];
  /** Seeds of each style, beyond those that the models are fitted on. */
  seeds: readonly number[];
  /** Of so many pieces one is measured; 1 for all. */
  oneIn: number;
}

/** One in so many of some pieces, from the first on. */
export const thinned = <T>(pieces: readonly T[], oneIn: number): T[] =>
  pieces.filter((_, i) => i % oneIn === 0);

/** How many are left of a number of pieces; at least one. */
export const thinnedCount = (count: number, oneIn: number): number => Math.max(1, Math.ceil(count / oneIn));

/** Sections of docs/benchmarks.md by their heading. */
export type Sections = Record<string, string>;

/** Beyond the seeds that the models of tempo and plan are fitted on. */
export const firstSeed = 101;
