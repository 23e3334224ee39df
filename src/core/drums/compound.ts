/**
 * A second look at the metre, once the hits are known: music that counts three to the beat (6/8) is
 * often read at twice or three halves of its tempo, or as four beats that swing. Where hits fall and
 * after how many beats they come again says so plainly.
 */
import { beatAt, secondsAt, type Grid } from "../grid/grid";
import type { GridEstimate } from "../grid/gridEstimate";
import type { Bpm, Fraction, Seconds } from "../units";
import type { DrumHit } from "./hits";
import { backVoices, type DrumVoice } from "./voices";

const { abs, floor, max, min, round } = Math;

/** Fewer hits say nothing of the metre. */
const leastHits = 60;
/** A beat of 6/8 is hardly slower, and one read right hardly faster, than this. */
const slowest: Bpm = 40;
const fastestThirds: Bpm = 90;
/** Beats by which hits may lie beside their place. */
const beside = 0.08;
/** Share of the hits that a reading must explain, and that must fall on the places which only it has. */
const explained: Fraction = 0.9;
const leastThirds: Fraction = 0.25;
const leastEachThird: Fraction = 0.1;
/** Share of the back-beats that must fall on the middle of a bar of six eighths. */
const leastMiddle: Fraction = 0.7;
/** Share of the kicks that must fall on the beginning of such a bar. */
const leastOnBar: Fraction = 0.3;
const leastBack = 8;

const modulo = (value: number, by: number): number => ((value % by) + by) % by;

/** A reading of beats of three eighths: how long they are in the beats that were read, and where the first lies. */
interface Reading {
  length: number;
  start: number;
}

interface Struck {
  beat: number;
  voice: DrumVoice;
  velocity: Fraction;
}

/** Distance from a place to the nearest multiple of a step. */
const offStep = (place: number, step: number): number => abs(place - step * round(place / step));

const shareOf = (hits: readonly Struck[], test: (hit: Struck) => boolean): Fraction =>
  hits.length > 0 ? hits.filter(test).length / hits.length : 0;

/** Share of the hits that come again after some beats. */
function comesAgain(hits: readonly Struck[], after: number): Fraction {
  let again = 0;
  let all = 0;
  for (const voice of new Set(hits.map((hit) => hit.voice))) {
    const places = hits.filter((hit) => hit.voice === voice).map(({ beat }) => beat);
    const last = places.at(-1)!;
    let k = 0;
    for (const place of places) {
      if (place + after > last + beside) break;
      while (places[k]! < place + after - 1.5 * beside) k++;
      all++;
      if (places[k]! <= place + after + 1.5 * beside) again++;
    }
  }
  return all > 0 ? again / all : 0;
}

/** Twice too fast: everything falls on thirds of two beats. */
function readAtDouble(hits: readonly Struck[], { bpm }: Grid): Reading | null {
  if (bpm / 2 < slowest) return null;
  for (const start of [0, 1]) {
    const isThird = ({ beat }: Struck) => offStep(beat - start, 2 / 3) <= beside;
    const isBetween = (hit: Struck) => isThird(hit) && offStep(hit.beat - start, 2) > 0.3;
    if (shareOf(hits, isThird) >= explained && shareOf(hits, isBetween) >= leastThirds) {
      return { length: 2, start };
    }
  }
  return null;
}

/** At the right tempo, but as four beats: both thirds of the beats are struck, and bars come again after two. */
function readAsFour(hits: readonly Struck[], { bpm }: Grid): Reading | null {
  if (bpm > fastestThirds || bpm < slowest) return null;
  const near = (place: number) => shareOf(hits, ({ beat }) => offStep(beat - place, 1) <= beside);
  const [first, second] = [near(1 / 3), near(2 / 3)];
  const fits = near(0) + first + second >= explained && first >= leastEachThird && second >= leastEachThird;
  return fits && comesAgain(hits, 2) >= explained * comesAgain(hits, 4) ? { length: 1, start: 0 } : null;
}

/**
 * With eighths or beats of eighths counted in twos: what comes again after six of them, not eight, has
 * its back-beat in the middle.
 */
function readInTwos(hits: readonly Struck[], { bpm }: Grid): Reading | null {
  const kicks = hits.filter(({ voice }) => voice === "kick");
  const back = hits.filter(({ voice }) => backVoices.includes(voice));
  if (back.length < leastBack || kicks.length < leastBack) return null;
  for (const eighth of [0.5, 1]) {
    const length = 3 * eighth;
    if (bpm / length < slowest || comesAgain(hits, 6 * eighth) < comesAgain(hits, 8 * eighth) + 0.2) continue;
    const onPlace = (start: number) => (hit: Struck) => offStep(hit.beat - start, 2 * length) <= beside;
    const start = [0, 1, 2, 3, 4, 5]
      .map((k) => k * eighth)
      .find(
        (own) =>
          shareOf(kicks, onPlace(own)) >= leastOnBar && shareOf(back, onPlace(own + length)) >= leastMiddle,
      );
    if (start !== undefined) return { length, start };
  }
  return null;
}

/** Where a bar of six eighths begins: on the eighth with the most kick, with the back-beat in its middle. */
function barStart(hits: readonly Struck[], { length, start }: Reading): number {
  const eighth = length / 3;
  const weights = new Array<number>(6).fill(0);
  for (const { beat, voice, velocity } of hits) {
    const place = (beat - start) / eighth;
    if (offStep(place, 1) > 0.3) continue;
    const at = modulo(round(place), 6);
    if (voice === "kick") weights[at]! += velocity;
    else if (backVoices.includes(voice)) {
      weights[at]! -= velocity;
      weights[(at + 3) % 6]! += velocity;
    }
  }
  return start + eighth * weights.indexOf(max(...weights));
}

/** Beats may lie this much before the first sound: an attack is heard after it has begun. */
const beforeSound: Seconds = 0.07;

/**
 * The grid in 6/8 where the hits say that it is; else null.
 *
 * @param hits that count, in order of time.
 * @param firstSound when the track begins to sound: its first bar may begin before the first beat that was read.
 */
export function compoundGrid(
  hits: readonly DrumHit[],
  estimate: GridEstimate,
  grid: Grid,
  firstSound: Seconds,
): GridEstimate | null {
  if (estimate.beatsPerBar === 2 || !estimate.steady || hits.length < leastHits) return null;
  const struck = hits.map(({ time, voice, velocity }) => ({ beat: beatAt(grid, time), voice, velocity }));
  const reading = readAtDouble(struck, grid) ?? readAsFour(struck, grid) ?? readInTwos(struck, grid);
  if (!reading) return null;
  const { length } = reading;
  const start = barStart(struck, reading);
  const from = beatAt(grid, min(estimate.beats[0]!, firstSound - beforeSound));
  const to = beatAt(grid, estimate.beats.at(-1)!);
  const beats: Seconds[] = [];
  const downbeats: Seconds[] = [];
  for (let k = Math.ceil((from - start) / length - 1e-6); k <= floor((to - start) / length + 1e-6); k++) {
    const time = round(secondsAt(grid, start + k * length) * 1e4) / 1e4;
    if (time < -beforeSound) continue;
    beats.push(time);
    if (modulo(k, 2) === 0) downbeats.push(time);
  }
  if (beats.length < 3 || downbeats.length < 1) return null;
  return {
    ...estimate,
    beats,
    downbeats,
    beatsPerBar: 2,
    bpm: estimate.bpm / length,
    confidence: max(estimate.confidence, 0.5),
    otherBarStarts: [],
    swing: { eighths: null, sixteenths: null },
  };
}
