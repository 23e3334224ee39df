/**
 * Swing: the length of the first of two notes in percent of the pair, 50 = straight, 66.7 =
 * triplet, for pairs of eighths and of sixteenths. Read off the mean attack strength over the beat.
 */
import type { Fraction, Hertz, Percent, Seconds } from "../units";
import { valueAt } from "./curve";
import type { OnsetRanges } from "./onsetRanges";
import type { OnsetEnvelope } from "./highBandOnsets";

const { max, round, sqrt } = Math;

/** Swing of one kind of pair. */
export interface Swing {
  percent: Percent;
  /** How strong the second notes are beside the strongest place of the beat. */
  presence: Fraction;
}

/** Null where no second notes sound. */
export interface SwingEstimate {
  eighths: Swing | null;
  sixteenths: Swing | null;
}

/** Places of the beat at which its mean onset strength is taken. */
const places = 480;
/** Places on either side that a place is blurred over: players are not machines. */
const blur = 6;
/** How much the ranges of onsets count, low to high. */
const rangeWeights = [1, 1, 2, 3] as const;
/** Second notes quieter than this share of the strongest place are not there. */
const leastPresence = 0.1;
/** A weak note between strong ones is found this much late, in the mean over development songs. */
const foundLate: Seconds = 0.0017;
/** Second notes this far back must be there clearly: else it is the next note that begins to show. */
const farBack = { percent: 66, leastPresence: 0.2 } as const;
/** From here on eighths are swung so far that sixteenths between them mean something else. */
export const swungEighths: Percent = 58;

/** Mean of curves over the beat, `places` values, a little blurred; the ground between notes is 0. */
function beatShape(
  curves: readonly { curve: Float32Array; weight: number }[],
  framesPerSecond: Hertz,
  beats: readonly Seconds[],
): Float32Array {
  const sharp = new Float32Array(places);
  for (let i = 0; i + 1 < beats.length; i++) {
    const start = beats[i]! * framesPerSecond;
    const step = ((beats[i + 1]! - beats[i]!) * framesPerSecond) / places;
    for (const { curve, weight } of curves) {
      for (let p = 0; p < places; p++) sharp[p]! += weight * sqrt(valueAt(curve, start + p * step));
    }
  }
  const shape = new Float32Array(places);
  for (let p = 0; p < places; p++) {
    for (let k = -blur; k <= blur; k++) {
      shape[p]! += sharp[(p + k + places) % places]! * (blur + 1 - (k < 0 ? -k : k));
    }
  }
  const ground = [...shape].sort((a, b) => a - b)[places >> 1]!;
  return shape.map((value) => max(0, value - ground));
}

interface Peak {
  place: Fraction;
  height: number;
}

/** The highest top of the shape between two places of the beat; null where it only rises or falls. */
function topBetween(shape: Float32Array, from: Fraction, to: Fraction): Peak | null {
  const first = round(from * places);
  const last = round(to * places);
  const at = (p: number) => shape[(p + places) % places]!;
  let best = first;
  for (let p = first; p <= last; p++) if (at(p) > at(best)) best = p;
  if (best === first || best === last) return null;
  // The middle of what lies above nine tenths of the top: less shaken by noise than the top itself.
  let sum = 0;
  let moment = 0;
  const least = 0.9 * at(best);
  for (let p = best; p >= first && at(p) >= least; p--) {
    sum += at(p) - least;
    moment += (at(p) - least) * p;
  }
  for (let p = best + 1; p <= last && at(p) >= least; p++) {
    sum += at(p) - least;
    moment += (at(p) - least) * p;
  }
  return { place: (sum > 0 ? moment / sum : best) / places, height: at(best) };
}

/** Swing that a shape of the beat shows. */
function swingOfShape(shape: Float32Array): SwingEstimate {
  const nothing: SwingEstimate = { eighths: null, sixteenths: null };
  const highest = shape.reduce((a, b) => max(a, b), 0);
  const beat = topBetween(shape, -0.08, 0.08);
  if (!beat || highest <= 0) return nothing;
  const present = (peak: Peak | null): peak is Peak =>
    peak !== null && peak.height >= leastPresence * highest;
  const middle = topBetween(shape, 0.42, 0.72);
  const eighths = present(middle)
    ? { percent: 100 * (middle.place - beat.place), presence: middle.height / highest }
    : null;
  if (eighths && eighths.percent >= swungEighths) return { eighths, sixteenths: null };
  const half = present(middle) ? middle.place : beat.place + 0.5;
  const seconds = [
    { peak: topBetween(shape, 0.21, 0.345), from: beat.place },
    { peak: topBetween(shape, 0.71, 0.845), from: half },
  ].flatMap(({ peak, from }) => (present(peak) ? [{ ...peak, share: (peak.place - from) / 0.5 }] : []));
  const weight = seconds.reduce((sum, s) => sum + s.height, 0);
  if (weight === 0) return { ...nothing, eighths };
  return {
    eighths,
    sixteenths: {
      percent: (100 * seconds.reduce((sum, s) => sum + s.height * s.share, 0)) / weight,
      presence: seconds.reduce((a, s) => max(a, s.height), 0) / highest,
    },
  };
}

/**
 * Swing of a track whose beats are known: from the attacks of its top, which are exact, and where
 * those have no second notes from the onsets of all ranges, which are good to some milliseconds.
 *
 * @param beatsPerBar 2 (6/8) has no pairs to swing.
 */
export function estimateSwing(
  tops: OnsetEnvelope,
  onsets: OnsetRanges,
  beats: readonly Seconds[],
  beatsPerBar: number,
): SwingEstimate {
  if (beats.length < 9 || beatsPerBar === 2) return { eighths: null, sixteenths: null };
  const { eighths, sixteenths } = foundSwing(tops, onsets, beats);
  return {
    eighths,
    sixteenths: believed(sixteenths, (beats.at(-1)! - beats[0]!) / (beats.length - 1)),
  };
}

function foundSwing(tops: OnsetEnvelope, onsets: OnsetRanges, beats: readonly Seconds[]): SwingEstimate {
  const exact = swingOfShape(beatShape([{ curve: tops.strength, weight: 1 }], tops.framesPerSecond, beats));
  if (exact.eighths && exact.sixteenths) return exact;
  const rough = swingOfShape(
    beatShape(
      onsets.ranges.map((curve, r) => ({ curve, weight: rangeWeights[r]! })),
      onsets.framesPerSecond,
      beats,
    ),
  );
  const eighths = exact.eighths ?? rough.eighths;
  return {
    eighths,
    sixteenths: eighths && eighths.percent >= swungEighths ? null : (exact.sixteenths ?? rough.sixteenths),
  };
}

/** Sixteenths as they were played, from where they were found; null where they are not to be believed. */
function believed(sixteenths: Swing | null, beatSeconds: Seconds): Swing | null {
  if (!sixteenths) return null;
  const { percent, presence } = sixteenths;
  if (percent > farBack.percent && presence < farBack.leastPresence) return null;
  return { percent: percent - (100 * foundLate) / (beatSeconds / 2), presence };
}

/**
 * One number for a track's swing: that of the eighths where they are swung, else that of the
 * sixteenths where there are any, else 50.
 */
export function mainSwing({ eighths, sixteenths }: SwingEstimate): { of: 8 | 16; percent: Percent } {
  if (eighths && eighths.percent >= swungEighths) return { of: 8, percent: eighths.percent };
  if (sixteenths) return { of: 16, percent: sixteenths.percent };
  return { of: 8, percent: eighths?.percent ?? 50 };
}
