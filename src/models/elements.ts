/** Elements: how each is heard, where it plays, and how it compares. */
import type { CoverageSpan } from "@/core/align/coverage";
import type { BarRange } from "@/core/grid/grid";
import type { Interplay } from "@/core/lens/interplay";
import type { LensPart } from "@/core/lens/parts";
import { answeredBars, barsPlayed, type PartInBars } from "@/core/lens/answeredBars";
import { isPresenceTold } from "@/core/lens/presence";
import { setIn } from "@/core/lens/presenceCorrection";
import {
  besideVocal,
  measureRules,
  type BesideVocal,
  type ComparedElement,
  type ComparedMeasure,
  type MeasureName,
} from "@/core/match";
import { fixed, signed } from "./format";
import {
  countedInterplay,
  coverageOf,
  isFound,
  itemPlan,
  lesserFree,
  setPresence,
  setBarsOf,
  stemInBars,
  whollyFree,
  withSetBars,
  type FullComparison,
  type HeardElements,
  type StudyResults,
  type TrackRecord,
} from "@/core/study";

/** Parts by themselves, as a sentence begins with them. */
export const lensNames: Record<LensPart, string> = {
  kick: "Kick",
  snare: "Snare or clap",
  hats: "Hats",
  percussion: "Percussion",
  bass: "Bass",
  music: "Chords and lead",
};

/** What each part of the lens is, for people. */
export const lensTitles: Record<LensPart, string> = {
  kick: "the lens: kick",
  snare: "the lens: snare and clap",
  hats: "the lens: hats",
  percussion: "the lens: other percussion",
  bass: "the lens: bass",
  music: "the lens: all that is pitched, in its range",
};

const countWords: Record<LensPart, string> = {
  kick: "hits",
  snare: "hits",
  hats: "hits",
  percussion: "hits",
  bass: "notes",
  music: "chords",
};

/** What tells that a part is there, in words. */
export function heardWords(heard: HeardElements, part: LensPart): string {
  const { count, bars } = heard.parts[part];
  const noun = countWords[part];
  if (count === 0) return `No ${noun} of it are heard in the reference.`;
  const counted = `${count} ${count === 1 ? noun.slice(0, -1) : noun} in ${bars} of ${heard.bars} bars`;
  return isFound(heard, part) ? `In the reference: ${counted}.` : `Hardly in the reference: ${counted}.`;
}

/** The same beside the name of an element: `129 hits in 30 bars`. */
export function heardBriefly(heard: HeardElements, part: LensPart): string {
  const { count, bars } = heard.parts[part];
  return count === 0 ? "not heard in the reference" : `${count} ${countWords[part]} in ${bars} bars`;
}

/** Where an element plays on both sides, by the bars of the reference. */
export interface ElementLane {
  /** Height 0–1 in each bar, by its level; 0 where it does not play. */
  reference: number[];
  /** The same of the version; null in bars that it does not recreate. */
  version: (number | null)[];
  /** Whether it stands free enough for gaps to be told. */
  isTold: boolean;
  /** Bars of the reference of which the producer has said whether it plays, on either side. */
  set: number[];
}

/** What the elements view shows of a comparison. */
export interface ElementsModel {
  /** By element id. */
  elements: Record<string, ComparedElement>;
  /** By element id, of those that the lens has lifted out. */
  lanes: Record<string, ElementLane>;
  /** Of the reference. */
  sections: { name: string; firstBar: number; lastBar: number }[];
  bars: number;
  /** How loud each is beside the vocal, by element id. */
  besideVocal: Record<string, BesideVocal | null>;
  /** What never sounds together, or answers one another. */
  interplay: Interplay[];
}

/** What a lane shows of a part's level, from its loudest bar down. */
const laneSpan = 24;

/**
 * @param coverage bars that answer each other.
 * @param freeDb how far the part stands free; null where one side has none of it.
 */
export function laneOf(
  part: PartInBars,
  coverage: readonly CoverageSpan[],
  freeDb: number | null,
): ElementLane {
  const free = freeDb ?? 0;
  const isTold = isPresenceTold(freeDb);
  const heightsOf = (levels: readonly number[]) => {
    const loudest = levels.reduce((a, b) => Math.max(a, b), -Infinity);
    return levels.map((level) => Math.max(0.08, 1 - (loudest - level) / laneSpan));
  };
  const [ours, theirs] = [heightsOf(part.levels.reference), heightsOf(part.levels.version)];
  const plays = barsPlayed(part, "reference", free);
  const reference = ours.map((height, i) => (plays[i] ? height : 0));
  const version: (number | null)[] = ours.map(() => null);
  for (const bar of answeredBars(part, coverage, free)) {
    if (bar.reference > reference.length) continue;
    if (!bar.ours) reference[bar.reference - 1] = 0;
    version[bar.reference - 1] = bar.theirs ? theirs[bar.version - 1]! : 0;
  }
  return { reference, version, isTold, set: setBars(part, coverage, reference.length) };
}

const setBars = ({ set }: PartInBars, coverage: readonly CoverageSpan[], count: number): number[] =>
  set
    ? Array.from({ length: count }, (_, i) => i + 1).filter((bar) => {
        const span = coverage.find(({ referenceFirst: first, bars }) => bar >= first && bar < first + bars);
        const answer = span ? bar - span.referenceFirst + span.versionFirst : null;
        return setIn(set.reference, bar) !== null || (answer !== null && setIn(set.version, answer) !== null);
      })
    : [];

/** @param chosen bars of the reference that count; null for all. */
export function elementsModel(
  {
    study,
    lenses,
    alignments,
    plans,
    grids,
    comparisons,
  }: Pick<StudyResults, "study" | "lenses" | "alignments" | "plans" | "grids" | "comparisons">,
  version: TrackRecord,
  { elements }: FullComparison,
  chosen: BarRange | null = null,
): ElementsModel {
  const grid = study.reference && grids.get(study.reference.id);
  const stored = lenses.get(version.id)?.value;
  const bars = stored?.bars ?? null;
  const coverage = coverageOf(version, alignments.get(version.id)?.value.alignment);
  const set = setPresence(study.reference, version);
  const stems = comparisons.get(version.id)?.value.stems ?? {};
  const lanes = study.elements.flatMap(({ id, lens }): [string, ElementLane][] =>
    stems[id]
      ? [[id, laneOf(stemInBars(stems[id], setBarsOf(lens, set)), coverage, whollyFree)]]
      : lens && stored && bars
        ? [[id, laneOf(withSetBars(lens, bars.parts[lens], set), coverage, lesserFree(stored, lens))]]
        : [],
  );
  const plan = study.reference && plans.get(study.reference.id);
  const sections = study.reference && plan ? itemPlan(plan.value, study.reference).sections : [];
  return {
    elements: Object.fromEntries(elements.map(({ element, compared }) => [element.id, compared])),
    lanes: Object.fromEntries(lanes),
    besideVocal: besideVocal(elements),
    sections: sections.map(({ name, firstBar, lastBar }) => ({ name, firstBar, lastBar })),
    bars: Math.max(
      bars?.parts.kick.levels.reference.length ?? 0,
      ...lanes.map(([, { reference }]) => reference.length),
    ),
    interplay: stored && grid ? countedInterplay(stored, coverage, grid.beatsPerBar, chosen) : [],
  };
}

/** Where a score stands beside its target, both as they are shown. */
export function targetWords(score: number | null, target: number): string {
  const aim = `target of ${Math.round(target)}`;
  if (score === null) return `The ${aim} is not measured yet.`;
  const left = Math.round(target) - Math.round(score);
  return left <= 0 ? `The ${aim} is reached.` : `${left} below the ${aim}.`;
}

/** Where an element stands beside the vocal on both sides: `3.1 dB below it in the reference, 1.0 above it here`. */
export function vocalWords({ reference, version }: BesideVocal): string {
  const place = (level: number) =>
    Math.abs(level) < 0.05
      ? "level with it"
      : `${fixed(Math.abs(level))} dB ${level > 0 ? "above" : "below"} it`;
  return `${place(reference)} in the reference, ${place(version)} here`;
}

/** Below this what the lens lifts out is mixed with others; above, it is as good as alone. */
const hardlyFree = 0;
const wellFree = 5;

/** How free a part stands, in words. */
export function standing(freeDb: number): { words: string; sentence: string; isFree: boolean } {
  const size = `${Math.round(freeDb)} dB`;
  if (freeDb >= wellFree)
    return { words: `free by ${size}`, sentence: `stands free of the others by ${size}`, isFree: true };
  if (freeDb >= hardlyFree)
    return {
      words: `free by ${size}`,
      sentence: `stands fairly free, by ${size}, and counts less`,
      isFree: true,
    };
  return {
    words: "hardly free",
    sentence: "hardly stands free of the others, so it counts little",
    isFree: false,
  };
}

/** How an element is measured, in a sentence. */
export function throughWords(through: ComparedElement["through"]): string {
  if (through.kind === "stems") return "Measured on its stems, which both sides have.";
  if (through.kind === "lens") return `Through the lens it ${standing(through.freeDb).sentence}.`;
  return "Not lifted out of both mixes yet; measured in its frequency range meanwhile.";
}

/** Gaps that have a size and no direction. */
const sizes = new Set<MeasureName>(["elementTone", "accents", "toneMovement", "levelMovement"]);

/** The gap of a measure with its unit. */
export function gapWords({ name, gap }: ComparedMeasure): string {
  if (gap === null) return "–";
  const { unit } = measureRules[name];
  if (name === "elementBalance")
    return `${fixed(Math.abs(gap))} dB${Math.abs(gap) < 0.05 ? "" : gap > 0 ? " left" : " right"}`;
  if (name === "elementWidth")
    return `${fixed(Math.abs(gap))} dB${Math.abs(gap) < 0.05 ? "" : gap > 0 ? " wider" : " narrower"}`;
  if (sizes.has(name)) return `${fixed(gap)} ${unit}`;
  if (unit === "%") return `${signed(gap, 0)} %`;
  if (unit === "octaves") return `${signed(gap)} oct`;
  return `${signed(gap)} ${unit}`;
}

/** What both sides measure, in words; empty where the gap says all. */
export function sideWords({ name, reference, version }: ComparedMeasure): string {
  if (name === "elementLevel" && reference !== null && version !== null)
    return `${signed(reference)} and ${signed(version)} dB relative to the loudness`;
  if (name === "elementTone") return "shape of the spectrum, level aside";
  if (name === "elementWidth") return "side against mid";
  if (name === "strokeLength" && reference !== null && version !== null)
    return `${fixed(reference, 0)} and ${fixed(version, 0)} ms until 10 dB down`;
  // The aspect has their name already.
  if (name === "accents" || name === "hitTiming") return "";
  if (name === "noteTiming") return "where its notes begin, beside the drums";
  return measureRules[name].title.toLowerCase();
}
