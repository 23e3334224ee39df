/**
 * A second look at the tempo, once the hits are known. Fast music with its kick on every other beat and its
 * back-beat on those between is easily read at half of its tempo: then every back-beat falls between two
 * beats. And bars of three are easily read as two beats of three eighths: then nothing is struck on the
 * second of them.
 */
import type { Metre } from "../grid/bars";
import { barsOf, beatAt, type Grid } from "../grid/grid";
import type { Bpm, Fraction } from "../units";
import { leastConfidence, type DrumHit } from "./hits";
import { backVoices } from "./voices";

const { abs, min, round } = Math;

/** Nothing is counted much faster than twice this, */
const fastestHalved: Bpm = 105;
/** and halves of slower beats are no beats. */
const slowestHalved: Bpm = 65;
/** Of the beats of each number in the bar, those behind which a back-beat falls halfway to the next. */
const leastBetween: Fraction = 0.6;
/** So many times as many back-beats fall there as fall on beats. */
const leastOdds = 4;
/** Share of the beats that have a kick. */
const leastKicks: Fraction = 0.3;
const fewestBeats = 32;

/** Kicks and back-beats a bar on the second and third of bars of three, on each of them, and in their middle. */
const leastThirds = 0.8;
const leastEach = 0.2;
const mostMiddle = 0.1;

/** Beats by which a hit may lie beside its place. */
const beside = 0.08;

/** How beats are counted in place of those of a grid. */
export interface OtherCount {
  bpm: Bpm;
  /** Where it is known. */
  metre: Metre | null;
}

/** Null where nothing speaks against the beats of a grid. */
export function countedOtherwise(hits: readonly DrumHit[], grid: Grid): OtherCount | null {
  const { bpm, beatsPerBar } = grid;
  const { first, last } = barsOf(grid);
  const bars = last - first + 1;
  if (bars * beatsPerBar < fewestBeats) return null;
  const counted = hits.filter(({ confidence }) => confidence >= leastConfidence);
  const backs = counted.filter(({ voice }) => backVoices.includes(voice));
  const kicks = counted.filter(({ voice }) => voice === "kick");
  /** How many beats of each number in the bar have one of some hits so much of a beat behind them. */
  const struck = (own: readonly DrumHit[], behind: number): number[] => {
    const beats = new Set<number>();
    for (const { time } of own) {
      const place = beatAt(grid, time) - behind;
      if (abs(place - round(place)) <= beside) beats.add(round(place));
    }
    const counts = new Array<number>(beatsPerBar).fill(0);
    for (const beat of beats) counts[((beat % beatsPerBar) + beatsPerBar) % beatsPerBar]!++;
    return counts;
  };
  const sum = (counts: readonly number[]) => counts.reduce((a, b) => a + b, 0);
  if (beatsPerBar === 2) {
    const own = [...kicks, ...backs];
    const [second, third] = [struck(own, 2 / 3)[0]!, struck(own, 1 / 3)[1]!];
    return second + third >= leastThirds * bars &&
      min(second, third) >= leastEach * bars &&
      struck(own, 0)[1]! <= mostMiddle * bars
      ? { bpm: 1.5 * bpm, metre: 3 }
      : null;
  }
  if (bpm < slowestHalved || bpm > fastestHalved) return null;
  const between = struck(backs, 1 / 2);
  return min(...between) >= leastBetween * bars &&
    sum(between) >= leastOdds * sum(struck(backs, 0)) &&
    sum(struck(kicks, 0)) >= leastKicks * bars * beatsPerBar
    ? { bpm: 2 * bpm, metre: null }
    : null;
}
