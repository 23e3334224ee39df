/** What moved a score from one version to the next: the measure behind it, before and after. */
import type { ComparedAspect, Comparison, MeasureName } from "../match";
import type { Decibels, Hertz, Percent } from "../units";
import type { FullComparison } from "./scores";

const { abs, sign } = Math;

/** A score that moved less is within what measuring anew may bring. */
export const leastChange: Percent = 3;

/** What a score moved with. */
export type Cause =
  | {
      kind: "measure";
      name: MeasureName;
      /** Gaps to the reference, in the unit of the measure's rule: of the version before and of this one. */
      was: number;
      is: number;
    }
  | {
      /** The part of the spectrum that moved most. */
      kind: "range";
      fromHz: Hertz;
      toHz: Hertz;
      /** Mean gaps there, at equal loudness. */
      was: Decibels;
      is: Decibels;
    };

/** The measure that took its score, weighed as its aspect is, furthest in the direction of the whole. */
function measureBehind(
  before: readonly ComparedAspect<string>[],
  after: readonly ComparedAspect<string>[],
  by: Percent,
): Cause | null {
  let found: Cause | null = null;
  let most = 0;
  for (const { name: aspect, weight, measures } of after) {
    const olds = before.find(({ name }) => name === aspect)?.measures ?? [];
    for (const { name, gap: is, score } of measures) {
      const old = olds.find((own) => own.name === name);
      if (is === null || score === null || !old || old.gap === null || old.score === null) continue;
      const moved = sign(by) * weight * (score - old.score);
      if (moved <= most) continue;
      most = moved;
      found = { kind: "measure", name, was: old.gap, is };
    }
  }
  return found;
}

/** Neighbouring bands that moved at least half as far as the one that moved most. */
const shareOfMost = 0.5;

function rangeThatMoved({ toneCurve: was }: Comparison, { toneCurve: is }: Comparison): Cause | null {
  const moved = is.map(({ gap, weight }, i) => weight * (gap - was[i]!.gap));
  const most = moved.reduce((top, own, i) => (abs(own) > abs(moved[top]!) ? i : top), 0);
  const peak = moved[most];
  if (!peak) return null;
  // False beyond both ends.
  const counts = (i: number) => moved[i]! / peak >= shareOfMost;
  let [first, last] = [most, most];
  while (counts(first - 1)) first--;
  while (counts(last + 1)) last++;
  const mean = (curve: typeof is) =>
    curve.slice(first, last + 1).reduce((sum, { gap }) => sum + gap, 0) / (last - first + 1);
  return { kind: "range", fromHz: is[first]!.low, toHz: is[last]!.high, was: mean(was), is: mean(is) };
}

/**
 * Of every score that moved between two versions of a study, what it moved with.
 *
 * @returns by name of the aspect of the mix, or id of the element; those that did not move are missing.
 */
export function causesBetween(before: FullComparison, after: FullComparison): Record<string, Cause> {
  const causes: Record<string, Cause> = {};
  const note = (
    key: string,
    was: Percent | null | undefined,
    is: Percent | null,
    find: (by: Percent) => Cause | null,
  ) => {
    if (was === null || was === undefined || is === null || abs(is - was) < leastChange) return;
    const cause = find(is - was);
    if (cause) causes[key] = cause;
  };
  for (const aspect of after.mix.aspects) {
    const { name, score } = aspect;
    const old = before.mix.aspects.find((own) => own.name === name);
    // The weight is that of the whole aspect: it may be 0 and the score moves all the same.
    const alone = (own: typeof aspect) => [{ ...own, weight: 1 }];
    note(name, old?.score, score, (by) =>
      name === "tone" ? rangeThatMoved(before.mix, after.mix) : measureBehind(alone(old!), alone(aspect), by),
    );
  }
  for (const { element, compared } of after.elements) {
    const old = before.elements.find((own) => own.element.id === element.id)?.compared;
    note(element.id, old?.score, compared.score, (by) => measureBehind(old!.aspects, compared.aspects, by));
  }
  return causes;
}
