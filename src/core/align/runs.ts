/** Paths through the bars of two tracks, and the runs that they are made of. */
import type { BarSimilarity } from "./relocation";

const { abs, max, min } = Math;

/** What agreeing by chance is worth: below this a bar is better left without an answer. */
const chanceAgreement = 0.12;
/** Cost of beginning or ending to answer in the middle, as a share of a jump's. */
const gapShare = 0.5;
/** Bars of an empty passage between two spans on one line that are still taken as in their place. */
const longestGap = 32;
/** Beginnings or ends of both tracks that lie this many bars apart belong together. */
const commonEdge = 1;
/** A bar at the edge of a span that agrees less than this share of the span's mean does not belong. */
const edgeShare = 0.35;

/** The bar of the reference, or none, that each bar of the version is given. */
export interface Path {
  score: number;
  /** Row of the reference for each row of the version; −1 where there is none. */
  rows: Int32Array;
}

/**
 * The path that agrees most (Viterbi 1967): going on bar by bar is free, a jump costs.
 *
 * @param agreement `referenceBars × versionBars`.
 */
export function bestPath(
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

/** Neighbouring rows of the version that are given neighbouring rows of the reference. */
export interface Run {
  reference: number;
  version: number;
  bars: number;
}

/** The runs that a path is made of. */
export function runsOf(rows: Int32Array): Run[] {
  const runs: Run[] = [];
  for (let v = 0; v < rows.length; v++) {
    if (rows[v]! < 0) continue;
    const last = runs.at(-1);
    if (last && last.version + last.bars === v && last.reference + last.bars === rows[v]) last.bars++;
    else runs.push({ reference: rows[v]!, version: v, bars: 1 });
  }
  return runs;
}

/** The bar of the reference, or −1, for each bar of the version: the inverse of `runsOf`. */
export function rowsOf(runs: readonly Run[], versionBars: number): Int32Array {
  const rows = new Int32Array(versionBars).fill(-1);
  for (const { reference, version, bars } of runs) {
    for (let i = 0; i < bars; i++) rows[version + i] = reference + i;
  }
  return rows;
}

/** How well the bars of a path agree on average. */
export function meanAgreement({ rows }: Path, agreement: Float32Array, versionBars: number): number {
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
const straightening = { usual: 0.05, common: 0.1, short: 0.3, edge: 0.6 } as const;
/** What beginning on a multiple of four bars is worth, in agreement of one bar. */
const onFours = 0.25;
const farthestEdge = 3;
/** Bars that agree less than this hardly say where they belong: a few hats, one held note. */
const saysLittle = 0.6;

/**
 * Puts short runs back on the line of a neighbour where that costs little, and moves the place of a
 * jump by a bar or two to where fours begin.
 *
 * @param isElsewhere whether a run clearly recreates its own place and not the one on the neighbour's line.
 */
export function straightened(
  runs: readonly Run[],
  { agreement, referenceBars, versionBars, firstFour }: BarSimilarity,
  isElsewhere: (run: Run, reference: number) => boolean,
): Run[] {
  const at = (reference: number, version: number) => agreement[reference * versionBars + version]!;
  const sum = (reference: number, version: number, bars: number) => {
    let whole = 0;
    for (let i = 0; i < bars; i++) whole += at(reference + i, version + i);
    return whole;
  };
  const result = runs.map((run) => ({ ...run }));
  // Both tracks begin together and end together, as far as those bars say anything.
  const begin: Run = { reference: 0, version: 0, bars: usualRun };
  const end: Run = { reference: referenceBars, version: versionBars, bars: usualRun };
  const isOn = (run: Run | undefined, line: Run) =>
    run === undefined || run.reference - run.version === line.reference - line.version;
  for (const [place, run] of result.entries()) {
    if (run.bars >= usualRun) continue;
    const says = sum(run.reference, run.version, run.bars) / run.bars;
    const isFirst = result.slice(0, place).every((before) => isOn(before, begin));
    const isLast = result.slice(place + 1).every((after) => isOn(after, end));
    if ((isFirst && isOn(run, begin)) || (isLast && isOn(run, end))) continue;
    const neighbours = [
      isFirst ? begin : undefined,
      isLast ? end : undefined,
      result[place + 1],
      result[place - 1],
    ];
    for (const neighbour of neighbours) {
      if (!neighbour || neighbour.bars <= run.bars) continue;
      const reference = run.version + neighbour.reference - neighbour.version;
      if (reference < 0 || reference + run.bars > referenceBars) continue;
      // An intro or outro with little in it agrees with anything; it stands where both tracks have it.
      const isCommon = neighbour === begin || neighbour === end;
      const isEdge =
        (isCommon && says < saysLittle) ||
        (run.version === 0 && reference <= commonEdge) ||
        (run.version + run.bars === versionBars && reference + run.bars >= referenceBars - commonEdge);
      const loss = isEdge
        ? straightening.edge
        : run.bars < shortestRun
          ? isCommon
            ? straightening.common
            : straightening.short
          : straightening.usual;
      if (!isEdge && run.bars >= shortestRun && isElsewhere(run, reference)) continue;
      const own = says * run.bars;
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
    const fours = (row: number) => ((row - firstFour) % 4 === 0 ? onFours : 0);
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
export function tidied(
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
