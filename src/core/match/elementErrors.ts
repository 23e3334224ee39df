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

/**
 * How far gaps through the lens are off as a rule, of parts that stand free and of parts that hardly do: at
 * least what three of four of 383 parts were off by that were not changed themselves while another was (mixes
 * of the bench "One change in one element", by how free they stand as the program tells it). That of tone is
 * more: with it others are said to differ less often, and 2 of 12 tilts by 10 dB are no longer told first.
 */
const measuringErrors: Partial<Record<MeasureName, { free: number; hardly: number }>> = {
  elementLevel: { free: 0.3, hardly: 2.5 },
  elementTone: { free: 1.5, hardly: 4 },
  elementWidth: { free: 0.2, hardly: 1 },
  brightnessMovement: { free: 0.3, hardly: 2 },
  levelMovement: { free: 0.3, hardly: 2 },
  strokeLength: { free: 0.12, hardly: 0.6 },
};

export function withErrors(
  { name, weight, measures }: ComparedAspect<ElementAspect>,
  trust: Fraction,
): ComparedAspect<ElementAspect> {
  const known = measures.map((measure) => {
    const error = measuringErrors[measure.name];
    const share = (trust - leastTrust) / (1 - leastTrust);
    return error ? withError(measure, error.hardly + share * (error.free - error.hardly)) : measure;
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
