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
import {
  barFeatures,
  similarityParts,
  type BarCurves,
  type BarFeatures,
  type SimilarityParts,
} from "./barFeatures";

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
}

/** One side of what is to be lined up. */
export interface AlignedSide {
  grid: Grid;
  curves: BarCurves;
  durationSeconds: Seconds;
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

/** What agreeing by chance is worth: below this a bar is better left without an answer. */
const chanceAgreement = 0.12;
/** Cost of a jump, in agreement of one bar, where bars agree badly and where they agree very well. */
const dearestJump = 0.9;
const cheapestJump = 0.05;
/** How much a jump costs for each bit that bars disagree: disagreement makes chance gains likely. */
const jumpPerDisagreement = 1.2;
/** Cost of beginning or ending to answer in the middle, as a share of a jump's. */
const gapShare = 0.5;
/** Shifts of the beat that are tried: off-beats, and swung or triplet eighths taken for beats. */
const triedShifts = [0, 1 / 2, 1 / 4, 3 / 4, 1 / 3, 2 / 3] as const;
/** Bars of an empty passage between two spans on one line that are still taken as in their place. */
const longestGap = 32;
/** Beginnings or ends of both tracks that lie this many bars apart belong together. */
const commonEdge = 1;
/** What counts as plain is preferred by this much when other readings agree about as well. */
const plainer = { factor: 0.9, shift: 0.93, firstBeat: 0.985, semitones: 0.96 } as const;
/** Tempi further apart than this are not those of a version and its reference. */
const widestRatio = 1.85;
/** Readings of the tempo other than half and double are worth trying only where they come this near. */
const nearRatio = 1.15;
const triedFactors = [1, 2, 1 / 2, 3 / 2, 2 / 3, 4 / 3, 3 / 4] as const;
/** A bar at the edge of a span that agrees less than this share of the span's mean does not belong. */
const edgeShare = 0.35;
/** Bars under this share of the most pitched say nothing about the key. */
const leastPitched = 0.08;
/** Harmony that agrees less than this on average is chance: drums alone have some pitch too. */
const leastHarmony = 0.45;

/** How alike bars are: rhythm and harmony by halves, or rhythm alone where no harmony is asked for. */
function agreementOf({ rhythm, level }: SimilarityParts, harmony: Float32Array | null): Float32Array {
  return rhythm.map((value, i) => (harmony ? (value + harmony[i]!) / 2 : value) - level[i]!);
}

interface Path {
  score: number;
  /** Row of the reference for each row of the version; −1 where there is none. */
  rows: Int32Array;
}

function bestPath(
  agreement: Float32Array,
  referenceBars: number,
  versionBars: number,
  jumpCost: number,
): Path {
  const gapCost = gapShare * jumpCost;
  const states = referenceBars + 1;
  const none = referenceBars;
  let scores = new Float64Array(states).fill(-Infinity);
  let next = new Float64Array(states);
  const from = new Int32Array(versionBars * states).fill(-1);
  for (let v = 0; v < versionBars; v++) {
    let best = none;
    if (v > 0) for (let r = 0; r < states; r++) if (scores[r]! > scores[best]!) best = r;
    const bestScore = scores[best]!;
    for (let r = 0; r < referenceBars; r++) {
      let value = 0;
      let before = -1;
      if (v > 0) {
        value = r > 0 ? scores[r - 1]! : -Infinity;
        before = r - 1;
        if (scores[none]! - gapCost > value) {
          value = scores[none]! - gapCost;
          before = none;
        }
        if (best !== none && bestScore - jumpCost > value) {
          value = bestScore - jumpCost;
          before = best;
        }
      }
      next[r] = value + agreement[r * versionBars + v]! - chanceAgreement;
      from[v * states + r] = before;
    }
    next[none] = v === 0 ? 0 : scores[none]!;
    from[v * states + none] = v === 0 ? -1 : none;
    if (v > 0 && best !== none && bestScore - gapCost > next[none]!) {
      next[none] = bestScore - gapCost;
      from[v * states + none] = best;
    }
    [scores, next] = [next, scores];
  }
  let state = none;
  for (let r = 0; r < states; r++) if (scores[r]! > scores[state]!) state = r;
  const rows = new Int32Array(versionBars).fill(-1);
  const score = scores[state]!;
  for (let v = versionBars - 1; v >= 0; v--) {
    rows[v] = state === none ? -1 : state;
    state = from[v * states + state]!;
  }
  return { score, rows };
}

interface Run {
  reference: number;
  version: number;
  bars: number;
}

function runsOf(rows: Int32Array): Run[] {
  const runs: Run[] = [];
  for (let v = 0; v < rows.length; v++) {
    if (rows[v]! < 0) continue;
    const last = runs.at(-1);
    if (last && last.version + last.bars === v && last.reference + last.bars === rows[v]) last.bars++;
    else runs.push({ reference: rows[v]!, version: v, bars: 1 });
  }
  return runs;
}

/** How well the bars of a path agree on average. */
function meanAgreement({ rows }: Path, agreement: Float32Array, versionBars: number): number {
  let sum = 0;
  let count = 0;
  for (let v = 0; v < versionBars; v++) {
    if (rows[v]! < 0) continue;
    sum += agreement[rows[v]! * versionBars + v]!;
    count++;
  }
  return count > 0 ? sum / count : 0;
}

/**
 * Runs on one line with an empty passage between them become one, and a run whose line leads to the
 * beginning or end of both tracks goes on to there: what is missing in the version is then an
 * element, not bars.
 */
function joined(runs: readonly Run[], referenceBars: number, versionBars: number): Run[] {
  const result: Run[] = [];
  for (const run of runs) {
    const last = result.at(-1);
    const gap = last ? run.version - last.version - last.bars : 0;
    const onLine = last !== undefined && run.reference - last.reference === run.version - last.version;
    if (last && onLine && gap <= longestGap) last.bars += gap + run.bars;
    else result.push({ ...run });
  }
  const first = result[0];
  if (first && abs(first.reference - first.version) <= commonEdge) {
    const on = min(first.reference, first.version);
    first.reference -= on;
    first.version -= on;
    first.bars += on;
  }
  const last = result.at(-1);
  if (last) {
    const referenceLeft = referenceBars - last.reference - last.bars;
    const versionLeft = versionBars - last.version - last.bars;
    if (abs(referenceLeft - versionLeft) <= commonEdge) last.bars += min(referenceLeft, versionLeft);
  }
  return result;
}

/** Runs shorter than this are often chance: music is made of fours and eights. */
const usualRun = 8;
const shortestRun = 4;
/** What a bar may lose in agreement where a run is put back on its neighbour's line. */
const straightening = { usual: 0.05, short: 0.3, edge: 0.6 } as const;
/** What beginning on a multiple of four bars is worth, in agreement of one bar. */
const onFours = 0.25;
const farthestEdge = 3;

/**
 * Puts short runs back on the line of a neighbour where that costs little, and moves the place of a
 * jump by a bar or two to where fours begin.
 */
function straightened(
  runs: readonly Run[],
  agreement: Float32Array,
  { referenceBars, versionBars, firstBar }: { referenceBars: number; versionBars: number; firstBar: number },
): Run[] {
  const at = (reference: number, version: number) => agreement[reference * versionBars + version]!;
  const sum = (reference: number, version: number, bars: number) => {
    let whole = 0;
    for (let i = 0; i < bars; i++) whole += at(reference + i, version + i);
    return whole;
  };
  const result = runs.map((run) => ({ ...run }));
  for (const [place, run] of result.entries()) {
    if (run.bars >= usualRun) continue;
    for (const neighbour of [result[place + 1], result[place - 1]]) {
      if (!neighbour || neighbour.bars <= run.bars) continue;
      const reference = run.version + neighbour.reference - neighbour.version;
      if (reference < 0 || reference + run.bars > referenceBars) continue;
      // An intro or outro with little in it agrees with anything; it stands where both tracks have it.
      const isEdge =
        (run.version === 0 && reference <= commonEdge) ||
        (run.version + run.bars === versionBars && reference + run.bars >= referenceBars - commonEdge);
      const loss = isEdge
        ? straightening.edge
        : run.bars < shortestRun
          ? straightening.short
          : straightening.usual;
      const own = sum(run.reference, run.version, run.bars);
      if (own - sum(reference, run.version, run.bars) < loss * run.bars) {
        run.reference = reference;
        break;
      }
    }
  }
  const merged = joined(result, referenceBars, versionBars);
  for (let place = 1; place < merged.length; place++) {
    const before = merged[place - 1]!;
    const run = merged[place]!;
    if (before.version + before.bars !== run.version) continue;
    const fours = (row: number) => ((row + firstBar - 1) % 4 === 0 ? onFours : 0);
    let best = { by: 0, value: fours(run.reference) + fours(before.reference + before.bars) };
    for (let by = -farthestEdge; by <= farthestEdge; by++) {
      if (by === 0 || before.bars + by < 1 || run.bars - by < 1) continue;
      if (run.reference + by < 0 || before.reference + before.bars + by > referenceBars) continue;
      // What is gained on one side and lost on the other by the bars in between.
      const moved = abs(by);
      const gain =
        by > 0
          ? sum(before.reference + before.bars, run.version, moved) - sum(run.reference, run.version, moved)
          : sum(run.reference + by, run.version + by, moved) -
            sum(before.reference + before.bars + by, run.version + by, moved);
      const value = gain + fours(run.reference + by) + fours(before.reference + before.bars + by);
      if (value > best.value + 1e-6) best = { by, value };
    }
    before.bars += best.by;
    run.reference += best.by;
    run.version += best.by;
    run.bars -= best.by;
  }
  return merged;
}

/** Takes away what does not agree at the ends of a run, and bars that another run answers better. */
function tidied(
  runs: readonly Run[],
  agreement: Float32Array,
  referenceBars: number,
  versionBars: number,
): Run[] {
  const at = (run: Run, i: number) => agreement[(run.reference + i) * versionBars + run.version + i]!;
  const trimmed = runs.flatMap((run) => {
    const mean = Array.from({ length: run.bars }, (_, i) => at(run, i)).reduce((a, b) => a + b, 0) / run.bars;
    let first = 0;
    let last = run.bars - 1;
    while (first <= last && at(run, first) < max(chanceAgreement, edgeShare * mean)) first++;
    while (last >= first && at(run, last) < max(chanceAgreement, edgeShare * mean)) last--;
    const bars = last - first + 1;
    // A single bar between others is chance, not a recreation.
    if (bars < 1 || (bars === 1 && versionBars > 3)) return [];
    return [{ reference: run.reference + first, version: run.version + first, bars }];
  });
  // Each bar of the reference is answered once: by the longer run, of equal ones by the first.
  const taken = new Set<number>();
  const kept: Run[] = [];
  for (const run of joined(trimmed, referenceBars, versionBars).sort(
    (a, b) => b.bars - a.bars || a.version - b.version,
  )) {
    let begun: Run | null = null;
    for (let i = 0; i < run.bars; i++) {
      if (taken.has(run.reference + i)) begun = null;
      else {
        taken.add(run.reference + i);
        if (begun) begun.bars++;
        else kept.push((begun = { reference: run.reference + i, version: run.version + i, bars: 1 }));
      }
    }
  }
  const whole = kept.filter((run) => run.bars > 1 || versionBars <= 3).sort((a, b) => a.version - b.version);
  // What was taken twice may have left an empty passage on one line.
  return joined(whole, referenceBars, versionBars);
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

/** Semitones brought to −5 … 6. */
const nearestShift = (semitones: number): number => (semitones > 6 ? semitones - 12 : semitones);

/**
 * Lines a version up with its reference.
 *
 * @param readingKnown whether the version's grid was corrected by hand and is to be taken as it is.
 */
export function findCoverage(reference: AlignedSide, version: AlignedSide, readingKnown = false): Alignment {
  const own = barFeatures(reference.grid, reference.curves, reference.durationSeconds);
  const nothing: Alignment = { spans: [], reading: plainReading, semitones: null, agreement: 0 };
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
  const sides: { reading: GridReading; side: AlignedSide; features: BarFeatures; parts: SimilarityParts }[] =
    [];
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
        sides.push({ reading, side, features, parts: similarityParts(own, features) });
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
  const straight = straightened(runsOf(path.rows), agreement, {
    referenceBars: own.count,
    versionBars: features.count,
    firstBar: own.firstBar,
  });
  const runs = tidied(straight, agreement, own.count, features.count);
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
  };
}
