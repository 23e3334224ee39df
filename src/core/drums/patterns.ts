/** Bars of drums held against each other: which are alike, what is typical of a section, what varies. */
import { median } from "../median";
import { secondsAt, type BarRange, type Grid } from "../grid/grid";
import { letterAt } from "../sections/letters";
import type { Fraction, Seconds } from "../units";
import type { CountedDrums, CountedHit } from "./correction";
import { swung, type MainSwing, type PlacedHit } from "./steps";
import { drumVoices, voiceIndex, type DrumVoice } from "./voices";

const { max, min, round } = Math;

/** How much a hit of each voice counts when bars are held against each other. */
const voiceWeights: Record<DrumVoice, number> = {
  kick: 1.5,
  snare: 1.5,
  clap: 1.5,
  rim: 1,
  hat: 0.7,
  openHat: 0.8,
  tom: 1,
  cymbal: 0.6,
  perc: 0.6,
};

/** Hits of one bar by voice and step: velocity, 0 where nothing is struck. */
export type BarSteps = Float32Array;

/** Steps of one bar: its beats times the sixteenths to the beat. */
export interface BarShape {
  beatsPerBar: number;
  stepsPerBeat: number;
}

const stepsOf = ({ beatsPerBar, stepsPerBeat }: BarShape): number => beatsPerBar * stepsPerBeat;

/** The step in its bar on which a hit is written. */
export function stepInBar(hit: PlacedHit, shape: BarShape): number {
  const steps = stepsOf(shape);
  return ((round(hit.quantised * shape.stepsPerBeat) % steps) + steps) % steps;
}

/** Hits bar by bar on sixteenths. */
export function barsOfSteps(
  placed: readonly PlacedHit[],
  { first, last }: BarRange,
  shape: BarShape,
): BarSteps[] {
  const steps = stepsOf(shape);
  const bars = Array.from(
    { length: max(0, last - first + 1) },
    () => new Float32Array(steps * drumVoices.length),
  );
  for (const own of placed) {
    const at = round(own.quantised * shape.stepsPerBeat);
    const bar = bars[Math.floor(at / steps) + 1 - first];
    if (!bar) continue;
    const place = voiceIndex[own.hit.voice] * steps + stepInBar(own, shape);
    bar[place] = max(bar[place]!, own.hit.velocity);
  }
  return bars;
}

/**
 * How alike two bars are: what they have in common, velocities included, of what both have; 1 for
 * two bars without hits.
 */
export function barLikeness(a: BarSteps, b: BarSteps): Fraction {
  const steps = a.length / drumVoices.length;
  let common = 0;
  let whole = 0;
  for (let v = 0; v < drumVoices.length; v++) {
    const weight = voiceWeights[drumVoices[v]!];
    for (let s = v * steps; s < (v + 1) * steps; s++) {
      if (a[s] === 0 && b[s] === 0) continue;
      // The root makes a soft hit that is there count for more than how soft it is.
      const x = Math.sqrt(a[s]!);
      const y = Math.sqrt(b[s]!);
      common += 2 * weight * min(x, y);
      whole += weight * (x + y);
    }
  }
  return whole > 0 ? common / whole : 1;
}

const isSilent = (bar: BarSteps): boolean => bar.every((velocity) => velocity === 0);

/** Bars that are at least so alike are shown as the same. */
const sameBar: Fraction = 0.86;

/** A letter for each bar: bars with the same letter are alike. Bars without hits have none. */
export function barLetters(bars: readonly BarSteps[]): (string | null)[] {
  const groups: { mean: BarSteps; count: number; letter: string }[] = [];
  return bars.map((bar) => {
    if (isSilent(bar)) return null;
    let best: (typeof groups)[number] | null = null;
    let bestLikeness = sameBar;
    for (const group of groups) {
      const likeness = barLikeness(bar, group.mean);
      if (likeness >= bestLikeness) {
        best = group;
        bestLikeness = likeness;
      }
    }
    if (!best)
      groups.push((best = { mean: new Float32Array(bar.length), count: 0, letter: letterAt(groups.length) }));
    best.count++;
    for (let i = 0; i < bar.length; i++) best.mean[i]! += (bar[i]! - best.mean[i]!) / best.count;
    return best.letter;
  });
}

/** One hit of a typical pattern. */
export interface TypicalHit {
  voice: DrumVoice;
  /** Step from the beginning of the pattern. */
  step: number;
  velocity: Fraction;
  /** Behind (+) or ahead of (−) the step. */
  offset: Seconds;
  /** In which share of the bars it is struck. */
  share: Fraction;
}

/** What the bars of a section have in common. */
export interface TypicalPattern {
  /** After how many bars it comes again. */
  periodBars: 1 | 2 | 4;
  hits: TypicalHit[];
}

/** A longer period must make bars this much more alike. */
const worthAPeriod: Fraction = 0.04;

function periodOf(bars: readonly BarSteps[]): 1 | 2 | 4 {
  const alike = (period: number) => {
    if (bars.length < period * 2) return -1;
    let sum = 0;
    for (let i = period; i < bars.length; i++) sum += barLikeness(bars[i]!, bars[i - period]!);
    return sum / (bars.length - period);
  };
  let best: 1 | 2 | 4 = 1;
  for (const period of [2, 4] as const) {
    if (alike(period) > alike(best) + worthAPeriod) best = period;
  }
  return best;
}

/** The typical pattern of some bars: what more than half of the bars at the same place of the period have. */
export function typicalPattern(
  placed: readonly PlacedHit[],
  range: BarRange,
  shape: BarShape,
): TypicalPattern {
  const all = barsOfSteps(placed, range, shape);
  const bars = all.filter((bar) => !isSilent(bar));
  const periodBars = periodOf(bars.length >= all.length / 2 ? all : bars);
  const steps = stepsOf(shape);
  const groups = new Map<string, { velocities: number[]; offsets: number[]; bars: Set<number> }>();
  for (const own of placed) {
    const at = round(own.quantised * shape.stepsPerBeat);
    const bar = Math.floor(at / steps) + 1;
    if (bar < range.first || bar > range.last) continue;
    const step = ((bar - range.first) % periodBars) * steps + stepInBar(own, shape);
    const key = `${own.hit.voice} ${step}`;
    const group = groups.get(key) ?? { velocities: [], offsets: [], bars: new Set() };
    group.velocities.push(own.hit.velocity);
    group.offsets.push(own.offset);
    group.bars.add(bar);
    groups.set(key, group);
  }
  const hits: TypicalHit[] = [];
  for (const [key, group] of groups) {
    const [voice, step] = key.split(" ") as [DrumVoice, string];
    const phase = Math.floor(Number(step) / steps);
    // Bars in which nothing is struck at all do not speak against a hit.
    const sounding = all.filter((bar, i) => i % periodBars === phase && !isSilent(bar)).length;
    const share = group.bars.size / max(1, sounding);
    if (share <= 0.5) continue;
    hits.push({
      voice,
      step: Number(step),
      velocity: median(group.velocities),
      offset: median(group.offsets),
      share,
    });
  }
  hits.sort((a, b) => a.step - b.step || voiceIndex[a.voice] - voiceIndex[b.voice]);
  return { periodBars, hits };
}

/** A typical pattern as drums of a track: struck once, from a bar on. */
export function asDrums(
  { hits }: TypicalPattern,
  grid: Grid,
  firstBar: number,
  swing: MainSwing,
  shape: BarShape,
): CountedDrums {
  return {
    hits: hits
      .map(({ voice, step, velocity, offset, share }): CountedHit => {
        const written = (firstBar - 1) * shape.beatsPerBar + step / shape.stepsPerBeat;
        const time = secondsAt(grid, swung(written, swing)) + offset;
        return { voice, velocity, time, confidence: share, origin: "heard" };
      })
      .sort((a, b) => a.time - b.time),
    subThreshold: [],
    bassNotes: [],
  };
}

/** What a bar is beside the typical one of its section. */
export type BarKind = "typical" | "last of four" | "fill" | "varies" | "silent";

export interface DescribedBar {
  bar: number;
  kind: BarKind;
  /** How like the typical bar it is. */
  likeness: Fraction;
  letter: string | null;
}

const typicalAt: Fraction = 0.84;
/** Hits of drums that a fill is played on, beyond those of the typical bar. */
const fillHits = 2;
const fillVoices: readonly DrumVoice[] = ["snare", "tom", "kick", "clap", "rim"];

/** The bars of a section, each beside the typical pattern. */
export function describeBars(
  placed: readonly PlacedHit[],
  range: BarRange,
  shape: BarShape,
  letters: readonly (string | null)[],
): DescribedBar[] {
  // A triplet at the end of a bar may be nearest to the first sixteenth of the next.
  const own = placed.filter(({ bar }) => bar >= range.first - 1 && bar <= range.last + 1);
  const bars = barsOfSteps(own, range, shape);
  const steps = stepsOf(shape);
  const { periodBars, hits } = typicalPattern(own, range, shape);
  const typical = Array.from({ length: periodBars }, () => new Float32Array(steps * drumVoices.length));
  for (const { voice, step, velocity } of hits) {
    typical[Math.floor(step / steps)]![voiceIndex[voice] * steps + (step % steps)] = velocity;
  }
  const described = bars.map((bar, i): DescribedBar => {
    const usual = typical[i % periodBars]!;
    const likeness = barLikeness(bar, usual);
    const letter = letters[i] ?? null;
    const base = { bar: range.first + i, likeness, letter };
    if (isSilent(bar)) return { ...base, kind: usual.some((v) => v > 0) ? "silent" : "typical" };
    if (likeness >= typicalAt) return { ...base, kind: "typical" };
    const more = fillVoices.reduce((sum, voice) => {
      const v = voiceIndex[voice] * steps;
      let count = 0;
      for (let s = v; s < v + steps; s++) if (bar[s]! > 0 && usual[s] === 0) count++;
      return sum + count;
    }, 0);
    const leadsOn = i === bars.length - 1 || (i + 1) % 4 === 0;
    return { ...base, kind: leadsOn && more >= fillHits ? "fill" : "varies" };
  });
  // Where every fourth bar departs in the same way it is a habit, not a fill.
  const fourths = described.filter((_, i) => i % 4 === 3);
  const habit =
    fourths.length >= 2 &&
    fourths.every(({ kind, letter }) => kind !== "typical" && letter === fourths[0]!.letter);
  const fourPart = periodBars === 4 && barLikeness(typical[3]!, typical[1]!) < typicalAt;
  return described.map((own, i) =>
    i % 4 === 3 && (habit || (fourPart && own.kind === "typical")) ? { ...own, kind: "last of four" } : own,
  );
}
