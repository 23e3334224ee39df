/** Drums of a version held against the reference's, hit by hit, over the bars that answer each other. */
import { z } from "zod";
import type { CoverageSpan } from "../align/coverage";
import type { Grid } from "../grid/grid";
import type { Decibels, Fraction, Percent, Seconds } from "../units";
import { asHeard, type CountedDrums, type CountedHit } from "./correction";
import {
  filterByConfidence,
  normaliseVelocityDifferences,
  markMasked,
  removeCommonShift,
} from "./confidenceFilter";
import { velocityLevel, swingOfHits } from "./groove";
import { interchangeable, clearSteps, hitsInBars, pairUp, type Placed } from "./pairing";
import { stepInBar, type BarShape } from "./patterns";
import { pairRenamed } from "./renamedDrums";
import { placeHits, stepsPerBeat, type MainSwing, type PlacedHit } from "./steps";
import { byVoice, drumVoiceSchema, type DrumVoice } from "./voices";

const { max, min, sqrt } = Math;

/** Differences of drums that are intended: of one voice, or of all in swing. */
export const intendedKinds = ["missing", "extra", "otherVoice", "timing", "accents", "swing"] as const;
export const intendedDifferenceSchema = z.object({
  voice: drumVoiceSchema.nullable(),
  kind: z.enum(intendedKinds),
});
export type IntendedDifference = z.infer<typeof intendedDifferenceSchema>;

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
  timingDeviation: Seconds | null;
  /** How much harder (+) or softer (−) the version's is, against how hard each side strikes the voice in general. */
  velocityDifference: Decibels | null;
  /** Whether it is unlikely to be a mistake of hearing. */
  reliable: boolean;
  /** Whether it is missing, or there in addition, on purpose. */
  intended: boolean;
  /** Another voice of its kind sounds with it on either side: how hard it is struck, or whether at all, can hardly be told. */
  masked: boolean;
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
  meanTimingDeviation: Seconds | null;
  /** Effective difference in how hard the steps are struck beside one another; null with fewer than two steps. */
  accents: Decibels | null;
  matched: number;
  missing: number;
  extra: number;
  /** What the hits that agree, are missing and are extra weigh, by velocity; unreliable ones by half. */
  weights: HitWeights & { agreed: number };
  /** Of them what is missing and extra in single bars of the reference, where anything is. */
  inBars: (HitWeights & { bar: number })[];
}

interface HitWeights {
  missing: number;
  extra: number;
}

/** What the gaps of the drums follow from, without the hits themselves. */
export interface DrumSummary {
  voices: ComparedVoice[];
  swing: { of: 8 | 16; reference: Percent; version: Percent } | null;
  /** Whether both sides have drums at all. */
  bothPlay: boolean;
}

export interface ComparedDrums extends DrumSummary {
  hits: ComparedHit[];
  /** Null where one side has no drums. */
  pattern: Fraction | null;
  timing: Seconds | null;
  accents: Decibels | null;
  /** How much later the version's grid has the drums than the reference's: taken out of all lateness. */
  gridShift: Seconds;
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

/**
 * Compares over coverage; the version's tempo does not matter, since both are counted in beats.
 *
 * @param intended differences that are wanted: they are left out of every number.
 */
export function compareDrums(
  reference: DrumSide,
  version: DrumSide,
  spans: readonly CoverageSpan[],
  intended: readonly IntendedDifference[] = [],
): ComparedDrums {
  const isIntended = (kind: IntendedDifference["kind"], voice: DrumVoice | null) =>
    intended.some((own) => own.kind === kind && own.voice === voice);
  const { beatsPerBar } = reference.grid;
  const shape: BarShape = { beatsPerBar, stepsPerBeat: stepsPerBeat(beatsPerBar) };
  const stepBeats = 1 / shape.stepsPerBeat;
  const beatSeconds = 60 / reference.grid.bpm;
  const near = { beatSeconds, reach: min(reachSeconds / beatSeconds, reachShare * stepBeats) };
  const place = ({ drums, grid, swing }: DrumSide) => ({
    hits: placeHits(drums.hits, grid, swing),
    faint: placeHits(
      drums.subThreshold.filter(({ confidence }) => confidence >= leastFaint).map(asHeard),
      grid,
      swing,
    ),
  });
  const ours = place(reference);
  const theirs = place(version);

  const hits: ComparedHit[] = [];
  const inReference: Placed[] = [];
  const inVersion: Placed[] = [];
  const unpaired: { reference: Placed[]; version: Placed[] } = { reference: [], version: [] };
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
      (x, y) => interchangeable(x.hit.voice, y.hit.voice),
      near,
    );
    for (const [x, y] of [...same.pairs, ...heardTheirs.pairs, ...heardOurs.pairs])
      hits.push(agreeing(x, y, null));
    for (const [x, y] of other.pairs) hits.push(agreeing(x, y, y.hit.voice));
    unpaired.reference.push(...other.missing);
    unpaired.version.push(...other.extra);
  }
  const renamed = pairRenamed(
    unpaired.reference,
    unpaired.version,
    { reference: inReference, version: inVersion },
    near,
  );
  for (const [x, y] of renamed) hits.push(agreeing(x, y, y.hit.voice));
  const paired = new Set(renamed.flat());
  for (const x of unpaired.reference)
    if (!paired.has(x)) hits.push(alone(x, "missing", isIntended("missing", x.hit.voice)));
  for (const y of unpaired.version)
    if (!paired.has(y)) hits.push(alone(y, "extra", isIntended("extra", y.hit.voice)));
  normaliseVelocityDifferences(hits);
  const gridShift = removeCommonShift(hits);
  markMasked(hits);
  filterByConfidence(hits, inReference, inVersion, shape, {
    ...hinted,
    bars: spans.reduce((sum, own) => sum + own.bars, 0),
  });
  hits.sort((x, y) => placeInTime(x) - placeInTime(y));

  const voices = byVoice(hits, ({ voice }) => voice).map(([voice, own]) => voiceOf(voice, own, shape));
  const { of } = reference.swing;
  const [swingA, swingB] = [swingOfHits(inReference, of), swingOfHits(inVersion, of)];
  const summary: DrumSummary = {
    voices,
    swing: swingA !== null && swingB !== null ? { of, reference: swingA, version: swingB } : null,
    bothPlay: inReference.length > 0 && inVersion.length > 0,
  };
  return {
    ...summary,
    hits,
    ...drumGaps(summary, intended),
    gridShift,
    bars: spans.reduce((sum, { bars }) => sum + bars, 0),
  };
}

/**
 * How far the drums of both sides are apart, with what is intended left out.
 *
 * @param silent bars of the reference in which one side plays none of them at all: that is no pattern.
 */
export function drumGaps(
  { voices, swing, bothPlay }: DrumSummary,
  intended: readonly IntendedDifference[],
  silent: readonly number[] = [],
): {
  pattern: Fraction | null;
  timing: Seconds | null;
  accents: Decibels | null;
  swing: DrumSummary["swing"];
} {
  const isIntended = (kind: IntendedDifference["kind"], voice: DrumVoice | null) =>
    intended.some((own) => own.kind === kind && own.voice === voice);
  const counted = voices.map((own) => {
    const inSilent = own.inBars.filter(({ bar }) => silent.includes(bar));
    const left = (of: keyof HitWeights) =>
      max(
        0,
        inSilent.reduce((rest, bar) => rest - bar[of], own.weights[of]),
      );
    const [missing, extra] = [left("missing"), left("extra")];
    const { agreed } = own.weights;
    const rest =
      (isIntended("missing", own.voice) ? 0 : missing) + (isIntended("extra", own.voice) ? 0 : extra);
    return { ...own, agreed, whole: agreed + rest };
  });
  const sum = (value: (own: (typeof counted)[number]) => number) =>
    counted.reduce((total, own) => total + value(own), 0);
  const meanOver = (of: "timing" | "accents"): number | null => {
    let squares = 0;
    let weights = 0;
    for (const own of counted) {
      const value = own[of];
      if (value === null || isIntended(of, own.voice)) continue;
      // The root keeps a snare from drowning among hats.
      const weight = sqrt(own.whole / 2);
      squares += weight * value * value;
      weights += weight;
    }
    return weights > 0 ? sqrt(squares / weights) : null;
  };
  const whole = sum((own) => own.whole);
  return {
    pattern: !bothPlay ? null : whole > 0 ? sum(({ agreed }) => agreed) / whole : 1,
    timing: meanOver("timing"),
    accents: meanOver("accents"),
    swing: isIntended("swing", null) ? null : swing,
  };
}

const placeInTime = ({ reference, version }: ComparedHit): number => (reference ?? version)!.beat;

const agreeing = (reference: Placed, version: Placed, otherVoice: DrumVoice | null): ComparedHit => ({
  voice: reference.hit.voice,
  reference,
  version,
  kind: "agrees",
  otherVoice,
  timingDeviation: version.offset - reference.offset,
  velocityDifference: velocityLevel(version.hit.velocity) - velocityLevel(reference.hit.velocity),
  reliable: true,
  intended: false,
  masked: false,
});

const alone = (own: Placed, kind: "missing" | "extra", intended: boolean): ComparedHit => ({
  voice: own.hit.voice,
  reference: kind === "missing" ? own : null,
  version: kind === "extra" ? own : null,
  kind,
  otherVoice: null,
  timingDeviation: null,
  velocityDifference: null,
  reliable: own.hit.confidence >= sureAt,
  intended,
  masked: false,
});

/** What hits weigh, by velocity; a hit that agrees is weighed as both sides strike it on average. */
function weightsOf(hits: readonly ComparedHit[]): Pick<ComparedVoice, "weights" | "inBars"> {
  const weights = { agreed: 0, missing: 0, extra: 0 };
  const bars = new Map<number, ComparedVoice["inBars"][number]>();
  for (const { reference, version, kind, reliable } of hits) {
    const weight =
      ((reference?.hit.velocity ?? version!.hit.velocity) +
        (version?.hit.velocity ?? reference!.hit.velocity)) /
      2;
    if (kind === "agrees") {
      weights.agreed += 2 * weight;
      continue;
    }
    const counted = reliable ? weight : weight * 0.5;
    weights[kind] += counted;
    const { bar } = (reference ?? version)!;
    const own = bars.get(bar) ?? { bar, missing: 0, extra: 0 };
    own[kind] += counted;
    bars.set(bar, own);
  }
  return { weights, inBars: [...bars.values()].sort((a, b) => a.bar - b.bar) };
}

function voiceOf(voice: DrumVoice, hits: readonly ComparedHit[], shape: BarShape): ComparedVoice {
  const matched = hits.filter(({ kind }) => kind === "agrees");
  const { weights, inBars } = weightsOf(hits);
  // What is intended does not count against the voice.
  const isIntended = (kind: "missing" | "extra") => hits.some((hit) => hit.kind === kind && hit.intended);
  const whole =
    weights.agreed +
    (isIntended("missing") ? 0 : weights.missing) +
    (isIntended("extra") ? 0 : weights.extra);
  const steps = new Map<number, { count: number; late: number; harder: number }>();
  for (const { reference, timingDeviation, velocityDifference } of matched) {
    const step = stepInBar(reference!, shape);
    const sum = steps.get(step) ?? { count: 0, late: 0, harder: 0 };
    sum.count++;
    sum.late += timingDeviation!;
    sum.harder += velocityDifference!;
    steps.set(step, sum);
  }
  const effective = (of: "late" | "harder") => {
    let sum = 0;
    for (const own of steps.values()) sum += own[of] ** 2 / own.count;
    return matched.length > 0 ? sqrt(sum / matched.length) : null;
  };
  return {
    voice,
    pattern: whole > 0 ? weights.agreed / whole : 1,
    weight: whole / 2,
    weights,
    inBars,
    timing: effective("late"),
    meanTimingDeviation:
      matched.length > 0
        ? matched.reduce((sum, { timingDeviation }) => sum + timingDeviation!, 0) / matched.length
        : null,
    accents: steps.size > 1 ? effective("harder") : null,
    matched: matched.length,
    missing: hits.filter(({ kind, intended }) => kind === "missing" && !intended).length,
    extra: hits.filter(({ kind, intended }) => kind === "extra" && !intended).length,
  };
}
