/**
 * Resonances: narrow peaks of the spectrum that stand above what lies around them and stay there
 * whatever is played. Each short spectrum is held against its own smoothed shape, so that loudness
 * and tilt do not matter; notes come and go, and what stays over most of the time is the resonance.
 * Common practice, no source: people sweep a narrow boost to find a harsh place.
 */
import { quantileOfSorted } from "../median";
import type { Decibels, Fraction, Hertz } from "../units";

const { floor, log10, log2, max, min, round } = Math;

/** Bands an octave, and the range in which resonances are looked for. */
const perOctave = 24;
const lowest: Hertz = 140;
const highest: Hertz = 14000;
export const fineBandCount = floor(perOctave * log2(highest / lowest));
const centreOf = (band: number): Hertz => lowest * 2 ** (band / perOctave);

export interface Resonance {
  hz: Hertz;
  /** How far it stands above its surroundings in the middle of the time. */
  heightDb: Decibels;
  /** Share of the time in which it does. */
  constancy: Fraction;
}

/** What is found in one track. */
export interface ResonanceEstimate {
  /** How far each fine band stands above its surroundings in the middle of the time, dB; `fineBandCount` values. */
  excess: number[];
  /** The highest first. */
  resonances: Resonance[];
}

/** Bands on either side that a spectrum is smoothed over: half an octave. */
const around = 12;
/** Bands on either side that belong to the peak itself. */
const inside = 3;

/** Gathers short spectra and finds the resonances in them. */
export interface ResonanceGatherer {
  /** @param powers of the bins of one frame. */
  add(powers: Float32Array): void;
  finish(): ResonanceEstimate;
}

/**
 * @param binWidth of the spectra, Hz.
 * @param binCount of a spectrum.
 */
export function resonanceGatherer(binWidth: Hertz, binCount: number): ResonanceGatherer {
  const firstBins = new Int32Array(fineBandCount + 1);
  for (let b = 0; b <= fineBandCount; b++) {
    firstBins[b] = min(binCount - 1, round((lowest * 2 ** ((b - 0.5) / perOctave)) / binWidth));
  }
  const frames: Float32Array[] = [];
  return {
    add(powers) {
      const row = new Float32Array(fineBandCount);
      for (let b = 0; b < fineBandCount; b++) {
        const first = firstBins[b]!;
        const last = max(first, firstBins[b + 1]! - 1);
        let sum = 0;
        for (let bin = first; bin <= last; bin++) sum += powers[bin]!;
        row[b] = 10 * log10(sum / (last - first + 1) + 1e-20);
      }
      frames.push(row);
    },
    finish: () => estimateResonances(frames),
  };
}

/** Frames this far below the loudest one of a band say nothing of it. */
const audible: Decibels = 35;

const middleOf = (x: number, y: number, z: number): number => max(min(x, y), min(max(x, y), z));
const quantile = (sorted: Float32Array, share: Fraction): number =>
  sorted.length > 0 ? quantileOfSorted(sorted, share) : 0;
const tenths = (value: number): number => round(10 * value) / 10;

/** A peak must be this high in the middle of the time, and still stand out in three quarters of it. */
const leastHeight: Decibels = 2.2;
const leastLow: Decibels = 0;
/** Fewer frames say nothing: about six seconds. */
const leastFrames = 16;
const mostResonances = 8;

function estimateResonances(frames: readonly Float32Array[]): ResonanceEstimate {
  const smoothed = frames.map((row) => {
    const sums = new Float64Array(fineBandCount + 1);
    for (let b = 0; b < fineBandCount; b++) sums[b + 1] = sums[b]! + row[b]!;
    const between = (from: number, to: number) => {
      const [first, end] = [max(0, from), min(fineBandCount, to + 1)];
      return end > first ? { sum: sums[end]! - sums[first]!, count: end - first } : { sum: 0, count: 0 };
    };
    return Float32Array.from(row, (_, b) => {
      const below = between(b - around, b - inside - 1);
      const above = between(b + inside + 1, b + around);
      return (below.sum + above.sum) / (below.count + above.count);
    });
  });
  const excess: number[] = [];
  const wide: { sorted: Float32Array; height: number; low: number }[] = [];
  for (let b = 0; b < fineBandCount; b++) {
    const loudest = smoothed.reduce((most, own) => max(most, own[b]!), -200);
    const own: number[] = [];
    const middle: number[] = [];
    frames.forEach((row, f) => {
      const level = smoothed[f]![b]!;
      if (level <= loudest - audible || level < -180) return;
      own.push(row[b]! - level);
      // The middle one of three: a note stands in one band, a resonance in several.
      middle.push(middleOf(row[max(0, b - 1)]!, row[b]!, row[min(fineBandCount - 1, b + 1)]!) - level);
    });
    excess.push(own.length < leastFrames ? 0 : tenths(quantile(Float32Array.from(own).sort(), 0.5)));
    const sorted = Float32Array.from(middle).sort();
    wide.push({ sorted, height: quantile(sorted, 0.5), low: quantile(sorted, 0.25) });
  }
  const resonances = wide.flatMap(({ sorted, height, low }, b): Resonance[] => {
    if (sorted.length < leastFrames || height < leastHeight || low < leastLow) return [];
    if (height < (wide[b - 1]?.height ?? Infinity) || height <= (wide[b + 1]?.height ?? Infinity)) return [];
    const below = sorted.findIndex((value) => value >= leastHeight / 2);
    return [
      {
        hz: tenths(topOf([b - 1, b, b + 1].map((own) => excess[own]!) as [number, number, number], b)),
        heightDb: tenths(height),
        constancy: below < 0 ? 0 : round(100 * (1 - below / sorted.length)) / 100,
      },
    ];
  });
  return {
    excess,
    resonances: resonances.sort((a, b) => b.heightDb - a.heightDb).slice(0, mostResonances),
  };
}

/** The top of a parabola through a band and its neighbours, Hz. */
function topOf([before, own, after]: [number, number, number], band: number): Hertz {
  const bend = before - 2 * own + after;
  const off = bend < 0 ? max(-1, min(1, (0.5 * (before - after)) / bend)) : 0;
  return centreOf(band + off);
}

/** A peak that one side has and the other has not, so much higher. */
export interface ResonanceGap {
  hz: Hertz;
  /** How much more it stands out in the version (+) or in the reference (−). */
  gapDb: Decibels;
}

/** Peaks must stand out by so much more than on the other side. */
const leastGap: Decibels = 2.5;
/** What is narrower than this between its neighbours is a note that one side plays. */
const leastWidth: Fraction = 0.3;

/** Narrow peaks that stand out on one side only; the tune they play is the same and cancels out. */
export function resonanceGaps(reference: readonly number[], version: readonly number[]): ResonanceGap[] {
  const gaps = version.map((own, b) => own - reference[b]!);
  return gaps
    .flatMap((gap, b): ResonanceGap[] => {
      const size = Math.abs(gap);
      if (b === 0 || b === gaps.length - 1 || size < leastGap) return [];
      const sign = Math.sign(gap);
      const [before, after] = [sign * gaps[b - 1]!, sign * gaps[b + 1]!];
      if (size < before || size <= after || min(before, after) < leastWidth * size) return [];
      return [{ hz: tenths(topOf([before, size, after], b)), gapDb: tenths(gap) }];
    })
    .sort((a, b) => Math.abs(b.gapDb) - Math.abs(a.gapDb))
    .slice(0, mostResonances);
}
