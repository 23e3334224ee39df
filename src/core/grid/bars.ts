/**
 * Which beats begin bars. Every reading of the beats as bars of two (6/8), three or four, from each
 * beat and from each place a half or a third of a beat away from it (where a path may have locked on
 * to off-beats or swung eighths), is described by what falls on the parts of its beats and bars, by
 * where sound changes, and by whether the track begins on a bar line; a small logistic model says
 * which reading people would count.
 */
import type { Fraction, Hertz, Seconds } from "../units";
import { peakNear } from "./curve";
import { barModel } from "./barModel";
import { combinedStrength } from "./beats";
import { probabilities } from "./choice";
import type { OnsetStrength } from "./onset";
import { clearStrokes, type StrokeCurves } from "./strokeCurves";

const { exp, floor, log, max, min, round, sqrt } = Math;

/** Beats a bar that are told apart; 2 stands for 6/8, whose beats divide in three. */
export const metres = [2, 3, 4] as const;
export type Metre = (typeof metres)[number];

/** By which share of a beat the true beats may lie after those of the path. */
export const shifts = [0, 1 / 3, 1 / 2, 2 / 3] as const;

/** One reading of a path of beats as bars. */
export interface BarReading {
  beatsPerBar: Metre;
  /** Share of a beat by which the beats of this reading lie after those of the path. */
  shift: number;
  /** Which of its beats is the first to begin a bar. */
  firstDownbeat: number;
  features: number[];
}

/** The reading that people would count, most likely. */
export interface Bars extends BarReading {
  confidence: Fraction;
  /** Others of the same metre: by how many beats their bars begin later, the most probable first. */
  others: { beatsLater: number; confidence: Fraction }[];
}

/** Less probable readings are not worth a word. */
const leastProbable: Fraction = 0.03;

/** The path's beats, each moved by a share of the way to the next; the last is left out if any. */
export const shifted = (beats: readonly Seconds[], shift: number): Seconds[] =>
  shift === 0 ? [...beats] : beats.slice(0, -1).map((time, i) => time + shift * (beats[i + 1]! - time));

/** What falls on each eighth of the beats: one row a curve, two values a beat. */
function eighths(
  onsets: OnsetStrength,
  strokes: readonly Float32Array[],
  beats: readonly Seconds[],
): Float32Array[] {
  const { framesPerSecond, ranges, change } = onsets;
  const rows = [...ranges, change, ...strokes].map((curve) => {
    const row = new Float32Array(max(0, 2 * beats.length - 1));
    for (let i = 0; i < row.length; i++) {
      const beat = beats[floor(i / 2)]!;
      const time = i % 2 === 0 ? beat : (beat + beats[(i + 1) / 2]!) / 2;
      row[i] = peakNear(curve, time * framesPerSecond, 2);
    }
    return row;
  });
  // Kicks and snares sound in several ranges at once; a bass note or a hat does not.
  const together = (a: number, b: number) => rows[a]!.map((value, i) => sqrt(value * rows[b]![i]!));
  return [...rows, together(0, 2), together(2, 3)];
}

/** Mean sound of each beat: `beats × bandCount` logarithmic magnitudes. */
function soundOfBeats({ framesPerSecond, sound }: OnsetStrength, beats: readonly Seconds[]): Float32Array[] {
  const { bandCount, magnitudes } = sound;
  const frames = magnitudes.length / bandCount;
  return beats.slice(0, -1).map((beat, i) => {
    const first = max(0, floor(beat * framesPerSecond));
    const last = min(frames, max(first + 1, floor(beats[i + 1]! * framesPerSecond)));
    const mean = new Float32Array(bandCount);
    for (let frame = first; frame < last; frame++) {
      for (let b = 0; b < bandCount; b++) mean[b]! += magnitudes[frame * bandCount + b]! / (last - first);
    }
    return mean;
  });
}

/**
 * How far the mean sound of some beats from each beat on differs from that of as many before it.
 * Over whole bars what repeats within a bar cancels out, and changes of chord and section remain.
 */
function changeAcross(sounds: readonly Float32Array[], span: number): Float32Array {
  const change = new Float32Array(sounds.length);
  const bandCount = sounds[0]?.length ?? 0;
  for (let b = 0; b < bandCount; b++) {
    let before = 0;
    let after = 0;
    for (let i = 0; i < sounds.length; i++) {
      if (i === 0) for (let k = 0; k < min(span, sounds.length); k++) after += sounds[k]![b]!;
      if (i >= span && i + span <= sounds.length) change[i]! += ((after - before) / span) ** 2;
      before += sounds[i]![b]! - (i >= span ? sounds[i - span]![b]! : 0);
      after += (i + span < sounds.length ? sounds[i + span]![b]! : 0) - sounds[i]![b]!;
    }
  }
  return change.map(sqrt);
}

/**
 * How far each value stands above the line between its neighbours: change over some bars rises and
 * falls evenly around a boundary, and only at the boundary itself has an apex.
 */
function apexOf(row: Float32Array): Float32Array {
  const apex = new Float32Array(row.length);
  for (let i = 1; i + 1 < row.length; i++) {
    if (row[i - 1]! > 0 && row[i + 1]! > 0) apex[i] = max(1e-9, row[i]! - (row[i - 1]! + row[i + 1]!) / 2);
  }
  return apex;
}

/** How much larger a row is where bars begin than on all beats, in shares of its mean. */
function standsOut(row: Float32Array, firstDownbeat: number, beatsPerBar: number): number {
  let all = 0;
  let count = 0;
  let onBars = 0;
  let bars = 0;
  for (let i = 0; i < row.length; i++) {
    if (row[i] === 0) continue;
    all += row[i]!;
    count++;
    if (i % beatsPerBar === firstDownbeat) {
      onBars += row[i]!;
      bars++;
    }
  }
  return bars === 0 || all === 0 ? 0 : onBars / bars / (all / count) - 1;
}

/** Parts of a beat whose mean strength is told apart. */
const partsOfBeat = [0, 1 / 4, 1 / 3, 1 / 2, 2 / 3, 3 / 4] as const;

/** What falls on the parts of all beats: per range, each part as difference to the mean of the parts. */
function beatProfile(
  curves: readonly Float32Array[],
  framesPerSecond: Hertz,
  beats: readonly Seconds[],
): number[] {
  return curves.flatMap((curve) => {
    const sums = partsOfBeat.map((part) => {
      let sum = 0;
      for (let i = 0; i + 1 < beats.length; i++) {
        sum += peakNear(curve, (beats[i]! + part * (beats[i + 1]! - beats[i]!)) * framesPerSecond, 1.5);
      }
      return sum;
    });
    const mean = sums.reduce((a, b) => a + b, 0) / sums.length;
    return sums.map((sum) => (mean > 0 ? sum / mean - 1 : 0));
  });
}

/** How much larger a row of eighths is on beats than between them, in shares of its mean. */
function beatsOverOffBeats(row: Float32Array): number {
  let on = 0;
  let off = 0;
  for (let i = 0; i + 1 < row.length; i += 2) {
    on += row[i]!;
    off += row[i + 1]!;
  }
  return on + off > 0 ? (2 * (on - off)) / (on + off) : 0;
}

/** How much falls on the beats and between them at all: a reading beside the onsets catches little. */
function strengthCaught(row: Float32Array): [onBeats: number, between: number] {
  const sums = [0, 0];
  for (let i = 0; i < row.length; i++) sums[i % 2]! += row[i]!;
  const half = max(1, row.length / 2);
  return [log(0.1 + sums[0]! / half), log(0.1 + sums[1]! / half)];
}

/** How much rarer 6/8 is in produced music than among the songs that the model was fitted on. */
const shareOfSixEight = 0.35;

/** What a reading by thirds of a beat must gather, as a share of what the plain ones do. */
const leastThirds = 0.65;
/** Or so many times as many kicks. */
const timesTheKicks = 1.5;

/** How near, in beats, the first sound must lie to count as being on a beat. */
const beginReach = 0.1;

/** All readings of a path of beats, with their features. Empty under two bars. */
export function barReadings(
  onsets: OnsetStrength,
  strokeCurves: StrokeCurves | null,
  path: readonly Seconds[],
  firstSound: Seconds,
): BarReading[] {
  if (path.length < 9) return [];
  const readings: BarReading[] = [];
  const strength = combinedStrength(onsets);
  const strokes = clearStrokes(strokeCurves, strength.length);
  const gathered = (shift: number, curve = strength) =>
    shifted(path, shift).reduce((sum, time) => sum + peakNear(curve, time * onsets.framesPerSecond, 1), 0);
  const leastGathered = leastThirds * max(gathered(0), gathered(1 / 2));
  const [kicks] = strokes;
  const leastKicks = timesTheKicks * max(gathered(0, kicks), gathered(1 / 2, kicks));
  for (const shift of shifts) {
    // A third of a beat away lies nothing at all, unless beats divide in three.
    if (
      shift !== 0 &&
      shift !== 1 / 2 &&
      gathered(shift) < leastGathered &&
      gathered(shift, kicks) <= leastKicks
    )
      continue;
    const beats = shifted(path, shift);
    const rows = eighths(onsets, strokes, beats);
    const sounds = soundOfBeats(onsets, beats);
    const parts = beatProfile([...onsets.ranges, ...strokes], onsets.framesPerSecond, beats);
    const onBeats = rows.slice(onsets.ranges.length).map(beatsOverOffBeats);
    const caught = rows.flatMap(strengthCaught);
    // Where the first sound lies, in beats from the first beat.
    const begin = (firstSound - beats[0]!) / (beats[1]! - beats[0]!);
    const nearness = (distance: number) => exp(-((distance / beginReach) ** 2));
    const onBeat = nearness(begin - round(begin));
    for (const beatsPerBar of metres) {
      const changes = [beatsPerBar, 2 * beatsPerBar, 4 * beatsPerBar, 8 * beatsPerBar].map((span) =>
        changeAcross(sounds, span),
      );
      const apexes = changes.map(apexOf);
      for (let firstDownbeat = 0; firstDownbeat < beatsPerBar; firstDownbeat++) {
        const inBars = (begin - firstDownbeat) / beatsPerBar;
        readings.push({
          beatsPerBar,
          shift,
          firstDownbeat,
          features: [
            // How often each shift is right at all.
            shift === 0 ? 1 : 0,
            shift === 1 / 2 ? 1 : 0,
            onBeat,
            nearness((inBars - round(inBars)) * beatsPerBar),
            ...parts,
            ...onBeats,
            ...caught,
            ...changes.map((row) => standsOut(row, firstDownbeat, beatsPerBar)),
            ...apexes.map((row) => standsOut(row, firstDownbeat, beatsPerBar)),
            ...metres.flatMap((metre) =>
              metre === beatsPerBar
                ? [1, ...rows.flatMap((row) => barProfile(row, 2 * firstDownbeat, 2 * metre))]
                : new Array<number>(1 + rows.length * 2 * metre).fill(0),
            ),
          ],
        });
      }
    }
  }
  return readings;
}

/**
 * Mean of a row at each eighth of the bar, as difference to the row's mean, measured in its spread
 * from eighth to eighth: a profile that stands out counts as much in a dense track as in a sparse one.
 */
function barProfile(row: Float32Array, start: number, length: number): number[] {
  const sums = new Array<number>(length).fill(0);
  const counts = new Array<number>(length).fill(0);
  let mean = 0;
  for (let i = start; i < row.length; i++) {
    sums[(i - start) % length]! += row[i]!;
    counts[(i - start) % length]!++;
    mean += row[i]! / (row.length - start);
  }
  return sums.map((sum, i) => (mean > 0 ? sum / max(1, counts[i]!) / mean - 1 : 0));
}

/**
 * Reads a path of beats as bars; null where there are too few beats to tell.
 *
 * @param metre where it is known.
 */
export function readBars(
  onsets: OnsetStrength,
  strokes: StrokeCurves | null,
  path: readonly Seconds[],
  firstSound: Seconds,
  metre: Metre | null = null,
): Bars | null {
  const readings = barReadings(onsets, strokes, path, firstSound).filter(
    ({ beatsPerBar }) => metre === null || beatsPerBar === metre,
  );
  if (readings.length === 0) return null;
  const fitted = probabilities(
    barModel,
    readings.map((reading) => reading.features),
  );
  const weighed = fitted.map((share, i) => share * (readings[i]!.beatsPerBar === 2 ? shareOfSixEight : 1));
  const total = weighed.reduce((a, b) => a + b, 0);
  const shares = weighed.map((share) => share / total);
  const best = shares.indexOf(max(...shares));
  const { beatsPerBar, shift, firstDownbeat } = readings[best]!;
  const others = readings.flatMap((other, i) => {
    if (i === best || other.beatsPerBar !== beatsPerBar || shares[i]! < leastProbable) return [];
    const later = other.shift + other.firstDownbeat - shift - firstDownbeat;
    // The nearer way round the bar.
    return [{ beatsLater: later - beatsPerBar * round(later / beatsPerBar), confidence: shares[i]! }];
  });
  others.sort((a, b) => b.confidence - a.confidence);
  return { ...readings[best]!, confidence: shares[best]!, others };
}
