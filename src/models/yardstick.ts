/** A study held against what is typical of its style. */
import type { StudyResults, TrackRecord } from "@/core/study";
import {
  fewestTracks,
  figureNames,
  outside,
  toneBands,
  yardstickOf,
  type FigureName,
  type RecurringPattern,
  type TrackFigures,
  type TypicalRange,
} from "@/core/yardstick";
import { fixed, nominalFrequency } from "./format";

interface FigureWords {
  title: string;
  unit: string;
  places: number;
  /** What a track is that lies below or above the range, as in "faster". */
  below: string;
  above: string;
  /** Lying outside by less is not worth a word. */
  least: number;
}

/** Limits of what is worth a word: about what is heard. Common practice, no source. */
export const figureWords: Record<FigureName, FigureWords> = {
  tempo: { title: "Tempo", unit: "BPM", places: 1, below: "Slower", above: "Faster", least: 0.5 },
  swing: { title: "Swing", unit: "%", places: 1, below: "Straighter", above: "More swung", least: 1 },
  length: { title: "Length", unit: "bars", places: 0, below: "Shorter", above: "Longer", least: 8 },
  sectionBars: {
    title: "Typical section",
    unit: "bars",
    places: 0,
    below: "Shorter sections",
    above: "Longer sections",
    least: 2,
  },
  loudness: {
    title: "Integrated loudness",
    unit: "LUFS",
    places: 1,
    below: "Quieter",
    above: "Louder",
    least: 0.5,
  },
  loudnessRange: {
    title: "Loudness range",
    unit: "LU",
    places: 1,
    below: "Less loudness range",
    above: "More loudness range",
    least: 1,
  },
  peakToLoudness: {
    title: "Peak to loudness",
    unit: "LU",
    places: 1,
    below: "Limited harder",
    above: "Peaks stand out more",
    least: 0.5,
  },
  truePeak: {
    title: "True peak",
    unit: "dBTP",
    places: 1,
    below: "Lower peaks",
    above: "Higher peaks",
    least: 0.3,
  },
  slope: {
    title: "Spectral slope",
    unit: "dB/oct",
    places: 1,
    below: "Darker",
    above: "Brighter",
    least: 0.3,
  },
  below30: {
    title: "Below 30 Hz",
    unit: "dB",
    places: 1,
    below: "Less below 30 Hz",
    above: "More below 30 Hz",
    least: 2,
  },
  kickPitch: {
    title: "Kick pitch",
    unit: "Hz",
    places: 0,
    below: "Kick pitched lower",
    above: "Kick pitched higher",
    least: 2,
  },
  kickLength: {
    title: "Kick length",
    unit: "ms",
    places: 0,
    below: "Shorter kick",
    above: "Longer kick",
    least: 20,
  },
  kickToBass: {
    title: "Kick over bass",
    unit: "dB",
    places: 1,
    below: "Kick softer against the bass",
    above: "Kick louder against the bass",
    least: 1,
  },
  bassEvenness: {
    title: "Spread of bass notes",
    unit: "dB",
    places: 1,
    below: "More even bass",
    above: "Less even bass",
    least: 1,
  },
  width: { title: "Side to mid", unit: "dB", places: 1, below: "Narrower", above: "Wider", least: 1 },
  lowWidth: {
    title: "Side to mid below 120 Hz",
    unit: "dB",
    places: 1,
    below: "Narrower low end",
    above: "Wider low end",
    least: 3,
  },
};

export interface FigureRow {
  name: FigureName;
  range: TypicalRange | null;
  reference: number | null;
  version: number | null;
}

export interface ToneRow {
  centre: number;
  low: number;
  median: number;
  high: number;
  reference: number | null;
  version: number | null;
}

/** A study that tracks can be taken from. */
export interface YardstickSource {
  id: string;
  title: string;
  /** How many tracks its own yardstick has. */
  tracks: number;
}

export interface YardstickModel {
  /** How many tracks have been measured, and how many there are. */
  measured: number;
  tracks: number;
  /** How many are counted twice or half as fast as they were read, because the others are. */
  recounted: number;
  rows: FigureRow[];
  tone: ToneRow[] | null;
  patterns: (RecurringPattern & Record<"reference" | "version", boolean>)[];
  /** How many of the figures that both have a range and a value lie within it. */
  within: Record<"reference" | "version", { count: number; of: number }>;
  /** What is unusual about each side, the most unusual first. */
  unusual: Record<"reference" | "version", string[]>;
}

/** Whether a value lies within what is typical, or hardly outside; true where nothing can be said. */
export const isTypical = (
  { name, range }: Pick<FigureRow, "name" | "range">,
  value: number | null,
): boolean => value === null || range === null || Math.abs(outside(value, range)) < figureWords[name].least;

const valueWords = (name: FigureName, value: number): string => {
  const { unit, places } = figureWords[name];
  return `${fixed(value, places)} ${unit}`;
};

export const rangeWords = (name: FigureName, { low, high }: TypicalRange): string => {
  const { places, unit } = figureWords[name];
  const [from, to] = [fixed(low, places), fixed(high, places)];
  return from === to ? `${from} ${unit}` : `${from} to ${to} ${unit}`;
};

/** Bands outside the range by less are not worth a word. */
const leastToneDb = 1.5;
const fewestBands = 2;

function unusualTone(rows: readonly ToneRow[], side: "reference" | "version") {
  const sentences: { words: string; by: number }[] = [];
  let run: { first: number; last: number; most: number } | null = null;
  const end = () => {
    if (run && run.last - run.first + 1 >= fewestBands) {
      const range = `${nominalFrequency(rows[run.first]!.centre)} to ${nominalFrequency(rows[run.last]!.centre)}`;
      sentences.push({
        words: `${run.most > 0 ? "More" : "Less"} from ${range}: up to ${fixed(Math.abs(run.most), 1)} dB ${run.most > 0 ? "above" : "below"} the range.`,
        by: Math.abs(run.most) / 3,
      });
    }
    run = null;
  };
  rows.forEach((row, i) => {
    const value = row[side];
    const by = value === null ? 0 : outside(value, row);
    const isOut = Math.abs(by) >= leastToneDb;
    if (run && (!isOut || by > 0 !== run.most > 0)) end();
    if (!isOut) return;
    if (!run) run = { first: i, last: i, most: by };
    run.last = i;
    if (Math.abs(by) > Math.abs(run.most)) run.most = by;
  });
  end();
  return sentences;
}

/** What follows from how a track is counted. */
const hangOnTheCount: readonly FigureName[] = ["tempo", "swing", "length", "sectionBars"];

/** Where a track is counted at half or double the usual tempo that is said first: much follows from it. */
function otherCount({ rows }: Pick<YardstickModel, "rows">, side: "reference" | "version"): string | null {
  const { name, range, [side]: value } = rows.find((row) => row.name === "tempo")!;
  if (!range || value === null || isTypical({ name, range }, value)) return null;
  const usual = ([2, 0.5] as const).find((times) => isTypical({ name, range }, times * value));
  return usual === undefined
    ? null
    : `Counted ${usual === 2 ? "half" : "twice"} as fast as is typical: ${valueWords(name, value)}; most have ${rangeWords(name, range)}. Its bars, sections and swing are counted so, too.`;
}

function unusualOf(model: Pick<YardstickModel, "rows" | "tone">, side: "reference" | "version"): string[] {
  const count = otherCount(model, side);
  const figures = model.rows.flatMap(({ name, range, [side]: value }) => {
    if (!range || value === null || isTypical({ name, range }, value)) return [];
    if (count !== null && hangOnTheCount.includes(name)) return [];
    const by = outside(value, range);
    const { above, below, least } = figureWords[name];
    return {
      words: `${by > 0 ? above : below} than is typical: ${valueWords(name, value)}; most have ${rangeWords(name, range)}.`,
      by: Math.abs(by) / Math.max(least, range.high - range.low),
    };
  });
  const sentences = [...figures, ...(model.tone ? unusualTone(model.tone, side) : [])]
    .sort((a, b) => b.by - a.by)
    .map(({ words }) => words);
  return count === null ? sentences : [count, ...sentences];
}

/**
 * @param figures of its tracks and of the study's own that have been measured, by file hash.
 * @param number of the version; the newest where there is none with it.
 */
export function yardstickModel(
  { study, grids }: Pick<StudyResults, "study" | "grids">,
  figures: ReadonlyMap<string, TrackFigures>,
  number: number | null,
): YardstickModel {
  const version = study.versions.find((own) => own.number === number) ?? study.versions.at(-1) ?? null;
  const own = (track: TrackRecord | null): TrackFigures | null => {
    const measured = track && figures.get(track.file.hash);
    if (!track || !measured) return null;
    // The tempo as it counts, where it was corrected.
    const bpm = grids.get(track.id)?.bpm ?? measured.values.tempo;
    return { ...measured, values: { ...measured.values, tempo: bpm } };
  };
  const sides = { reference: own(study.reference), version: own(version) };
  const all = study.yardstick.flatMap(({ file }) => figures.get(file.hash) ?? []);
  const yardstick = yardstickOf(all);
  const rows = figureNames.map((name) => ({
    name,
    range: yardstick.ranges[name],
    reference: sides.reference?.values[name] ?? null,
    version: sides.version?.values[name] ?? null,
  }));
  const { tone: bands } = yardstick;
  const tone =
    bands &&
    toneBands.map(({ centre }, i) => ({
      centre,
      low: bands.low[i]!,
      median: bands.median[i]!,
      high: bands.high[i]!,
      reference: sides.reference?.tone[i] ?? null,
      version: sides.version?.tone[i] ?? null,
    }));
  const unusual = (side: "reference" | "version") => unusualOf({ rows, tone }, side);
  const within = (side: "reference" | "version") => {
    const known = rows.filter((row) => row.range && row[side] !== null);
    return { count: known.filter((row) => isTypical(row, row[side])).length, of: known.length };
  };
  return {
    measured: all.length,
    recounted: all.filter(({ countedAs }) => countedAs !== 1).length,
    tracks: study.yardstick.length,
    rows,
    tone,
    patterns: yardstick.patterns.map((pattern) => ({
      ...pattern,
      reference: sides.reference?.patterns[pattern.group] === pattern.steps,
      version: sides.version?.patterns[pattern.group] === pattern.steps,
    })),
    within: { reference: within("reference"), version: within("version") },
    unusual: { reference: unusual("reference"), version: unusual("version") },
  };
}

export const isEnough = ({ measured }: Pick<YardstickModel, "measured">): boolean => measured >= fewestTracks;
