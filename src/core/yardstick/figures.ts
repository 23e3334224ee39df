/** What several tracks of a style are typical in: a handful of figures of each, its tone curve and its drum patterns. */
import type { TrackAnalysis } from "../analysis/result";
import {
  countedDrums,
  placeHits,
  stepsPerBeat,
  swingOfDrums,
  typicalPattern,
  type DrumVoice,
} from "../drums";
import { gridOf } from "../grid/correction";
import { barsOf, type Grid } from "../grid/grid";
import { countedPlan } from "../plan";
import { lowEndWidth, stereoOfWhole } from "../stereo";
import { bands, toneWeight, widenBands } from "../tone";
import type { Decibels } from "../units";
import { countedAlike, countedGrid, countedSwing, type CountedAs } from "./countedAlike";

export const figureNames = [
  "tempo",
  "swing",
  "length",
  "sectionBars",
  "loudness",
  "loudnessRange",
  "peakToLoudness",
  "truePeak",
  "slope",
  "below30",
  "kickPitch",
  "kickLength",
  "kickToBass",
  "bassEvenness",
  "width",
  "lowWidth",
] as const;
export type FigureName = (typeof figureNames)[number];

/** Drums whose patterns are looked at for what recurs. */
export const patternGroups = {
  kick: ["kick"],
  "snare or clap": ["snare", "clap", "rim"],
  hats: ["hat", "openHat"],
} as const satisfies Record<string, readonly DrumVoice[]>;
export type PatternGroup = keyof typeof patternGroups;

export interface TrackFigures {
  /** How it is counted beside others of its style. */
  countedAs: CountedAs;
  /** Null where a track has none, or it could not be measured. */
  values: Record<FigureName, number | null>;
  /** Third-octave bands against their mean as it is heard, dB; −∞ nowhere: quiet bands stop at −60. */
  tone: Float32Array;
  /** Steps of the bar that are struck as a rule: `X...X...`; null where the group does not play. */
  patterns: Record<PatternGroup, string | null>;
}

const { log10, max } = Math;
const faintest: Decibels = -60;
const perOctave = 3;
export const toneBands = bands(perOctave);

/** A tone curve at equal weight: each band against the mean of the bands that count. */
export function toneCurve(powers: ArrayLike<number>): Float32Array {
  const wide = widenBands(powers, perOctave);
  const levels = Float32Array.from(wide, (power) => 10 * log10(max(power, 1e-14)));
  let sum = 0;
  let weights = 0;
  levels.forEach((level, i) => {
    const weight = toneWeight(toneBands[i]!.centre);
    sum += weight * level;
    weights += weight;
  });
  return levels.map((level) => max(faintest, level - sum / weights));
}

/** Of a bar of so many steps those on which a group is struck in more than half of the bars. */
function patternOf(placed: ReturnType<typeof placeHits>, grid: Grid, group: PatternGroup): string | null {
  const shape = { beatsPerBar: grid.beatsPerBar, stepsPerBeat: stepsPerBeat(grid.beatsPerBar) };
  const voices: readonly DrumVoice[] = patternGroups[group];
  const own = placed.filter(({ hit }) => voices.includes(hit.voice));
  if (own.length < 4) return null;
  const { first, last } = barsOf(grid);
  const { hits, periodBars } = typicalPattern(own, { first: max(1, first), last }, shape);
  if (hits.length === 0) return null;
  const steps = shape.beatsPerBar * shape.stepsPerBeat;
  const row = Array.from({ length: steps * periodBars }, () => ".");
  for (const { step } of hits) row[step] = "x";
  return row.join("");
}

/** Of some lengths the one that half of the whole lies in or below; null of none. */
export function typicalLength(lengths: readonly number[]): number | null {
  const sorted = [...lengths].sort((a, b) => a - b);
  const half = sorted.reduce((sum, length) => sum + length, 0) / 2;
  let covered = 0;
  return sorted.find((length) => (covered += length) >= half) ?? null;
}

/** Figures of the tracks of one style, each counted as the others are. */
export function figuresOfStyle(analyses: readonly TrackAnalysis[]): TrackFigures[] {
  const counted = countedAlike(analyses.map(({ tempo }) => tempo));
  return analyses.map((analysis, i) => trackFigures(analysis, counted[i]!));
}

/** All figures of a track, as measured, or counted twice or half as fast. */
export function trackFigures(analysis: TrackAnalysis, as: CountedAs = 1): TrackFigures {
  const { loudness, lowEnd, spectrum, plan } = analysis;
  const read = gridOf(analysis.grid, analysis.durationSeconds);
  const sections = countedPlan(plan).sections.map(({ firstBar, lastBar }) => as * (lastBar - firstBar + 1));
  const { hits } = countedDrums(analysis.drums, {}, read);
  const grid = read && countedGrid(read, as);
  const swing = grid && swingOfDrums(hits, grid, analysis.grid && countedSwing(analysis.grid.swing, as));
  const placed = grid && swing ? placeHits(hits, grid, swing) : [];
  const bars = grid && barsOf(grid);
  return {
    countedAs: as,
    values: {
      tempo: grid?.bpm ?? (analysis.tempo ? as * analysis.tempo.bpm : null),
      swing: swing?.percent ?? null,
      length: bars ? bars.last - max(1, bars.first) + 1 : null,
      sectionBars: typicalLength(sections),
      loudness: loudness.integratedLufs,
      loudnessRange: loudness.loudnessRangeLu,
      peakToLoudness: loudness.peakToLoudnessLu,
      truePeak: loudness.truePeakDbtp,
      slope: analysis.slopeDbPerOctave,
      below30: lowEnd.below30Db,
      kickPitch: lowEnd.kickHz,
      kickLength:
        lowEnd.kickLengthBeats !== null && read ? (60_000 * lowEnd.kickLengthBeats) / read.bpm : null,
      kickToBass: lowEnd.kickToBassDb,
      bassEvenness: lowEnd.bassEvennessDb,
      width: stereoOfWhole(spectrum).sideToMidDb,
      lowWidth: lowEndWidth(spectrum),
    },
    tone: toneCurve(spectrum.mid.map((power, i) => power + spectrum.side[i]!)),
    patterns: {
      kick: grid && patternOf(placed, grid, "kick"),
      "snare or clap": grid && patternOf(placed, grid, "snare or clap"),
      hats: grid && patternOf(placed, grid, "hats"),
    },
  };
}
