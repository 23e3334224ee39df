/** What is different in elements, and what to do about it. */
import type { ComparedAspect, ComparedMeasure, ElementAspect, MixAspect } from "@/core/match";
import type { BarRange } from "@/core/grid/grid";
import type { ComparedPresence } from "@/core/lens";
import type { FullComparison } from "@/core/study";
import { barWords } from "./coverage";
import type { Decibels } from "@/core/units";
import { fixed, frequency } from "./format";
import type { Finding } from "./findings";

const inElements = "See where in the Elements view.";

type ComparedOne = FullComparison["elements"][number];

/** What an aspect says that the whole mix has a finding of: it adds to that one. */
const partOf: Partial<Record<ElementAspect, MixAspect>> = {
  pattern: "pattern",
  timing: "timing",
  accents: "accents",
  notes: "bass",
};

/** What the aspects of all elements lack of a match. */
export interface ElementFindings {
  /** One for each element and aspect of its own. */
  own: Finding[];
  /** What aspects of the mix gain where elements have them too, by the element that lacks most. */
  shared: Map<MixAspect, { points: number; most: string }>;
}

/** @param total weight of all that counts in the match. */
export function elementFindings(elements: readonly ComparedOne[], total: number): ElementFindings {
  const own: Finding[] = [];
  const told = new Map<string, Finding>();
  const gains = new Map<MixAspect, { name: string; points: number }[]>();
  for (const one of elements) {
    const { element, compared } = one;
    if (element.state === "left out" || compared.score === null) continue;
    const weights = compared.aspects.reduce(
      (sum, { score, weight }) => sum + (score === null ? 0 : weight),
      0,
    );
    for (const aspect of compared.aspects) {
      if (aspect.score === null || aspect.score >= 99.5) continue;
      const points =
        (element.weight * compared.trust * (aspect.weight / weights) * (100 - aspect.score)) / total;
      const mixAspect = partOf[aspect.name];
      if (mixAspect) {
        gains.set(mixAspect, [...(gains.get(mixAspect) ?? []), { name: element.name, points }]);
        continue;
      }
      const words = wordsOf(aspect, one);
      if (!words) continue;
      if (aspect.name === "presence" && element.lens) {
        // Elements that the lens lifts out as one play in the same bars.
        const first = told.get(element.lens);
        if (first) {
          first.points! += points;
          continue;
        }
      }
      const finding: Finding = {
        key: aspect.name === "level" ? `element-${element.id}` : `element-${element.id}-${aspect.name}`,
        ...words,
        points,
        place: { kind: "element", elementId: element.id },
      };
      own.push(finding);
      if (aspect.name === "presence" && element.lens) told.set(element.lens, finding);
    }
  }
  const shared = new Map(
    [...gains].map(([name, all]) => [
      name,
      {
        points: all.reduce((sum, { points }) => sum + points, 0),
        most: all.reduce((a, b) => (b.points > a.points ? b : a)).name,
      },
    ]),
  );
  return { own, shared };
}

const worst = ({ measures }: ComparedAspect<ElementAspect>): ComparedMeasure | undefined =>
  measures
    .filter(({ score, gap }) => score !== null && gap !== null)
    .sort((a, b) => a.score! - b.score!)
    .at(0);

function wordsOf(
  aspect: ComparedAspect<ElementAspect>,
  { element, compared }: ComparedOne,
): Pick<Finding, "title" | "detail" | "bars"> | null {
  const measure = worst(aspect);
  if (!measure) return null;
  const gap = measure.gap!;
  const isLifted = compared.through.kind === "lens";
  switch (aspect.name) {
    case "level":
      return levelInWords(element, gap, isLifted);
    case "tone":
      return {
        title: `${element.name}: tone ${fixed(Math.abs(gap))} dB off, level aside`,
        detail: isLifted
          ? "Another sound, or its equaliser. Hear it alone on both sides."
          : "In its range of the mix.",
      };
    case "presence":
      return presenceInWords(element.name, compared.presence, gap);
    default:
      return null;
  }
}

/** The longest stretch first; what one side plays alone in a few bars is told by them. */
function presenceInWords(
  name: string,
  presence: ComparedPresence | null,
  gap: number,
): Pick<Finding, "title" | "detail" | "bars"> {
  const [missing, extra] = [presence?.missing ?? [], presence?.extra ?? []];
  if (missing.length + extra.length === 0)
    return {
      title: `${name} plays elsewhere in ${Math.max(1, Math.round(Math.abs(gap)))} % of the bars`,
      detail: inElements,
    };
  const isMissing = missing.length >= extra.length;
  const bars = isMissing ? missing : extra;
  const ranges = rangesOf(bars);
  const listed = ranges.slice(0, 3).map(barWords).join(", ");
  return {
    title: `${name} ${isMissing ? "missing" : "extra"} in ${bars.length} ${bars.length === 1 ? "bar" : "bars"}`,
    detail: `${listed[0]!.toUpperCase()}${listed.slice(1)}${ranges.length > 3 ? " and more" : ""}. ${isMissing ? "The reference has it there." : "The reference rests there."}`,
    bars,
  };
}

/** Neighbouring bars as ranges, the longest first. */
function rangesOf(bars: readonly number[]): BarRange[] {
  const ranges: BarRange[] = [];
  for (const bar of [...bars].sort((a, b) => a - b)) {
    const last = ranges.at(-1);
    if (last && last.last + 1 === bar) last.last = bar;
    else ranges.push({ first: bar, last: bar });
  }
  return ranges.sort((a, b) => b.last - b.first - (a.last - a.first));
}

function levelInWords(
  { name, fromHz, toHz }: ComparedOne["element"],
  gap: Decibels,
  isLifted: boolean,
): Pick<Finding, "title" | "detail"> {
  const off = `${fixed(Math.abs(gap))} dB too ${gap > 0 ? "loud" : "quiet"}`;
  return isLifted
    ? { title: `${name} ${off}`, detail: "Lifted out of both mixes, relative to the loudness of the whole." }
    : {
        title: `${name} range ${off}`,
        detail: `${frequency(fromHz)} to ${frequency(toHz)} relative to the whole mix.`,
      };
}
