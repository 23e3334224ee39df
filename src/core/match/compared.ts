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
