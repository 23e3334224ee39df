/** Single measures and aspects of two tracks held against each other. */
import type { Fraction, Percent } from "../units";
import { measureRules, type MeasureName } from "./measures";
import { scoreOf, weightedMean } from "./score";

/** One measure of both tracks held against each other. */
export interface ComparedMeasure {
  name: MeasureName;
  /** Value of each side in the measure's own terms; null for shapes such as a spectrum. */
  reference: number | null;
  version: number | null;
  /** Version less reference, in the unit of the rule; null where one side has no value. */
  gap: number | null;
  score: Percent | null;
  /** Said where the measure does not apply or was adjusted. */
  remark?: string;
  /** How far the gap is off as a rule, in its unit: within that it counts as none. Left out where that is not known. */
  error?: number;
  /** The range that is typical of the style, where it stands in for the reference; true for shapes. */
  typical?: { low: number; high: number } | true;
}

/** An aspect with the measures that its score comes from. */
export interface ComparedAspect<Name extends string> {
  name: Name;
  weight: number;
  score: Percent | null;
  measures: ComparedMeasure[];
}

export function measured(
  name: MeasureName,
  reference: number | null,
  version: number | null,
  gap?: number | null,
  remark?: string,
): ComparedMeasure {
  const difference =
    gap !== undefined ? gap : reference === null || version === null ? null : version - reference;
  return {
    name,
    reference,
    version,
    gap: difference,
    score: difference === null ? null : scoreOf(difference, measureRules[name]),
    ...(remark === undefined ? {} : { remark }),
  };
}

/** The same measure, known to be off by so much as a rule: a gap within that counts as none. */
export function withError(measure: ComparedMeasure, error: number): ComparedMeasure {
  const { name, gap } = measure;
  return { ...measure, error, score: gap === null ? null : scoreWithin(name, gap, error) };
}

const scoreWithin = (name: MeasureName, gap: number, error: number): Percent => {
  const rule = measureRules[name];
  return scoreOf(gap, { ...rule, justNoticeable: Math.max(rule.justNoticeable, error) });
};

/** Scores that a measure may as well have: where the gap is larger and smaller by its error. */
export function scoreRange({
  name,
  gap,
  score,
  error,
}: ComparedMeasure): [low: Percent, high: Percent] | null {
  if (gap === null || score === null) return null;
  if (!error) return [score, score];
  const size = Math.abs(gap);
  return [scoreWithin(name, size + error, error), scoreWithin(name, Math.max(0, size - error), error)];
}

/** A share that both sides have in common: what lacks of the whole is the gap. */
export const shared = (
  name: MeasureName,
  share: Fraction | null | undefined,
  remark: string,
): ComparedMeasure =>
  typeof share === "number"
    ? measured(name, null, null, 100 * share - 100)
    : measured(name, null, null, null, remark);

export const aspectOf = <Name extends string>(
  name: Name,
  weight: number,
  measures: ComparedMeasure[],
): ComparedAspect<Name> => ({
  name,
  weight,
  measures,
  score: weightedMean(measures.map(({ score }) => ({ score, weight: 1 }))),
});
