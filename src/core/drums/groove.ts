/** How drums are played: ahead or behind, tight or loose, even or accented, swung, locked together. */
import type { Grid } from "../grid/grid";
import { mainSwing, swungEighths, type SwingEstimate } from "../grid/swing";
import type { Decibels, Fraction, Percent, Seconds } from "../units";
import { firstAfter } from "../firstAfter";
import type { BarShape } from "./patterns";
import { stepInBar } from "./patterns";
import type { DrumHit } from "./hits";
import { placeHits, straight, type MainSwing, type PlacedHit } from "./steps";
import { byVoice, type DrumVoice } from "./voices";

const { abs, floor, log10, max, sqrt } = Math;

/** Level of a velocity, dB below full velocity: 40 dB a decade, as velocity maps to gain in General MIDI. */
export const velocityLevel = (velocity: Fraction): Decibels => 40 * log10(max(0.01, velocity));

export interface VoiceGroove {
  voice: DrumVoice;
  hits: number;
  hitsPerBar: number;
  /** Mean offset: behind (+) or ahead of (−) the steps. */
  offset: Seconds;
  /** Standard deviation of the offsets around the mean of each step. */
  jitter: Seconds;
  meanVelocity: Fraction;
  /** Loudest step less softest step on average; 0 with one step. */
  accents: Decibels;
  /** Steps of the bar, counted from 0, that are struck hardest, where accents are heard. */
  accented: number[];
}

/** Steps that are struck less often are no accent, only a hit or two. */
const leastStrokes = 2;
/** Steps within this of the loudest count as accented. */
const accentReach: Decibels = 1.5;
/** Below this all steps are about as loud. */
const leastAccent: Decibels = 2;

interface StepSums {
  count: number;
  offset: number;
  squares: number;
  level: number;
}

export function stepSums(placed: readonly PlacedHit[], shape: BarShape): Map<number, StepSums> {
  const sums = new Map<number, StepSums>();
  for (const own of placed) {
    const step = stepInBar(own, shape);
    const sum = sums.get(step) ?? { count: 0, offset: 0, squares: 0, level: 0 };
    sum.count++;
    sum.offset += own.offset;
    sum.squares += own.offset ** 2;
    sum.level += velocityLevel(own.hit.velocity);
    sums.set(step, sum);
  }
  return sums;
}

/** The feel of each voice that is struck, over so many bars. */
export function grooveOf(placed: readonly PlacedHit[], bars: number, shape: BarShape): VoiceGroove[] {
  return byVoice(placed, ({ hit }) => hit.voice).map(([voice, own]) => {
    const sums = [...stepSums(own, shape)];
    const within = sums.reduce((sum, [, s]) => sum + s.squares - s.offset ** 2 / s.count, 0);
    const freedom = own.length - sums.length;
    const levels = sums
      .filter(([, { count }]) => count >= leastStrokes)
      .map(([step, s]) => ({ step, level: s.level / s.count }));
    const loudest = max(...levels.map(({ level }) => level));
    const accents =
      levels.length > 1 ? loudest - levels.reduce((a, { level }) => (level < a ? level : a), 0) : 0;
    return {
      voice,
      hits: own.length,
      hitsPerBar: own.length / max(1, bars),
      offset: own.reduce((sum, p) => sum + p.offset, 0) / own.length,
      jitter: freedom > 0 ? sqrt(max(0, within) / freedom) : 0,
      meanVelocity: own.reduce((sum, p) => sum + p.hit.velocity, 0) / own.length,
      accents,
      accented:
        accents >= leastAccent
          ? levels
              .filter(({ level }) => level >= loudest - accentReach)
              .map(({ step }) => step)
              .sort((a, b) => a - b)
          : [],
    };
  });
}

/** Fewer second notes than this say nothing of swing. */
const leastSeconds = 4;

/**
 * Swing as the hits have it: where second notes of pairs fall between first ones; null where too few are struck.
 *
 * @param of which pairs: eighths or sixteenths.
 */
export function swingOfHits(placed: readonly PlacedHit[], of: MainSwing["of"]): Percent | null {
  const pair = of === 8 ? 1 : 0.5;
  const firsts: number[] = [];
  const seconds: number[] = [];
  for (const { beat, quantised } of placed) {
    const start = floor(quantised / pair + 1e-6) * pair;
    const inside = (quantised - start) / pair;
    if (abs(inside) < 0.02) firsts.push(beat - start);
    else if (abs(inside - 0.5) < 0.02) seconds.push(beat - start);
  }
  if (seconds.length < leastSeconds || firsts.length < leastSeconds) return null;
  const mean = (values: readonly number[]) => values.reduce((a, b) => a + b, 0) / values.length;
  return (100 * (mean(seconds) - mean(firsts))) / pair;
}

/** Nobody plays the second note earlier than this: such a reading is a mistake. */
const leastSwing: Percent = 48;

/**
 * The swing by which hits are placed: that of the eighths where the track swings them, else that of
 * the sixteenths as the hits themselves have it, else what was read of the track.
 */
export function swingOfDrums(
  hits: readonly DrumHit[],
  grid: Grid,
  estimate: SwingEstimate | null | undefined,
): MainSwing {
  const read = estimate ? mainSwing(estimate) : straight;
  if (read.of === 8 && read.percent >= swungEighths) return read;
  const heard = swingOfHits(placeHits(hits, grid, straight), 16) ?? (read.of === 16 ? read.percent : 50);
  return heard >= leastSwing ? { of: 16, percent: heard } : straight;
}

/** So many hits, none of which is the second of a pair, say that a faint reading was no swing. */
const manyHits = 64;
const faint: Fraction = 0.25;
/** So many hits on second notes are there even where the sound as a whole hardly shows them. */
const clearSeconds = 8;

/** Swing as it was read of a track, sharpened by the drum hits, which are exact, where there are any. */
export function sharpenedSwing(estimate: SwingEstimate, hits: readonly DrumHit[], grid: Grid): SwingEstimate {
  const { eighths, sixteenths } = estimate;
  if (grid.beatsPerBar === 2 || (eighths && eighths.percent >= swungEighths)) return estimate;
  const placed = placeHits(hits, grid, straight);
  const even = swingOfHits(placed, 8);
  const heard = swingOfHits(placed, 16);
  return {
    eighths: eighths && even !== null ? { ...eighths, percent: even } : eighths,
    sixteenths: sharpened(sixteenths, heard, placed),
  };
}

function sharpened(
  read: SwingEstimate["sixteenths"],
  heard: Percent | null,
  placed: readonly PlacedHit[],
): SwingEstimate["sixteenths"] {
  if (read && heard === null) return placed.length >= manyHits && read.presence < faint ? null : read;
  if (heard === null || heard < leastSwing) return read;
  if (read) return { ...read, percent: heard };
  const seconds = placed.filter(({ quantised }) => abs((quantised % 0.5) - 0.25) < 0.01).length;
  return seconds >= clearSeconds ? { percent: heard, presence: seconds / placed.length } : null;
}

/** How two voices, or a voice and the bass, go together. */
export interface Interlock {
  voice: DrumVoice;
  other: DrumVoice | "bass";
  /** Share of the voice's hits with which the other sounds. */
  together: Fraction;
  /** Share of the voice's hits after which the other comes within the next eighth, without sounding together. */
  answered: Fraction;
}

/** Nearer than this two sounds are heard as one: seconds. */
const asOne: Seconds = 0.035;
/** Fewer hits than this have no habit. */
const leastHits = 4;

/** How voices and the bass lock, for every pair that is there; the voice with fewer hits comes first. */
export function interlockOf(
  placed: readonly PlacedHit[],
  bassNotes: readonly Seconds[],
  beatSeconds: Seconds,
): Interlock[] {
  const lines = [
    ...byVoice(placed, ({ hit }) => hit.voice).map(([voice, own]) => ({
      name: voice as DrumVoice | "bass",
      times: own.map(({ hit }) => hit.time),
    })),
    { name: "bass" as const, times: [...bassNotes] },
  ].filter(({ times }) => times.length >= leastHits);
  const eighth = beatSeconds / 2;
  return lines.flatMap((a, i) =>
    lines.slice(i + 1).flatMap((b): Interlock[] => {
      const [voice, other] = b.name !== "bass" && b.times.length < a.times.length ? [b, a] : [a, b];
      if (voice.name === "bass") return [];
      let together = 0;
      let answered = 0;
      for (const time of voice.times) {
        const next = firstAfter(other.times, time - asOne);
        if (next === null) continue;
        if (next <= time + asOne) together++;
        else if (next <= time + eighth + asOne) answered++;
      }
      return [
        {
          voice: voice.name,
          other: other.name,
          together: together / voice.times.length,
          answered: answered / voice.times.length,
        },
      ];
    }),
  );
}
