/**
 * The shortest list of equaliser moves that closes most of the gap between two average spectra:
 * moves are added one by one, each time the one of a set of candidates that helps most, and all of
 * them are then improved together (damped least squares; Marquardt 1963, "An algorithm for
 * least-squares estimation of nonlinear parameters"). Several lists of each length are followed, so that a
 * first move that looks best by itself does not decide the rest.
 */
import { bands, type BandGap, type BandsPerOctave } from "../tone";
import type { Decibels, Hertz } from "../units";
import {
  addResponse,
  hasGain,
  moveLimits,
  plainQ,
  responseGrid,
  type EqualiserMove,
  type MoveType,
  type ResponseGrid,
} from "./filters";

const { abs, exp, log, log10, max, min, round, sqrt } = Math;

/** Resolution at which a gap is fitted. */
export const fitResolution: BandsPerOctave = 6;

/** How many of each type there can be. */
const mostOf: Record<MoveType, number> = { lowCut: 1, highCut: 1, lowShelf: 1, highShelf: 1, peak: 6 };
/** A gap smaller than this on average is closed. */
const closed: Decibels = 0.45;
/** A move must be worth so much of what is left, and so much at least, to make the list longer. */
const leastShare = 0.1;
const leastWorth: Decibels = 0.14;
/** As long as more is left than that, a move is worth it that helps by less. */
const nearEnough: Decibels = 0.68;
const helps: Decibels = 0.06;
/** What is taken off the list again where the rest does nearly as well without it. */
const dispensable: Decibels = 0.12;
/** How many lists are followed at each length, and how many moves are tried at the end of each. */
const lists = 2;
const followed = 4;
/** Lists that cost the same but for that are one. */
const alike = 1e-3;

/** A gap prepared for fitting. */
interface Target {
  grid: ResponseGrid;
  /** What the moves have to add, dB. */
  wanted: Float64Array;
  weights: Float64Array;
  totalWeight: number;
  /** By the square of a gain in dB. */
  gainCost: number;
}

interface Fit {
  moves: EqualiserMove[];
  /** What is left on average once both sides are equally loud. */
  left: Decibels;
  /** Mean square of what is left, and what the size of the moves costs. */
  cost: number;
}

/**
 * What a move costs by the square of its gain, while the list is made and once it is. Without it, moves that
 * cancel one another would be as good as none: a level over all changes nothing, and one shelf up is another
 * down.
 */
const gainCost = 0.001;
const lastGainCost = 0.0002;
const costOf = (moves: readonly EqualiserMove[], target: Target): number =>
  target.gainCost * moves.reduce((sum, { gainDb }) => sum + gainDb ** 2, 0);

const fitOf = (moves: EqualiserMove[], cost: number, target: Target): Fit => ({
  moves,
  left: sqrt(max(0, cost - costOf(moves, target))),
  cost,
});

/** Weighted mean taken out: only the shape of a curve counts, since both sides are brought to one loudness. */
function centre(curve: Float64Array, { weights, totalWeight }: Target): void {
  let sum = 0;
  for (let i = 0; i < curve.length; i++) sum += weights[i]! * curve[i]!;
  const mean = sum / totalWeight;
  for (let i = 0; i < curve.length; i++) curve[i]! -= mean;
}

function residualOf(moves: readonly EqualiserMove[], target: Target): Float64Array {
  const left = Float64Array.from(target.wanted);
  for (const move of moves) addResponse(move, target.grid, left, -1);
  centre(left, target);
  return left;
}

function meanSquare(curve: Float64Array, { weights, totalWeight }: Target): number {
  let sum = 0;
  for (let i = 0; i < curve.length; i++) sum += weights[i]! * curve[i]! ** 2;
  return sum / totalWeight;
}

/** The free numbers of a move on scales on which a step of 1 means about as much everywhere. */
type Parameter = "hz" | "gain" | "q";
const parametersOf = (type: MoveType): readonly Parameter[] =>
  type === "peak" ? ["hz", "gain", "q"] : hasGain(type) ? ["hz", "gain"] : ["hz"];

/** Narrower than this is a resonance, not a matter of tone. */
const narrowest = 6;

/** What a step of 1 means for a gain. */
const gainStep: Decibels = 4;

function stepped(move: EqualiserMove, parameter: Parameter, by: number): EqualiserMove {
  const clamp = (value: number, low: number, high: number) => min(high, max(low, value));
  const { lowestHz, highestHz, mostGainDb, leastQ } = moveLimits;
  if (parameter === "hz") return { ...move, hz: clamp(move.hz * exp(by), lowestHz, highestHz) };
  if (parameter === "gain")
    return { ...move, gainDb: clamp(move.gainDb + gainStep * by, -mostGainDb, mostGainDb) };
  return { ...move, q: clamp(move.q * exp(by), leastQ, narrowest) };
}

/** Rounds for each beginning that is followed, and for the best of them. */
const fewRounds = 4;
const rounds = 10;
const derivativeStep = 1e-3;

/** Improves all moves together. */
function refined(start: readonly EqualiserMove[], target: Target, most: number): Fit {
  let moves = [...start];
  let residual = residualOf(moves, target);
  let error = meanSquare(residual, target) + costOf(moves, target);
  let damping = 0.01;
  const free = moves.flatMap((move, m) => parametersOf(move.type).map((parameter) => ({ m, parameter })));
  const size = free.length;
  const bandCount = target.wanted.length;
  for (let turn = 0; turn < most; turn++) {
    const base = moves.map((move) => {
      const response = new Float64Array(bandCount);
      addResponse(move, target.grid, response);
      return response;
    });
    const slopes = free.map(({ m, parameter }) => {
      const slope = new Float64Array(bandCount);
      addResponse(stepped(moves[m]!, parameter, derivativeStep), target.grid, slope);
      for (let i = 0; i < bandCount; i++) slope[i] = (slope[i]! - base[m]![i]!) / derivativeStep;
      centre(slope, target);
      return slope;
    });
    const matrix = new Float64Array(size * size);
    const right = new Float64Array(size);
    for (let a = 0; a < size; a++) {
      for (let b = a; b < size; b++) {
        let sum = 0;
        for (let i = 0; i < bandCount; i++) sum += target.weights[i]! * slopes[a]![i]! * slopes[b]![i]!;
        matrix[a * size + b] = matrix[b * size + a] = sum / target.totalWeight;
      }
      let sum = 0;
      for (let i = 0; i < bandCount; i++) sum += target.weights[i]! * slopes[a]![i]! * residual[i]!;
      right[a] = sum / target.totalWeight;
      const { m, parameter } = free[a]!;
      if (parameter === "gain") {
        matrix[a * size + a]! += target.gainCost * gainStep ** 2;
        right[a]! -= target.gainCost * gainStep * moves[m]!.gainDb;
      }
    }
    let improved = false;
    for (let attempt = 0; attempt < 5 && !improved; attempt++) {
      const step = solved(matrix, right, damping);
      let next = moves;
      free.forEach(({ m, parameter }, k) => {
        const by = max(-0.7, min(0.7, step[k]!));
        next = next.map((move, i) => (i === m ? stepped(move, parameter, by) : move));
      });
      const nextResidual = residualOf(next, target);
      const nextError = meanSquare(nextResidual, target) + costOf(next, target);
      if (nextError < error) {
        improved = error - nextError > 1e-3 * error;
        moves = next;
        residual = nextResidual;
        error = nextError;
        damping = max(1e-5, damping / 4);
        if (!improved) return fitOf(moves, error, target);
      } else damping *= 6;
    }
    if (!improved) break;
  }
  return fitOf(moves, error, target);
}

/** Solves (A + damping · diag A) x = b for a symmetric matrix by elimination. */
function solved(matrix: Float64Array, right: Float64Array, damping: number): Float64Array {
  const size = right.length;
  const a = Float64Array.from(matrix);
  const x = Float64Array.from(right);
  for (let i = 0; i < size; i++) a[i * size + i]! += damping * a[i * size + i]! + 1e-9;
  for (let i = 0; i < size; i++) {
    for (let row = i + 1; row < size; row++) {
      const factor = a[row * size + i]! / a[i * size + i]!;
      if (factor === 0) continue;
      for (let k = i; k < size; k++) a[row * size + k]! -= factor * a[i * size + k]!;
      x[row]! -= factor * x[i]!;
    }
  }
  for (let i = size - 1; i >= 0; i--) {
    for (let k = i + 1; k < size; k++) x[i]! -= a[i * size + k]! * x[k]!;
    x[i]! /= a[i * size + i]!;
  }
  return x;
}

/** Frequencies and widths at which moves are tried at first. */
const triedHz = Array.from({ length: 28 }, (_, i) => 32 * 2 ** (i / 3));
const triedQ = [0.5, 1, 2, 4.5];
const triedGain: Decibels = 4;

interface Candidate {
  move: EqualiserMove;
  /** Its response, the mean taken out, and what that weighs. */
  shape: Float64Array;
  power: number;
}

function candidatesFor(target: Target): Candidate[] {
  const moves = triedHz.flatMap((hz): EqualiserMove[] => [
    ...triedQ.map((q): EqualiserMove => ({ type: "peak", hz, gainDb: triedGain, q })),
    { type: "lowShelf", hz, gainDb: triedGain, q: plainQ },
    { type: "highShelf", hz, gainDb: triedGain, q: plainQ },
    ...(hz < 1000 ? [{ type: "lowCut", hz, gainDb: 0, q: plainQ } as const] : []),
    ...(hz > 1000 ? [{ type: "highCut", hz, gainDb: 0, q: plainQ } as const] : []),
  ]);
  return moves.map((move) => {
    const shape = new Float64Array(target.wanted.length);
    addResponse(move, target.grid, shape);
    centre(shape, target);
    return { move, shape, power: meanSquare(shape, target) };
  });
}

/** The candidates that take most off what is left, of different kinds and places. */
function best(
  candidates: readonly Candidate[],
  residual: Float64Array,
  target: Target,
  taken: readonly EqualiserMove[],
) {
  const ranked = candidates
    .flatMap(({ move, shape, power }) => {
      if (power < 1e-9) return [];
      if (taken.filter(({ type }) => type === move.type).length >= mostOf[move.type]) return [];
      let product = 0;
      for (let i = 0; i < shape.length; i++) product += target.weights[i]! * shape[i]! * residual[i]!;
      product /= target.totalWeight;
      if (!hasGain(move.type)) return [{ move, gain: 2 * product - power }];
      const times = product / power;
      const gainDb = max(-moveLimits.mostGainDb, min(moveLimits.mostGainDb, triedGain * times));
      return [{ move: { ...move, gainDb }, gain: product * times }];
    })
    .sort((a, b) => b.gain - a.gain);
  const chosen: EqualiserMove[] = [];
  for (const { move, gain } of ranked) {
    if (gain <= 0 || chosen.length >= followed) break;
    const alike = chosen.some(
      (own) => own.type === move.type && abs(log(own.hz / move.hz)) < 0.5 && abs(log(own.q / move.q)) < 1,
    );
    if (!alike) chosen.push(move);
  }
  return chosen;
}

const byCost = (a: Fit, b: Fit): number => a.cost - b.cost;

/** The best lists that are one move longer, the very best first. */
function longer(beginnings: readonly Fit[], candidates: readonly Candidate[], target: Target): Fit[] {
  return beginnings
    .flatMap(({ moves }) =>
      best(candidates, residualOf(moves, target), target, moves).map((move) =>
        refined([...moves, move], target, fewRounds),
      ),
    )
    .sort(byCost)
    .filter(({ cost }, i, all) => i === 0 || cost - all[i - 1]!.cost >= alike)
    .slice(0, lists)
    .map(({ moves }) => refined(moves, target, rounds))
    .sort(byCost);
}

/** What a move must take off. */
const worthAt = (left: Decibels): Decibels =>
  left > nearEnough ? helps : max(leastWorth, leastShare * left);

/** Where a shelf reaches more than half of the range, the other shelf does the same at another level. */
const shelvesMeet: Hertz = 700;

function asShortShelf(move: EqualiserMove): EqualiserMove {
  if (move.type === "lowShelf" && move.hz > shelvesMeet)
    return { ...move, type: "highShelf", gainDb: -move.gainDb };
  if (move.type === "highShelf" && move.hz < shelvesMeet)
    return { ...move, type: "lowShelf", gainDb: -move.gainDb };
  return move;
}

/** Three figures of frequency, tenths of a decibel, and a width as people set it. */
export function rounded(move: EqualiserMove): EqualiserMove {
  const digits = 10 ** (2 - Math.floor(log10(move.hz)));
  return {
    type: move.type,
    hz: round(move.hz * digits) / digits,
    gainDb: hasGain(move.type) ? round(move.gainDb * 10) / 10 : 0,
    q: move.type === "peak" ? round(move.q * 100) / 100 : plainQ,
  };
}

/** The middles of the bands in which gaps are fitted. */
const fitFrequencies: readonly Hertz[] = bands(fitResolution).map(({ centre: middle }) => middle);

/**
 * Finds the moves.
 *
 * @param gap curve in `fitResolution` bands an octave, version less reference; bands without weight
 *   are left out.
 * @param sampleRate of the file that the moves are for.
 * @returns from low to high; none where the gap is closed already.
 */
export function fitMoves(
  gap: readonly Pick<BandGap, "gap" | "weight">[],
  sampleRate: Hertz,
): EqualiserMove[] {
  const weights = Float64Array.from(gap, ({ weight }) => weight);
  const totalWeight = weights.reduce((a, b) => a + b, 0);
  if (totalWeight <= 0) return [];
  const target: Target = {
    grid: responseGrid(fitFrequencies, sampleRate),
    wanted: Float64Array.from(gap, (band) => -band.gap),
    weights,
    totalWeight,
    gainCost,
  };
  const candidates = candidatesFor(target);
  let current = fitOf([], meanSquare(residualOf([], target), target), target);
  let beginnings = [current];
  while (current.left > closed) {
    beginnings = longer(beginnings, candidates, target);
    const next = beginnings[0];
    if (!next || current.left - next.left < worthAt(current.left)) break;
    current = next;
  }
  const { moves } = withoutDispensable(current, target);
  return refined(moves, { ...target, gainCost: lastGainCost }, rounds)
    .moves.map(asShortShelf)
    .map(rounded)
    .filter(({ type, gainDb }) => !hasGain(type) || abs(gainDb) >= 0.3)
    .sort((a, b) => a.hz - b.hz);
}

/** Takes moves off the list as long as the others, improved once more, do nearly as well. */
function withoutDispensable(fit: Fit, target: Target): Fit {
  let current = fit;
  for (let more = true; more && current.moves.length > 1;) {
    const shorter = current.moves
      .map((_, out) =>
        refined(
          current.moves.filter((_, i) => i !== out),
          target,
          fewRounds,
        ),
      )
      .sort(byCost)[0]!;
    more = shorter.left - current.left < (shorter.left > nearEnough ? helps : dispensable);
    if (more) current = shorter;
  }
  return current;
}
