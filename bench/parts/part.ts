/** A part of the benchmark: it measures by itself and gives sections of the page of results. */

/** What a part is asked for. */
export interface PartOptions {
  /** Styles of the development songs. */
  styles: readonly string[];
  /** Seeds of each style, beyond those that the models are fitted on. */
  seeds: readonly number[];
}

/** Sections of docs/benchmarks.md by their heading. */
export type Sections = Record<string, string>;

/** Beyond the seeds that the models of tempo and plan are fitted on. */
export const firstSeed = 101;
