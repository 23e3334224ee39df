/**
 * How hard strokes are, against the other strokes of their voice in the same track. The network
 * knows how hard a voice sounds, but draws all towards the middle; how far the bands rise tells
 * strokes of one voice apart. A fitted linear model weighs both.
 */
import { beatAt, type Grid } from "../grid/grid";
import type { Decibels, Fraction } from "../units";
import { drumBandCount, type DrumBands } from "./bands";
import { velocityLevel } from "./groove";
import { leastConfidence, type DrumHit } from "./hits";
import { velocityModel } from "./velocityModel";
import { drumVoices, type DrumVoice } from "./voices";

const { abs, log10, max, min, round } = Math;

/** Bands that are taken together: the first of each group, and the end. */
const groupEdges = [0, 4, 7, 12, 17, 22, 27, 32, 36, drumBandCount] as const;
export const bandGroupCount = groupEdges.length - 1;
/** Frames before a stroke, without its beginning, and those in which it is loudest. */
const before = { from: -5, to: -3 } as const;
const during = { from: 1, to: 3 } as const;
/** What sounds on is taken off, but no rise counts for less than this share of what sounds. */
const leastRise: Fraction = 0.1;
const silence = 1e-4;

/** By how much each group of bands rises at each time: `times × strokeGroups`, dB. */
export function bandRises({ levels, framesPerSecond }: DrumBands, times: readonly number[]): Float64Array {
  const frames = levels.length / drumBandCount;
  const rises = new Float64Array(times.length * bandGroupCount);
  const power = (frame: number, band: number) => {
    const magnitude = 10 ** levels[max(0, min(frames - 1, frame)) * drumBandCount + band]! - 1;
    return magnitude * magnitude;
  };
  times.forEach((time, i) => {
    const frame = round(time * framesPerSecond);
    for (let group = 0; group < bandGroupCount; group++) {
      let sum = 0;
      for (let band = groupEdges[group]!; band < groupEdges[group + 1]!; band++) {
        let loud = silence;
        for (let k = during.from; k <= during.to; k++) loud += power(frame + k, band) / 3;
        let still = 0;
        for (let k = before.from; k <= before.to; k++) still += power(frame + k, band) / 3;
        sum += 10 * log10(max(loud - still, leastRise * loud));
      }
      rises[i * bandGroupCount + group] = sum / (groupEdges[group + 1]! - groupEdges[group]!);
    }
  });
  return rises;
}

/** How many numbers the level of a stroke is told from. */
export const velocityFeatureCount = 1 + 2 * bandGroupCount;

/**
 * What the level of a stroke is told from: its own by the network and the rises against the means of
 * its voice, then the rises against the means of its drum: a voice may have two, one louder by itself.
 *
 * @param rises of `bandRises`.
 * @param kinds of each stroke which drum of the voice it is of.
 */
export function velocityFeatures(
  levels: readonly Decibels[],
  rises: Float64Array,
  kinds: readonly number[],
): Float64Array[] {
  const mean = (values: (i: number) => number) =>
    levels.reduce((sum, _, i) => sum + values(i), 0) / max(1, levels.length);
  const usual = mean((i) => levels[i]!);
  const usualRises = Array.from({ length: bandGroupCount }, (_, g) =>
    mean((i) => rises[i * bandGroupCount + g]!),
  );
  const drums = kinds.reduce((most, kind) => max(most, kind), 0) + 1;
  const counts = new Uint32Array(drums);
  const ofDrum = new Float64Array(drums * bandGroupCount);
  kinds.forEach((kind, i) => {
    counts[kind]!++;
    for (let g = 0; g < bandGroupCount; g++)
      ofDrum[kind * bandGroupCount + g]! += rises[i * bandGroupCount + g]!;
  });
  return levels.map((level, i) => {
    const features = new Float64Array(velocityFeatureCount);
    const drum = kinds[i]!;
    features[0] = level - usual;
    for (let g = 0; g < bandGroupCount; g++) {
      const rise = rises[i * bandGroupCount + g]!;
      features[1 + g] = rise - usualRises[g]!;
      features[1 + bandGroupCount + g] = rise - ofDrum[drum * bandGroupCount + g]! / counts[drum]!;
    }
    return features;
  });
}

/** Nobody tells softer strokes apart. */
const softest: Fraction = 0.08;
/** The inverse of `velocityLevel`. */
const velocityOf = (level: Decibels): Fraction => min(1, max(softest, 10 ** (level / 40)));

/**
 * How far a stroke's level is drawn to the mean of what is struck at the same place of other bars. What
 * sounds with kicks and back-beats hides how hard they are, and accents come again. Chosen on 36 MIDI and
 * 17 tracker pieces of the fitting halves; hats, which stand free, lose by it.
 */
const drawnToPlace: Partial<Record<DrumVoice, Fraction>> = { kick: 0.5, snare: 0.4, clap: 0.4 };
/** Bars before and after that are looked at. */
const nearBars = 8;
/** Beats by which the same place may be missed. */
const placeReach = 0.08;
/** So many other strokes say half of what very many would. */
const halfSaid = 2;

/**
 * Levels of the strokes of one voice, each drawn to what comes again.
 *
 * @param beats where the strokes fall, rising.
 * @param share 0–1, how far where very many strokes say the same.
 */
function drawnTogether(
  levels: readonly Decibels[],
  beats: readonly number[],
  beatsPerBar: number,
  share: Fraction,
): Decibels[] {
  const sums = new Float64Array(levels.length);
  const counts = new Uint32Array(levels.length);
  for (let i = 0; i < levels.length; i++) {
    for (let k = i + 1; k < levels.length; k++) {
      const apart = beats[k]! - beats[i]!;
      if (apart > nearBars * beatsPerBar + placeReach) break;
      const bars = round(apart / beatsPerBar);
      if (bars === 0 || abs(apart - bars * beatsPerBar) > placeReach) continue;
      sums[i]! += levels[k]!;
      counts[i]!++;
      sums[k]! += levels[i]!;
      counts[k]!++;
    }
  }
  return levels.map((level, i) => {
    const count = counts[i]!;
    return count === 0 ? level : level + ((share * count) / (count + halfSaid)) * (sums[i]! / count - level);
  });
}

/**
 * Hits of which those that count are as hard as the bands say, voice by voice.
 *
 * @param hits rising.
 * @param grid by which bars are held against one another; null where there is none.
 */
export function estimateVelocities(
  hits: readonly DrumHit[],
  bands: DrumBands,
  grid: Grid | null = null,
): DrumHit[] {
  const result = [...hits];
  for (const voice of drumVoices) {
    const weights = velocityModel[voice];
    const own = hits.flatMap((hit, i) =>
      hit.voice === voice && hit.confidence >= leastConfidence ? [i] : [],
    );
    if (!weights || own.length < 2) continue;
    const levels = own.map((i) => velocityLevel(hits[i]!.velocity));
    const usual = levels.reduce((a, b) => a + b, 0) / levels.length;
    const rises = bandRises(
      bands,
      own.map((i) => hits[i]!.time),
    );
    const kinds = own.map((i) => hits[i]!.kind ?? 0);
    const told = velocityFeatures(levels, rises, kinds).map(
      (features) => usual + features.reduce((sum, value, f) => sum + value * weights[f]!, 0),
    );
    const share = drawnToPlace[voice];
    const drawn =
      grid && share !== undefined
        ? drawnTogether(
            told,
            own.map((i) => beatAt(grid, hits[i]!.time)),
            grid.beatsPerBar,
            share,
          )
        : told;
    drawn.forEach((level, k) => {
      result[own[k]!] = { ...hits[own[k]!]!, velocity: velocityOf(level) };
    });
  }
  return result;
}
