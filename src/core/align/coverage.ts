/**
 * Which bars of the reference a version recreates. Every bar of the version is given a bar of the
 * reference, or none, along the path that agrees most (Viterbi 1967): going on bar by bar is free,
 * a jump costs as much as about one agreeing bar. That finds a whole track, a loop out of the
 * middle, something left out or put first, and sections in another order alike. Tried for every
 * transposition and for the readings of the version's grid that people know: half and double
 * tempo, off-beats taken for beats, bars counted from another beat.
 */
import { secondsAt, type Grid } from "../grid/grid";
import type { Fraction, Seconds } from "../units";
import type { DrumHit } from "../drums/hits";
import { barDrums, drumSimilarity } from "./barDrums";
import {
  barFeatures,
  similarityParts,
  type BarCurves,
  type BarFeatures,
  type SimilarityParts,
} from "./barFeatures";
import { leastRelated, relation, relationFeatures } from "./related";
import { relocated, spread, toldApart, type BarSimilarity } from "./relocation";
import { harmonyInCommon } from "./sameHarmony";
import { bestPath, meanAgreement, rowsOf, runsOf, straightened, tidied, type Path, type Run } from "./runs";

const { abs, ceil, floor, log2, max, min } = Math;

/** Neighbouring bars of the version that answer neighbouring bars of the reference. */
export interface CoverageSpan {
  /** Number of the first bar in the reference's grid. */
  referenceFirst: number;
  /** Number of the first bar in the version's grid. */
  versionFirst: number;
  bars: number;
}

/** How the version's beats are to be counted so that its bars are those of the reference. */
export interface GridReading {
  /** By how much faster beats are counted than measured: 1, ½, 2, ⅔, 3/2, ¾ or 4/3. */
  factor: number;
  /** By which share of a measured beat they lie after the measured ones. */
  shift: number;
  /** Which counted beat after the measured bar 1 begins bar 1; negative where bar 1 lies before. */
  firstBeat: number;
}

export const plainReading: GridReading = { factor: 1, shift: 0, firstBeat: 0 };

/** How a version lies along its reference. */
export interface Alignment {
  /** In the order of the version; empty where nothing agrees. */
  spans: CoverageSpan[];
  reading: GridReading;
  /** By how many semitones the version sounds higher, −5 … 6; null where one side is not pitched. */
  semitones: number | null;
  /** How much the bars that answer each other agree, 0–1. */
  agreement: Fraction;
  /** How much their harmony agrees, 0–1; null where one side has next to none. */
  harmony: Fraction | null;
  /** Probability 0–1 that the two have to do with each other at all; below ½ no bars are aligned. */
  related: Fraction;
}

/** One side of what is to be lined up. */
export interface AlignedSide {
  grid: Grid;
  curves: BarCurves;
  durationSeconds: Seconds;
  /** Drum hits as heard, in order of time; none where there are no drums. */
  hits: readonly DrumHit[];
}

/** A grid counted anew; beats are laid between and beyond those measured. */
export function readAnew(grid: Grid, { factor, shift, firstBeat }: GridReading, beatsPerBar: number): Grid {
  if (factor === 1 && shift === 0 && firstBeat === 0 && beatsPerBar === grid.beatsPerBar) return grid;
  const first = ceil((-grid.barOne - shift) * factor - 1e-9);
  const last = floor((grid.beats.length - 1 - grid.barOne - shift) * factor + 1e-9);
  return {
    ...grid,
    beats: Array.from({ length: last - first + 1 }, (_, k) => secondsAt(grid, (first + k) / factor + shift)),
    barOne: firstBeat - first,
    beatsPerBar,
    bpm: grid.bpm * factor,
  };
}

/** Cost of a jump, in agreement of one bar, where bars agree badly and where they agree very well. */
const dearestJump = 0.9;
const cheapestJump = 0.05;
/** How much a jump costs for each bit that bars disagree: disagreement makes chance gains likely. */
const jumpPerDisagreement = 1.2;
/** Shifts of the beat that are tried: off-beats, and swung or triplet eighths taken for beats. */
const triedShifts = [0, 1 / 2, 1 / 4, 3 / 4, 1 / 3, 2 / 3] as const;
/** What counts as plain is preferred by this much when other readings agree about as well. */
const plainer = { factor: 0.9, shift: 0.93, firstBeat: 0.985, semitones: 0.96 } as const;
/** Tempi further apart than this are not those of a version and its reference. */
const widestRatio = 1.85;
/** Readings of the tempo other than half and double are worth trying only where they come this near. */
const nearRatio = 1.15;
const triedFactors = [1, 2, 1 / 2, 3 / 2, 2 / 3, 4 / 3, 3 / 4] as const;
/** Bars under this share of the most pitched say nothing about the key. */
const leastPitched = 0.08;
/** Harmony that agrees less than this on average is chance: drums alone have some pitch too. */
const leastHarmony = 0.45;

/** How much the drums of bars say beside their rhythm as a whole. */
const drumWeight = 0.5;

/** What bars of two tracks are held against each other by. */
interface Parts extends SimilarityParts {
  drums: { similarity: Float32Array; says: Float32Array };
}

/**
 * How alike bars are: rhythm and harmony by halves where both are pitched, rhythm alone where one
 * is not or where no harmony is asked for; and drums where there are any.
 */
function agreementOf(
  { rhythm, level, pitched, drums: { similarity, says } }: Parts,
  harmony: Float32Array | null,
): Float32Array {
  return rhythm.map((value, i) => {
    const pitch = harmony ? pitched[i]! : 0;
    const drums = drumWeight * says[i]!;
    const sum = value + pitch * (harmony?.[i] ?? 0) + drums * similarity[i]!;
    return sum / (1 + pitch + drums) - level[i]!;
  });
}

/** Passages that agree within this share of the best are told apart by their exact timing. */
const alikeShare = 0.99;

/**
 * Where the same passage comes more than once in the reference, the one whose onsets agree to the
 * hundredth of a second; else the first.
 */
function exactPlace(
  run: Run,
  runs: readonly Run[],
  agreement: Float32Array,
  reference: AlignedSide,
  version: AlignedSide,
  features: { reference: BarFeatures; version: BarFeatures },
): Run {
  const versionBars = features.version.count;
  const sum = (start: number) => {
    let whole = 0;
    for (let i = 0; i < run.bars; i++) whole += agreement[(start + i) * versionBars + run.version + i]!;
    return whole;
  };
  const best = sum(run.reference);
  const answered = new Set(
    runs
      .filter((other) => other !== run)
      .flatMap((other) => Array.from({ length: other.bars }, (_, i) => other.reference + i)),
  );
  const places: number[] = [];
  for (let start = 0; start + run.bars <= features.reference.count; start++) {
    if (sum(start) < alikeShare * best) continue;
    if (Array.from({ length: run.bars }, (_, i) => start + i).some((row) => answered.has(row))) continue;
    places.push(start);
  }
  if (places.length < 2) return run;
  const own = exactOnsets(version, features.version.firstBar + run.version, run.bars);
  let place = run.reference;
  let closest = -Infinity;
  for (const start of places) {
    const other = exactOnsets(reference, features.reference.firstBar + start, run.bars);
    let product = 0;
    for (let i = 0; i < own.length; i++) product += own[i]! * other[i]!;
    // Of places that agree equally the first is taken.
    if (product > closest + 0.004) {
      closest = product;
      place = start;
    }
  }
  return { ...run, reference: place };
}

/** Steps a bar at which onsets are compared exactly. */
const exactSteps = 240;

/** Onset strength of some bars, finely, mean 0 and length 1. */
function exactOnsets({ grid, curves }: AlignedSide, firstBar: number, bars: number): Float32Array {
  const { ranges, framesPerSecond } = curves.onsets;
  const length = bars * exactSteps;
  const row = new Float32Array(length * ranges.length);
  ranges.forEach((range, r) => {
    let mean = 0;
    for (let i = 0; i < length; i++) {
      const beat = (firstBar - 1 + i / exactSteps) * grid.beatsPerBar;
      const value = Math.sqrt(range[Math.round(secondsAt(grid, beat) * framesPerSecond)] ?? 0);
      row[r * length + i] = value;
      mean += value / length;
    }
    for (let i = 0; i < length; i++) row[r * length + i]! -= mean;
  });
  const size = Math.sqrt(row.reduce((sum, x) => sum + x * x, 0)) || 1;
  return row.map((x) => x / size);
}

/** Bars that are held against each other exactly, at most: evenly out of all. */
const mostExact = 48;

/** How exactly the onsets of bars that answer each other agree on average, −1 … 1. */
function exactAgreement(
  runs: readonly Run[],
  sides: { reference: AlignedSide; version: AlignedSide },
  features: { reference: BarFeatures; version: BarFeatures },
): number {
  const pairs = runs.flatMap(({ reference, version, bars }) =>
    Array.from({ length: bars }, (_, i) => [reference + i, version + i] as const),
  );
  const step = max(1, pairs.length / mostExact);
  let sum = 0;
  let count = 0;
  for (let k = 0; k < pairs.length; k += step) {
    const [row, column] = pairs[floor(k)]!;
    const a = exactOnsets(sides.reference, features.reference.firstBar + row, 1);
    const b = exactOnsets(sides.version, features.version.firstBar + column, 1);
    for (let i = 0; i < a.length; i++) sum += a[i]! * b[i]!;
    count++;
  }
  return count > 0 ? sum / count : 0;
}

/** Bars before and after a bar that are held against each other to see whether something begins. */
const turningBars = 4;
/** How much more than other bars those counted from bar 1 must be turning points to be left: bar 1 is mostly right. */
const countedRight = 1.25;

/**
 * Row of the first bar that begins a group of four: counted from bar 1, unless the music turns
 * clearly more often on other bars, as where what was taken for bar 1 is the second bar.
 *
 * @param within likeness of the reference's bars to one another.
 */
function firstFour(within: Float32Array, { count, firstBar }: BarFeatures): number {
  const counted = (((1 - firstBar) % turningBars) + turningBars) % turningBars;
  const turns = new Float64Array(turningBars);
  for (let row = turningBars; row + turningBars <= count; row++) {
    let apart = 0;
    for (let i = 0; i < turningBars; i++) apart += 1 - within[(row - turningBars + i) * count + row + i]!;
    turns[row % turningBars]! += apart * apart;
  }
  const best = turns.indexOf(Math.max(...turns));
  return turns[best]! > countedRight * turns[counted]! ? best : counted;
}

/** A short run stays off its neighbour's line where it is told apart by this much. */
const leastTold = 0.3;

/** Semitones brought to −5 … 6. */
const nearestShift = (semitones: number): number => (semitones > 6 ? semitones - 12 : semitones);

/**
 * Lines a version up with its reference.
 *
 * @param readingKnown whether the version's grid was corrected by hand and is to be taken as it is.
 * @param onRelation is told what speaks for the two having to do with each other; for fitting.
 */
export function findCoverage(
  reference: AlignedSide,
  version: AlignedSide,
  readingKnown = false,
  onRelation?: (evidence: number[]) => void,
): Alignment {
  const own = barFeatures(reference.grid, reference.curves, reference.durationSeconds);
  const nothing: Alignment = {
    spans: [],
    reading: plainReading,
    semitones: null,
    agreement: 0,
    harmony: null,
    related: 0,
  };
  if (own.count === 0) return nothing;
  const { beatsPerBar } = reference.grid;
  interface Found {
    score: number;
    path: Path;
    reading: GridReading;
    semitones: number | null;
    side: AlignedSide;
    features: BarFeatures;
    agreement: Float32Array;
  }
  const factors = readingKnown ? [1] : triedFactors;
  const plainRatio = abs(log2(version.grid.bpm / reference.grid.bpm));
  const sides: { reading: GridReading; side: AlignedSide; features: BarFeatures; parts: Parts }[] = [];
  const drumsOf = ({ grid, hits }: AlignedSide, { firstBar, count }: BarFeatures) =>
    barDrums(hits, grid, firstBar, count);
  const ownDrums = drumsOf(reference, own);
  for (const factor of factors) {
    const ratio = abs(log2((version.grid.bpm * factor) / reference.grid.bpm));
    const isPlainFold = factor === 1 || factor === 2 || factor === 1 / 2;
    if (!isPlainFold && ratio > log2(nearRatio)) continue;
    if (ratio > log2(widestRatio) && !(factor === 1 && plainRatio <= ratio)) continue;
    for (const shift of readingKnown ? [0] : triedShifts) {
      for (let firstBeat = 0; firstBeat < (readingKnown ? 1 : beatsPerBar); firstBeat++) {
        const reading = { factor, shift, firstBeat };
        const side = { ...version, grid: readAnew(version.grid, reading, beatsPerBar) };
        if (side.grid.beats.length < beatsPerBar + 1) continue;
        const features = barFeatures(side.grid, side.curves, side.durationSeconds);
        if (features.count === 0) continue;
        const drums = drumSimilarity(ownDrums, drumsOf(side, features));
        sides.push({ reading, side, features, parts: { ...similarityParts(own, features), drums } });
      }
    }
  }
  const bestOver = (shifts: readonly (number | null)[]): Found | null => {
    let best: Found | null = null;
    for (const { reading, side, features, parts } of sides) {
      for (const semitones of shifts) {
        const harmony = semitones === null ? null : parts.harmonyAt(semitones);
        const agreement = agreementOf(parts, harmony);
        const path = bestPath(agreement, own.count, features.count, dearestJump);
        // Per second of music, so that double tempo does not count everything twice.
        const score =
          ((path.score * 60) / side.grid.bpm) *
          (reading.factor === 1 ? 1 : plainer.factor) *
          (reading.shift === 0 ? 1 : plainer.shift) *
          (reading.firstBeat === 0 ? 1 : plainer.firstBeat) *
          (semitones === 0 || semitones === null ? 1 : plainer.semitones);
        if (!best || score > best.score)
          best = { score, path, reading, semitones, side, features, agreement };
      }
    }
    return best;
  };
  const isPitched =
    own.pitched.some((p) => p > leastPitched) &&
    sides.some(({ features }) => features.harmony.some((value) => value !== 0));
  let best = isPitched ? bestOver(Array.from({ length: 12 }, (_, semitones) => semitones)) : null;
  if (best) {
    const chosen = best;
    const { parts } = sides.find(({ side }) => side === chosen.side)!;
    const harmony = parts.harmonyAt(best.semitones!);
    if (meanAgreement(best.path, harmony, best.features.count) < leastHarmony) best = null;
  }
  best ??= bestOver([null]);
  if (!best || best.path.score <= 0) return nothing;
  const { agreement, features, side } = best;
  const disagreement = 1 - meanAgreement(best.path, agreement, features.count);
  const jumpCost = max(cheapestJump, min(dearestJump, jumpPerDisagreement * disagreement));
  const path = bestPath(agreement, own.count, features.count, jumpCost);
  const ownParts = { ...similarityParts(own, own), drums: drumSimilarity(ownDrums, ownDrums) };
  const selfSimilarity = agreementOf(ownParts, best.semitones === null ? null : ownParts.harmonyAt(0));
  const similarity: BarSimilarity = {
    agreement,
    selfSimilarity,
    referenceBars: own.count,
    versionBars: features.count,
    firstFour: firstFour(selfSimilarity, own),
  };
  const straight = straightened(
    runsOf(relocated(path.rows, similarity)),
    similarity,
    (run, reference) => toldApart(similarity, run.version, run.bars, run.reference, reference) > leastTold,
  );
  const runs = tidied(
    runsOf(spread(rowsOf(straight, features.count), similarity)),
    agreement,
    own.count,
    features.count,
  );
  const placed = runs.map((run) =>
    exactPlace(run, runs, agreement, reference, side, { reference: own, version: features }),
  );
  const agreements = placed.flatMap((run) =>
    Array.from(
      { length: run.bars },
      (_, i) => agreement[(run.reference + i) * features.count + run.version + i]!,
    ),
  );
  if (agreements.length === 0) return nothing;
  const { parts } = sides.find((own) => own.side === side)!;
  const common = isPitched ? harmonyInCommon(own, features, parts, placed, best.semitones) : null;
  const evidence = relationFeatures({
    agreement,
    selfSimilarity,
    rhythm: parts.rhythm,
    drums: parts.drums,
    harmonyAt: isPitched ? parts.harmonyAt : null,
    semitones: best.semitones,
    common,
    referenceBars: own.count,
    versionBars: features.count,
    runs: placed,
    exactOnsets: exactAgreement(placed, { reference, version: side }, { reference: own, version: features }),
    quieter: { reference: own.quieter, version: features.quieter },
    tempoRatio: side.grid.bpm / reference.grid.bpm,
    isPlain: best.reading.factor === 1 && best.reading.shift === 0,
  });
  onRelation?.(evidence);
  const related = relation(evidence);
  // Some bars of any two tracks agree by chance; of tracks that are strangers none are said to answer.
  if (related < leastRelated) return { ...nothing, related };
  // A version's first whole bar is its bar 1 where its bars are counted anew.
  const isPlain = best.reading.factor === 1 && best.reading.shift === 0 && best.reading.firstBeat === 0;
  const before = isPlain ? 0 : features.firstBar - 1;
  return {
    spans: placed.map((run) => ({
      referenceFirst: own.firstBar + run.reference,
      versionFirst: features.firstBar + run.version - before,
      bars: run.bars,
    })),
    reading: { ...best.reading, firstBeat: best.reading.firstBeat + before * beatsPerBar },
    semitones: best.semitones === null ? null : nearestShift(best.semitones),
    agreement: max(0, min(1, agreements.reduce((a, b) => a + b, 0) / agreements.length)),
    harmony: common && common.agrees,
    related,
  };
}
