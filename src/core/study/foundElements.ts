/** Which elements a track has, as far as it was heard, and what tells that they are there. */
import type { TrackAnalysis } from "../analysis/result";
import { asHits, leastConfidence, type DrumHit } from "../drums/hits";
import { beatAt, barsOf, type Grid } from "../grid/grid";
import { ofLensParts, partOfVoice, type LensPart } from "../lens/parts";
import type { CountedPlan } from "../plan";
import type { Fraction, Hertz, Seconds } from "../units";
import { itemPlan, type StudyResults } from "./results";

const { ceil, floor, max } = Math;

/** What was heard of a part of a track. */
export interface HeardPart {
  /** Hits or notes; of what is pitched, chords. */
  count: number;
  /** Bars in which it is heard. */
  bars: number;
}

export interface HeardElements {
  parts: Record<LensPart, HeardPart>;
  bars: number;
  /** Of the hits of the back-beat those that are claps. */
  clapShare: Fraction;
  /** Bars with risers, crashes or opening filters. */
  effectBars: number;
}

/** @param plan chords and sections as they count. */
export function heardElements(
  { drums, bass }: Pick<TrackAnalysis, "drums" | "bass">,
  plan: Pick<CountedPlan, "chords" | "measured">,
  grid: Grid,
): HeardElements {
  const { first, last } = barsOf(grid);
  const barOf = (time: Seconds) => floor(beatAt(grid, time) / grid.beatsPerBar) + 1;
  const hits = asHits(drums).filter(({ confidence }) => confidence >= leastConfidence);
  const heard = (times: readonly Seconds[]): HeardPart => ({
    count: times.length,
    bars: new Set(times.map(barOf)).size,
  });
  const timesOf = (part: LensPart) =>
    hits.filter(({ voice }) => partOfVoice[voice] === part).map(({ time }) => time);
  const chords = plan.chords.filter(({ chord }) => chord !== null);
  const chordBars = new Set(
    chords.flatMap(({ startBeat, endBeat }) => {
      const from = floor(startBeat / grid.beatsPerBar);
      return Array.from({ length: max(1, ceil(endBeat / grid.beatsPerBar) - from) }, (_, i) => from + i);
    }),
  );
  const isOf = (voices: readonly DrumHit["voice"][]) =>
    hits.filter(({ voice }) => voices.includes(voice)).length;
  return {
    parts: ofLensParts((part) =>
      part === "music"
        ? { count: chords.length, bars: chordBars.size }
        : heard(part === "bass" ? bass.map(({ start }) => start) : timesOf(part)),
    ),
    bars: last - max(1, first) + 1,
    clapShare: isOf(["clap"]) / max(1, isOf(["clap", "snare", "rim"])),
    effectBars: (plan.measured.form?.bars.presence.effects ?? []).filter((chance) => chance > 0.5).length,
  };
}

/** What is heard of the reference of a study; null until it is analysed, or where it has no bars. */
export function heardInReference({
  study: { reference },
  analyses,
  plans,
  ownGrids,
}: Pick<StudyResults, "study" | "analyses" | "plans" | "ownGrids">): HeardElements | null {
  const analysis = reference && analyses.get(reference.file.hash);
  const plan = reference && plans.get(reference.id);
  const grid = reference && ownGrids.get(reference.id);
  return analysis && plan && grid ? heardElements(analysis, itemPlan(plan.value, reference), grid) : null;
}

/** What a study tracks until the producer changes it. */
export interface ProposedElement {
  name: string;
  lens: LensPart;
  fromHz: Hertz;
  toHz: Hertz;
}

/** Before the reference is heard; usual ranges, common practice, no source. */
export const proposedElements: readonly ProposedElement[] = [
  { name: "Kick", lens: "kick", fromHz: 40, toHz: 110 },
  { name: "Bass", lens: "bass", fromHz: 50, toHz: 250 },
  { name: "Snare or clap", lens: "snare", fromHz: 150, toHz: 4000 },
  { name: "Hats", lens: "hats", fromHz: 6000, toHz: 16000 },
  { name: "Percussion", lens: "percussion", fromHz: 300, toHz: 6000 },
  { name: "Chords", lens: "music", fromHz: 200, toHz: 2500 },
  { name: "Lead or vocal", lens: "music", fromHz: 300, toHz: 5000 },
  { name: "Effects", lens: "music", fromHz: 2500, toHz: 16000 },
];

/** Heard less than this a part may as well be something else. */
const fewest = 4;
const leastBars: Fraction = 1 / 16;
/** With so much of one of them, the back-beat is a clap or a snare alone. */
const nearlyAll: Fraction = 0.85;

/** Whether what was heard of a part tells that it is there. */
export const isFound = ({ parts, bars }: HeardElements, part: LensPart): boolean =>
  parts[part].count >= fewest && parts[part].bars >= leastBars * bars;

/**
 * Those of the proposed elements that were heard, in their order and with the name of what was heard.
 * A lead is not heard apart from chords, so that it is proposed wherever anything is pitched.
 */
export function foundElements(heard: HeardElements): (ProposedElement & { proposed: string })[] {
  const backBeat =
    heard.clapShare >= nearlyAll ? "Clap" : heard.clapShare <= 1 - nearlyAll ? "Snare" : "Snare and clap";
  return proposedElements
    .filter(({ name, lens }) => (name === "Effects" ? heard.effectBars > 0 : isFound(heard, lens)))
    .map((own) => ({
      ...own,
      proposed: own.name,
      name: own.lens === "snare" ? backBeat : own.name,
    }));
}
