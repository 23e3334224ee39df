/**
 * What the rest of a track says of a hit: music repeats itself, so that a top of the model's curve
 * is more probable where other bars have one at the same place and where strokes that sound alike
 * have one, and less where another voice of the same kind explains it better. A logistic model weighs this; without a grid only what stands in the
 * curves themselves counts.
 */
import { beatAt, secondsAt, type Grid } from "../grid/grid";
import { median } from "../median";
import type { Fraction } from "../units";
import type { DrumBands } from "./bands";
import { kindredCount, kindredStrokes } from "./kindredSounds";
import { logOdds } from "./logOdds";
import type { DrumActivations } from "./network";
import type { Peak } from "./peakPicking";
import { drumVoices, voiceIndex } from "./voices";

const { exp, max, min, round } = Math;

/** Bars before and after that are looked at: those that a pattern of two bars repeats in, and the others. */
const evenBars = [-8, -6, -4, -2, 2, 4, 6, 8] as const;
const oddBars = [-5, -3, -1, 1, 3, 5] as const;
/** Frames on either side of the same place in another bar. */
const reach = 2;
/** Seconds within which another voice is struck at the same time. */
const together = 0.02;

/** Which way each feature may count: +1 for a hit, −1 against it, 0 either way. */
export const repetitionSigns = [1, 1, 1, 1, 1, -1, 0, 0, 1, -1, 0, 1] as const;
export const repetitionFeatureCount = repetitionSigns.length;

const logit = (p: Fraction, most = 4): number => logOdds(p, most);
const mostUsual = 2;
/** How far the rest of a track can raise the odds of a hit: a hit that was left out must not be heard again. */
const mostHelp = 2;

/** Voices that explain one another: the place of each curve's kind. */
export const kindOfCurve = [0, 1, 1, 1, 2, 2, 3, 3, 3, 4] as const;

/** Voices that most strokes of a track may be of, and bass: how their curves stand over most strokes says nothing. */
const oftenMost: readonly number[] = [voiceIndex.kick, voiceIndex.hat, voiceIndex.tom, drumVoices.length];
/** Log odds beyond which a curve says no more of most strokes. */
const mostApart = 6;

/** The features of every top, in the order of the tops: `repetitionFeatureCount` numbers each. */
export function repetitionFeatures(
  tops: readonly Peak[],
  { probabilities, curves }: DrumActivations,
  bands: DrumBands,
  grid: Grid | null,
): number[][] {
  const { framesPerSecond } = bands;
  const frames = probabilities.length / curves;
  const near = (frame: number, curve: number): number => {
    let best = 0;
    for (let k = max(0, frame - reach); k <= min(frames - 1, frame + reach); k++) {
      best = max(best, probabilities[k * curves + curve]!);
    }
    return best;
  };
  // How clearly a track has each voice: the mean of its strongest tops, one in four bars.
  const seconds = max(1, frames / framesPerSecond);
  const bars = grid ? seconds / ((60 / grid.bpm) * grid.beatsPerBar) : seconds / 2;
  const count = max(4, round(bars / 4));
  const usual = Array.from({ length: curves }, (_, curve) => {
    const strongest = tops
      .filter((top) => top.curve === curve)
      .map(({ probability }) => probability)
      .sort((a, b) => b - a)
      .slice(0, count);
    return logit(strongest.reduce((a, b) => a + b, 0) / count, mostUsual);
  });
  const { eventOf, kin } = kindredEvents(tops, bands);
  /** Mean log odds of a curve in what sounds like an event; null where nothing does. */
  const inKin = (event: number, of: readonly number[]): number | null => {
    let sum = 0;
    let weight = 0;
    for (let k = event * kindredCount; k < (event + 1) * kindredCount; k++) {
      const other = kin.places[k]!;
      if (other < 0) break;
      let best = 0;
      for (const own of of) best = max(best, near(round(kin.times[other]! * framesPerSecond), own));
      sum += kin.likeness[k]! * logit(best);
      weight += kin.likeness[k]!;
    }
    return weight > 0 ? sum / weight : null;
  };
  // What a curve says of most strokes, which are of other voices: a clap heard halfway in every bar stands out from it.
  const inMost = Array.from({ length: curves }, (_, curve) =>
    median(Array.from(kin.times, (time) => logit(near(round(time * framesPerSecond), curve), mostApart))),
  );
  const rivalsOf = kindOfCurve.map((kind, own) =>
    kindOfCurve.flatMap((other, place) => (other === kind && place !== own ? [place] : [])),
  );
  return tops.map(({ time, curve, probability }, i) => {
    const own = logit(probability);
    const odds = (by: readonly number[]): number[] => {
      if (!grid) return [];
      const beat = beatAt(grid, time);
      return by.flatMap((bar) => {
        const frame = round(secondsAt(grid, beat + bar * grid.beatsPerBar) * framesPerSecond);
        return frame >= 0 && frame < frames ? [logit(near(frame, curve))] : [];
      });
    };
    const mean = (values: readonly number[], otherwise: number) =>
      values.length > 0 ? values.reduce((a, b) => a + b, 0) / values.length : otherwise;
    const even = odds(evenBars);
    const odd = odds(oddBars);
    const all = [...even, ...odd].sort((a, b) => b - a);
    // The strongest other voice of the same kind at the same time, and of any kind.
    let rival = 0;
    let company = 0;
    for (let k = i - 1; k >= 0 && time - tops[k]!.time <= together; k--) consider(tops[k]!);
    for (let k = i + 1; k < tops.length && tops[k]!.time - time <= together; k++) consider(tops[k]!);
    function consider(other: Peak): void {
      if (other.curve === curve) return;
      if (kindOfCurve[other.curve] === kindOfCurve[curve]) rival = max(rival, other.probability);
      else if (other.curve < 9) company = max(company, other.probability);
    }
    const like = inKin(eventOf[i]!, [curve]);
    const rivalLike = inKin(eventOf[i]!, rivalsOf[curve]!);
    return [
      own,
      mean(even, own),
      mean(odd, own),
      all[2] ?? own,
      usual[curve]!,
      rival,
      company,
      all.length > 2 ? 1 : 0,
      like ?? own,
      rivalLike ?? logit(rival),
      like === null ? 0 : 1,
      oftenMost.includes(curve) ? 0 : mean([...all, own], own) - inMost[curve]!,
    ];
  });
}

/** Tops that are struck together as one event each, and which events sound alike. */
function kindredEvents(tops: readonly Peak[], bands: DrumBands) {
  const times: number[] = [];
  const eventOf = new Int32Array(tops.length);
  tops.forEach(({ time }, i) => {
    if (times.length === 0 || time - times.at(-1)! > together) times.push(time);
    eventOf[i] = times.length - 1;
  });
  return { eventOf, kin: { times, ...kindredStrokes(times, bands) } };
}

export interface RepetitionModel {
  /** For each curve: weights of the features, then the bias. */
  curves: readonly (readonly number[])[];
}

/** Probability of a top with these features. */
export function repetitionProbability(
  model: RepetitionModel,
  curve: number,
  features: readonly number[],
): Fraction {
  const weights = model.curves[curve]!;
  let sum = weights[repetitionFeatureCount]!;
  for (let i = 0; i < repetitionFeatureCount; i++) sum += weights[i]! * features[i]!;
  sum = min(sum, features[0]! + mostHelp);
  return 1 / (1 + exp(-max(-30, min(30, sum))));
}
