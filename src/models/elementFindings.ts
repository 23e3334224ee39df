/** What is different in elements, and what to do about it. */
import {
  gainOfAspect,
  type ComparedAspect,
  type ComparedMeasure,
  type ElementAspect,
  type MeasureName,
  type MixAspect,
} from "@/core/match";
import type { ComparedPresence } from "@/core/lens";
import type { FullComparison } from "@/core/study";
import { listedBars } from "./coverage";
import type { Decibels } from "@/core/units";
import { fixed, frequency } from "./format";
import type { Finding } from "./findings";

const inElements = "See where in the Elements view.";

type ComparedOne = FullComparison["elements"][number];

/** What an aspect says that the whole mix has a finding of: it adds to that one. */
const partOf: Partial<Record<MeasureName, MixAspect>> = {
  drumHits: "pattern",
  hitTiming: "timing",
  accents: "accents",
  bassNotes: "bass",
  chords: "harmony",
};

/** What is the same of all elements that the lens lifts out as one. */
const isOfPart = (name: ElementAspect): boolean => name === "presence" || name === "movement";

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
    // Close enough is what the producer says it is.
    if (element.target !== null && compared.score >= element.target) continue;
    for (const aspect of compared.aspects) {
      if (aspect.score === null || aspect.score >= 99.5) continue;
      const points = (element.weight * compared.trust * gainOfAspect(aspect, compared.aspects)) / total;
      const mixAspect = partOf[aspect.measures[0]!.name];
      if (mixAspect) {
        gains.set(mixAspect, [...(gains.get(mixAspect) ?? []), { name: element.name, points }]);
        continue;
      }
      const words = wordsOf(aspect, one);
      if (!words) continue;
      if (isOfPart(aspect.name) && element.lens) {
        // Elements that the lens lifts out as one play in the same bars.
        const first = told.get(`${element.lens} ${aspect.name}`);
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
      if (isOfPart(aspect.name) && element.lens) told.set(`${element.lens} ${aspect.name}`, finding);
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
  const isLifted = compared.through.kind !== "range";
  switch (aspect.name) {
    case "level":
      return levelInWords(element, gap, compared.through);
    case "tone":
      return {
        title: `${element.name}: tone ${fixed(Math.abs(gap))} dB off, level aside`,
        detail: isLifted
          ? "Another sound, or its equaliser. Hear it alone on both sides."
          : "In its range of the mix.",
      };
    case "presence":
      return presenceInWords(element.name, compared.bars?.presence ?? null, gap);
    case "width":
      return widthInWords(element.name, measure);
    case "space":
      return {
        title: `${element.name} stands in ${gap > 0 ? "more" : "less"} room, by ${fixed(Math.abs(gap))} dB`,
        detail: `Its gaps are ${gap > 0 ? "fuller" : "emptier"} in most bars. Check its reverb, delay, gate and release.`,
      };
    case "envelope":
      return {
        title: `${element.name} rings ${timesWords(gap)}`,
        detail: `Until 10 dB down: ${fixed(measure.version, 0)} ms, in the reference ${fixed(measure.reference, 0)} ms. Check its decay, gate or reverb.`,
      };
    case "timing":
      return {
        title: `${element.name} ${fixed(Math.abs(gap), 0)} ms ${gap > 0 ? "late" : "early"}`,
        detail: "Where its notes begin, beside the drums. Move the part, or look for latency.",
      };
    case "movement":
      return movementInWords(element.name, measure, compared.bars?.movement.bars ?? []);
    default:
      return null;
  }
}

/** Octaves of time in words: `1.5 times as long`, `33 % shorter`. */
const timesWords = (octaves: number): string =>
  octaves > 0 ? `${fixed(2 ** octaves)} times as long` : `${Math.round(100 * (1 - 2 ** octaves))} % shorter`;

function widthInWords(
  name: string,
  { name: measure, gap }: ComparedMeasure,
): Pick<Finding, "title" | "detail"> {
  const size = `${fixed(Math.abs(gap!))} dB`;
  return measure === "elementBalance"
    ? {
        title: `${name} sits ${size} further ${gap! > 0 ? "left" : "right"}`,
        detail: "Its power on the left over that on the right, beside the reference's.",
      }
    : {
        title: `${name} ${size} ${gap! > 0 ? "wider" : "narrower"}`,
        detail: "Side against mid. Check its pan, doubling and stereo effects.",
      };
}

function movementInWords(
  name: string,
  { name: measure, gap }: ComparedMeasure,
  bars: readonly number[],
): Pick<Finding, "title" | "detail" | "bars"> {
  const isTone = measure === "toneMovement";
  const size = `${fixed(Math.abs(gap!))} dB`;
  return {
    title: `${name}: ${isTone ? "tone" : "level"} moves differently, by ${size}`,
    detail: `${bars.length > 0 ? `Most in ${listedBars(bars)}. ` : ""}${
      isTone
        ? "A filter or its automation opens elsewhere, or another sound takes over."
        : "Compare its fades and automation."
    }`,
    ...(bars.length > 0 ? { bars: [...bars] } : {}),
  };
}

/** The longest stretch first; what one side plays alone in a few bars is told by them. */
function presenceInWords(
  name: string,
  presence: ComparedPresence | null,
  gap: number,
): Pick<Finding, "title" | "detail" | "bars"> {
  const [missing, extra] = [presence?.missing ?? [], presence?.extra ?? []];
  if (missing.length + extra.length === 0 && gap <= -100)
    return { title: `${name} plays on one side alone`, detail: inElements };
  if (missing.length + extra.length === 0)
    return {
      title: `${name} plays elsewhere in ${Math.max(1, Math.round(Math.abs(gap)))} % of the bars`,
      detail: inElements,
    };
  const isMissing = missing.length >= extra.length;
  const bars = isMissing ? missing : extra;
  const where = listedBars(bars);
  return {
    title: `${name} ${isMissing ? "missing" : "extra"} in ${bars.length} ${bars.length === 1 ? "bar" : "bars"}`,
    detail: `${where[0]!.toUpperCase()}${where.slice(1)}. ${isMissing ? "The reference has it there." : "The reference rests there."}`,
    bars,
  };
}

function levelInWords(
  { name, fromHz, toHz }: ComparedOne["element"],
  gap: Decibels,
  { kind }: ComparedOne["compared"]["through"],
): Pick<Finding, "title" | "detail"> {
  const off = `${fixed(Math.abs(gap))} dB too ${gap > 0 ? "loud" : "quiet"}`;
  return kind !== "range"
    ? {
        title: `${name} ${off}`,
        detail: `${kind === "stems" ? "By the stems of both sides" : "Lifted out of both mixes"}, beside the other elements.`,
      }
    : {
        title: `${name} range ${off}`,
        detail: `${frequency(fromHz)} to ${frequency(toHz)} relative to the whole mix.`,
      };
}
