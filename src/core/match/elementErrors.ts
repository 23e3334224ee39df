/** How much what is measured through the lens is to be trusted, and what its errors make of a score. */
import type { Decibels, Fraction, Percent } from "../units";
import { scoreRange, withError, type ComparedAspect, type ComparedMeasure } from "./compared";
import type { ElementAspect, MeasureName } from "./measures";
import { elementScore } from "./score";

const { max, min } = Math;

/** A part that stands free by so much is measured as if it were alone; */
const fullyFree: Decibels = 5;
/** one that hardly does */
const hardlyFree: Decibels = -5;
/** counts at least this much. */
const leastTrust = 0.25;

/** How much a part that stands free by so much is to be trusted. */
export const trustIn = (freeDb: Decibels): Fraction =>
  max(leastTrust, min(1, leastTrust + ((1 - leastTrust) * (freeDb - hardlyFree)) / (fullyFree - hardlyFree)));

/** An aspect that scores about as much as the measure that is furthest off. */
export const elementAspect = (
  name: ElementAspect,
  weight: number,
  measures: ComparedMeasure[],
): ComparedAspect<ElementAspect> => ({
  name,
  weight,
  measures,
  score: elementScore(measures.map(({ score }) => ({ score, weight: 1 }))),
});

/** How far a gap is off as a rule, of parts that stand free and of parts that hardly do. */
interface MeasuringError {
  free: number;
  hardly: number;
}

/**
 * About what three of four of 467 parts (timing of notes: of 99) were off by that were not changed themselves while another was
 * (mixes of the bench "One change in one element", by how free they stand as the program tells it).
 */
const measuringErrors: Partial<Record<MeasureName, MeasuringError>> = {
  elementLevel: { free: 0.3, hardly: 2.5 },
  elementTone: { free: 0.2, hardly: 1 },
  elementWidth: { free: 0.2, hardly: 1 },
  toneMovement: { free: 0.4, hardly: 1.4 },
  levelMovement: { free: 0.3, hardly: 2 },
  elementSpace: { free: 0.2, hardly: 0.5 },
  strokeLength: { free: 0.12, hardly: 0.6 },
  noteTiming: { free: 0.2, hardly: 0.4 },
};
/** That of tone where it is not measured bar against bar. */
export const toneOnAverage: MeasuringError = { free: 1.5, hardly: 4 };

export const errorOf = ({ free, hardly }: MeasuringError, trust: Fraction): number =>
  hardly + ((trust - leastTrust) / (1 - leastTrust)) * (free - hardly);

/** Measures that know their own error keep it. */
export function withErrors(
  { name, weight, measures }: ComparedAspect<ElementAspect>,
  trust: Fraction,
): ComparedAspect<ElementAspect> {
  const known = measures.map((measure) => {
    const error = measuringErrors[measure.name];
    return error && measure.error === undefined ? withError(measure, errorOf(error, trust)) : measure;
  });
  return elementAspect(name, weight, known);
}

/** By how many points a score may as well be off: what each measure's error moves it by, added as chance adds. */
export function spreadOf(aspects: readonly ComparedAspect<ElementAspect>[]): Percent | null {
  const own = elementScore(aspects);
  if (own === null) return null;
  let squares = 0;
  aspects.forEach((aspect, i) =>
    aspect.measures.forEach((measure, k) => {
      const range = scoreRange(measure);
      if (!range || range[0] === range[1]) return;
      const [low, high] = range.map((score) => {
        const measures = aspect.measures.map((one, j) => (j === k ? { ...one, score } : one));
        const changed = elementAspect(aspect.name, aspect.weight, measures);
        return elementScore(aspects.map((one, j) => (j === i ? changed : one)))!;
      }) as [Percent, Percent];
      squares += ((high - low) / 2) ** 2;
    }),
  );
  return Math.sqrt(squares);
}
