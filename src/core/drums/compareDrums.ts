/** Drums of a version held against the reference's, hit by hit, over the bars that answer each other. */
import { z } from "zod";
import type { CoverageSpan } from "../align/coverage";
import type { Grid } from "../grid/grid";
import type { Decibels, Fraction, Percent, Seconds } from "../units";
import type { CountedDrums, CountedHit } from "./correction";
import type { DrumHit } from "./hits";
import { doubt, level, markCovered, takeOutCommonShift } from "./doubt";
import { velocityLevel, swingOfHits } from "./feel";
import { alike, clearSteps, hitsInBars, pairUp, type Placed } from "./pairing";
import { stepInBar, type BarShape } from "./patterns";
import { placeHits, stepsPerBeat, type MainSwing, type PlacedHit } from "./steps";
import { drumVoices, drumVoiceSchema, type DrumVoice } from "./voices";

const { min, sqrt } = Math;

/** Differences of drums that are meant: of one voice, or of all in swing. */
export const meantKinds = ["missing", "extra", "otherVoice", "timing", "accents", "swing"] as const;
export const meantDifferenceSchema = z.object({
  voice: drumVoiceSchema.nullable(),
  kind: z.enum(meantKinds),
});
export type MeantDifference = z.infer<typeof meantDifferenceSchema>;

/** One side: its drums, and the grid that coverage is counted on. */
export interface DrumSide {
  drums: CountedDrums;
  grid: Grid;
  swing: MainSwing;
}

/** A hit of either side and its counterpart, placed in beats of the reference. */
export interface ComparedHit {
  voice: DrumVoice;
  /** Null where the reference has none. */
  reference: PlacedHit<CountedHit> | null;
  /** Null where the version has none; its beat and bar are the reference's that it answers. */
  version: PlacedHit<CountedHit> | null;
  kind: "agrees" | "missing" | "extra";
  /** Whether the other side has another voice of the same kind here: a snare for a clap. */
  otherVoice: DrumVoice | null;
  /** How much later (+) or earlier (−) the version's is, each against its own swung step; null without a counterpart. */
  late: Seconds | null;
  /** How much harder (+) or softer (−) the version's is, against how hard each side strikes the voice in general. */
  harder: Decibels | null;
  /** Whether it is unlikely to be a mistake of hearing. */
  sure: boolean;
  /** Whether it is missing, or there in addition, on purpose. */
  meant: boolean;
  /** Another voice of its kind sounds with it on either side: how hard it is struck, or whether at all, can hardly be told. */
  covered: boolean;
}

/** One voice over all that is compared. */
export interface ComparedVoice {
  voice: DrumVoice;
  /** F-measure of the hits, each weighed by its velocity. */
  pattern: Fraction;
  /** What the voice's hits weigh among all, by velocity. */
  weight: number;
  /** Effective lateness of the steps; null where nothing agrees. */
  timing: Seconds | null;
  /** Mean lateness, with its sign. */
  late: Seconds | null;
  /** Effective difference in how hard the steps are struck beside one another; null with fewer than two steps. */
  accents: Decibels | null;
  matched: number;
  missing: number;
  extra: number;
}

export interface ComparedDrums {
  hits: ComparedHit[];
  voices: ComparedVoice[];
  /** Null where one side has no drums. */
  pattern: Fraction | null;
  timing: Seconds | null;
  accents: Decibels | null;
  swing: { of: 8 | 16; reference: Percent; version: Percent } | null;
  /** Bars of the reference that are compared. */
  bars: number;
}

/** Hits further apart than this are two hits: the smaller of a time and a share of a step. */
const reachSeconds: Seconds = 0.06;
const reachShare: Fraction = 0.48;
/** From here on a hit without a counterpart is worth a word. */
const sureAt: Fraction = 0.72;
/** Heard less surely than this, a counterpart is no more than noise. */
const leastFaint: Fraction = 0.12;

const asCounted = (hit: DrumHit): CountedHit => ({ ...hit, origin: "heard" });

/**
 * Compares over coverage; the version's tempo does not matter, since both are counted in beats.
 *
 * @param meant differences that are wanted: they are left out of every number.
 */
export function compareDrums(
  reference: DrumSide,
  version: DrumSide,
  spans: readonly CoverageSpan[],
  meant: readonly MeantDifference[] = [],
): ComparedDrums {
  const isMeant = (kind: MeantDifference["kind"], voice: DrumVoice | null) =>
    meant.some((own) => own.kind === kind && own.voice === voice);
  const { beatsPerBar } = reference.grid;
  const shape: BarShape = { beatsPerBar, stepsPerBeat: stepsPerBeat(beatsPerBar) };
  const stepBeats = 1 / shape.stepsPerBeat;
  const beatSeconds = 60 / reference.grid.bpm;
  const near = { beatSeconds, reach: min(reachSeconds / beatSeconds, reachShare * stepBeats) };
  const place = ({ drums, grid, swing }: DrumSide) => ({
    hits: placeHits(drums.hits, grid, swing),
    faint: placeHits(
      drums.faint.filter(({ confidence }) => confidence >= leastFaint).map(asCounted),
      grid,
      swing,
    ),
  });
  const ours = place(reference);
  const theirs = place(version);

  const hits: ComparedHit[] = [];
  const inReference: Placed[] = [];
  const inVersion: Placed[] = [];
  const hinted: { reference: Placed[]; version: Placed[] } = { reference: [], version: [] };
  for (const { referenceFirst, versionFirst, bars } of spans) {
    const range = { first: referenceFirst, last: referenceFirst + bars - 1 };
    const own = { first: versionFirst, last: versionFirst + bars - 1 };
    const by = referenceFirst - versionFirst;
    const a = hitsInBars(ours.hits, range, 0, beatsPerBar);
    const b = hitsInBars(theirs.hits, own, by, beatsPerBar);
    inReference.push(...a);
    inVersion.push(...b);
    const faint = {
      reference: hitsInBars(ours.faint, range, 0, beatsPerBar),
      version: hitsInBars(theirs.faint, own, by, beatsPerBar),
    };
    hinted.reference.push(...faint.reference);
    hinted.version.push(...faint.version);
    const same = pairUp(a, b, (x, y) => x.hit.voice === y.hit.voice, near);
    // What was heard too faintly to count still tells that a hit is not missing, unless that side
    // hears it clearly in other bars.
    const clearInTheirs = clearSteps(b, shape);
    const clearInOurs = clearSteps(a, shape);
    const heardTheirs = pairUp(
      same.missing,
      faint.version.filter((hit) => !clearInTheirs(hit)),
      (x, y) => x.hit.voice === y.hit.voice,
      near,
    );
    const heardOurs = pairUp(
      faint.reference.filter((hit) => !clearInOurs(hit)),
      same.extra,
      (x, y) => x.hit.voice === y.hit.voice,
      near,
    );
    const other = pairUp(
      heardTheirs.missing,
      heardOurs.extra,
      (x, y) => alike(x.hit.voice, y.hit.voice),
      near,
    );
    for (const [x, y] of [...same.pairs, ...heardTheirs.pairs, ...heardOurs.pairs])
      hits.push(agreeing(x, y, null));
    for (const [x, y] of other.pairs) hits.push(agreeing(x, y, y.hit.voice));
    for (const x of other.missing) hits.push(alone(x, "missing", isMeant("missing", x.hit.voice)));
    for (const y of other.extra) hits.push(alone(y, "extra", isMeant("extra", y.hit.voice)));
  }
  level(hits);
  takeOutCommonShift(hits);
  markCovered(hits);
  doubt(hits, inReference, inVersion, shape, {
    ...hinted,
    bars: spans.reduce((sum, own) => sum + own.bars, 0),
  });
  hits.sort((x, y) => placeInTime(x) - placeInTime(y));

  const voices = drumVoices.flatMap((voice) => {
    const own = hits.filter((hit) => hit.voice === voice);
    return own.length > 0 ? [voiceOf(voice, own, shape)] : [];
  });
  const hasBoth = inReference.length > 0 && inVersion.length > 0;
  const meanOver = (value: (own: ComparedVoice) => number | null): number | null => {
    let sum = 0;
    let weights = 0;
    for (const own of voices) {
      const v = value(own);
      if (v === null) continue;
      // The root keeps a snare from drowning among hats.
      const weight = sqrt(own.weight);
      sum += weight * v * v;
      weights += weight;
    }
    return weights > 0 ? sqrt(sum / weights) : null;
  };
  const { of } = reference.swing;
  const [swingA, swingB] = [swingOfHits(inReference, of), swingOfHits(inVersion, of)];
  return {
    hits,
    voices,
    pattern: hasBoth ? overallPattern(hits) : null,
    timing: meanOver(({ voice, timing }) => (isMeant("timing", voice) ? null : timing)),
    accents: meanOver(({ voice, accents }) => (isMeant("accents", voice) ? null : accents)),
    swing:
      swingA !== null && swingB !== null && !isMeant("swing", null)
        ? { of, reference: swingA, version: swingB }
        : null,
    bars: spans.reduce((sum, { bars }) => sum + bars, 0),
  };
}

const placeInTime = ({ reference, version }: ComparedHit): number => (reference ?? version)!.beat;

const agreeing = (reference: Placed, version: Placed, otherVoice: DrumVoice | null): ComparedHit => ({
  voice: reference.hit.voice,
  reference,
  version,
  kind: "agrees",
  otherVoice,
  late: version.offset - reference.offset,
  harder: velocityLevel(version.hit.velocity) - velocityLevel(reference.hit.velocity),
  sure: true,
  meant: false,
  covered: false,
});

const alone = (own: Placed, kind: "missing" | "extra", meant: boolean): ComparedHit => ({
  voice: own.hit.voice,
  reference: kind === "missing" ? own : null,
  version: kind === "extra" ? own : null,
  kind,
  otherVoice: null,
  late: null,
  harder: null,
  sure: own.hit.confidence >= sureAt,
  meant,
  covered: false,
});

/** F-measure with each hit weighed by its velocity; a hit that agrees is weighed as both sides strike it on average. */
function weighedF(hits: readonly ComparedHit[]): { f: Fraction; weight: number } {
  let agreed = 0;
  let whole = 0;
  for (const { reference, version, kind, sure, meant } of hits) {
    if (meant) continue;
    const weight =
      ((reference?.hit.velocity ?? version!.hit.velocity) +
        (version?.hit.velocity ?? reference!.hit.velocity)) /
      2;
    if (kind === "agrees") {
      agreed += 2 * weight;
      whole += 2 * weight;
    } else if (sure) whole += weight;
    else whole += weight * 0.5;
  }
  return { f: whole > 0 ? agreed / whole : 1, weight: whole / 2 };
}

const overallPattern = (hits: readonly ComparedHit[]): Fraction => weighedF(hits).f;

function voiceOf(voice: DrumVoice, hits: readonly ComparedHit[], shape: BarShape): ComparedVoice {
  const matched = hits.filter(({ kind }) => kind === "agrees");
  const { f, weight } = weighedF(hits);
  const steps = new Map<number, { count: number; late: number; harder: number }>();
  for (const { reference, late, harder } of matched) {
    const step = stepInBar(reference!, shape);
    const sum = steps.get(step) ?? { count: 0, late: 0, harder: 0 };
    sum.count++;
    sum.late += late!;
    sum.harder += harder!;
    steps.set(step, sum);
  }
  const effective = (of: "late" | "harder") => {
    let sum = 0;
    for (const own of steps.values()) sum += own[of] ** 2 / own.count;
    return matched.length > 0 ? sqrt(sum / matched.length) : null;
  };
  return {
    voice,
    pattern: f,
    weight,
    timing: effective("late"),
    late: matched.length > 0 ? matched.reduce((sum, { late }) => sum + late!, 0) / matched.length : null,
    accents: steps.size > 1 ? effective("harder") : null,
    matched: matched.length,
    missing: hits.filter(({ kind, meant }) => kind === "missing" && !meant).length,
    extra: hits.filter(({ kind, meant }) => kind === "extra" && !meant).length,
  };
}
