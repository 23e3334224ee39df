/** Drums of a version held against the reference's, hit by hit, over the bars that answer each other. */
import { z } from "zod";
import type { CoverageSpan } from "../align/coverage";
import type { BarRange, Grid } from "../grid/grid";
import type { Decibels, Fraction, Percent, Seconds } from "../units";
import type { CountedDrums, CountedHit } from "./correction";
import type { DrumHit } from "./hits";
import { velocityLevel, swingOfHits } from "./feel";
import { stepInBar, type BarShape } from "./patterns";
import { placeHits, stepsPerBeat, type MainSwing, type PlacedHit } from "./steps";
import { drumVoices, drumVoiceSchema, type DrumVoice } from "./voices";

const { abs, max, min, sqrt } = Math;

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

/** Voices that stand in for one another, and that ears and programs confuse. */
const families: readonly (readonly DrumVoice[])[] = [
  ["snare", "clap", "rim"],
  ["hat", "openHat", "cymbal", "perc"],
  ["kick", "tom"],
];
const alike = (a: DrumVoice, b: DrumVoice): boolean =>
  a === b || families.some((family) => family.includes(a) && family.includes(b));

/** Hits further apart than this are two hits: the smaller of a time and a share of a step. */
const reachSeconds: Seconds = 0.06;
const reachShare: Fraction = 0.48;
/** From here on a hit without a counterpart is worth a word. */
const sureAt: Fraction = 0.72;
/** Heard less surely than this, a counterpart is no more than noise. */
const leastFaint: Fraction = 0.12;
/** Where a side is no surer of a voice than this on average, what it lacks of it proves nothing. */
const trustedAt: Fraction = 0.85;
/** Beside a hit that agrees, another of its voice within this is a flam or an echo of hearing. */
const doubled: Seconds = 0.05;

type Placed = PlacedHit<CountedHit>;

/** Hits of a side that lie in whole bars, moved by bars. */
function hitsInBars(
  placed: readonly Placed[],
  { first, last }: BarRange,
  by: number,
  beatsPerBar: number,
): Placed[] {
  const moved = by * beatsPerBar;
  return placed
    .filter(({ bar }) => bar >= first && bar <= last)
    .map((own) =>
      by === 0 ? own : { ...own, bar: own.bar + by, beat: own.beat + moved, written: own.written + moved },
    );
}

/** Voices that are heard well in nearly any mix; the others can be covered. */
const clearVoices: readonly DrumVoice[] = ["kick", "snare", "clap"];

/** Says of a faint hit whether its voice is heard clearly on the same step of other bars. */
function clearSteps(hits: readonly Placed[], shape: BarShape): (faint: Placed) => boolean {
  const steps = new Map<string, { count: number; sum: number }>();
  const keyOf = (own: Placed) => `${own.hit.voice} ${stepInBar(own, shape)}`;
  for (const own of hits) {
    const known = steps.get(keyOf(own)) ?? { count: 0, sum: 0 };
    known.count++;
    known.sum += own.hit.confidence;
    steps.set(keyOf(own), known);
  }
  return (faint) => {
    const known = steps.get(keyOf(faint));
    return (
      clearVoices.includes(faint.hit.voice) &&
      known !== undefined &&
      known.count >= leastForMean &&
      known.sum / known.count >= trustedAt
    );
  };
}

interface Pairing {
  pairs: [Placed, Placed][];
  missing: Placed[];
  extra: Placed[];
}

/** Pairs hits that are near each other and pass a test, the nearest first. */
function pairUp(
  reference: readonly Placed[],
  version: readonly Placed[],
  fits: (a: Placed, b: Placed) => boolean,
  reach: number,
): Pairing {
  const candidates: { a: number; b: number; distance: number }[] = [];
  let low = 0;
  reference.forEach((own, a) => {
    while (low < version.length && placeOf(version[low]!) < placeOf(own) - reach) low++;
    for (let b = low; b < version.length && placeOf(version[b]!) <= placeOf(own) + reach; b++) {
      if (fits(own, version[b]!))
        candidates.push({ a, b, distance: abs(placeOf(version[b]!) - placeOf(own)) });
    }
  });
  candidates.sort((x, y) => x.distance - y.distance);
  const usedA = new Set<number>();
  const usedB = new Set<number>();
  const pairs: [Placed, Placed][] = [];
  for (const { a, b } of candidates) {
    if (usedA.has(a) || usedB.has(b)) continue;
    usedA.add(a);
    usedB.add(b);
    pairs.push([reference[a]!, version[b]!]);
  }
  return {
    pairs,
    missing: reference.filter((_, a) => !usedA.has(a)),
    extra: version.filter((_, b) => !usedB.has(b)),
  };
}

/** Where a hit stands apart from swing, so that a straight side and a swung one meet. */
const placeOf = ({ written, offset }: Placed): number => written + offset * beatsASecond;
/** Offsets are in seconds, places in beats; a beat of half a second is near enough to order neighbours by. */
const beatsASecond = 2;

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
  const reach = min(reachSeconds / beatSeconds, reachShare * stepBeats);
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
  for (const { referenceFirst, versionFirst, bars } of spans) {
    const range = { first: referenceFirst, last: referenceFirst + bars - 1 };
    const own = { first: versionFirst, last: versionFirst + bars - 1 };
    const by = referenceFirst - versionFirst;
    const a = hitsInBars(ours.hits, range, 0, beatsPerBar);
    const b = hitsInBars(theirs.hits, own, by, beatsPerBar);
    inReference.push(...a);
    inVersion.push(...b);
    const same = pairUp(a, b, (x, y) => x.hit.voice === y.hit.voice, reach);
    // What was heard too faintly to count still tells that a hit is not missing, unless that side
    // hears it clearly in other bars.
    const clearInTheirs = clearSteps(b, shape);
    const clearInOurs = clearSteps(a, shape);
    const heardTheirs = pairUp(
      same.missing,
      hitsInBars(theirs.faint, own, by, beatsPerBar).filter((hit) => !clearInTheirs(hit)),
      (x, y) => x.hit.voice === y.hit.voice,
      reach,
    );
    const heardOurs = pairUp(
      hitsInBars(ours.faint, range, 0, beatsPerBar).filter((hit) => !clearInOurs(hit)),
      same.extra,
      (x, y) => x.hit.voice === y.hit.voice,
      reach,
    );
    const other = pairUp(
      heardTheirs.missing,
      heardOurs.extra,
      (x, y) => alike(x.hit.voice, y.hit.voice),
      reach,
    );
    for (const [x, y] of [...same.pairs, ...heardTheirs.pairs, ...heardOurs.pairs])
      hits.push(agreeing(x, y, null));
    for (const [x, y] of other.pairs) hits.push(agreeing(x, y, y.hit.voice));
    for (const x of other.missing) hits.push(alone(x, "missing", isMeant("missing", x.hit.voice)));
    for (const y of other.extra) hits.push(alone(y, "extra", isMeant("extra", y.hit.voice)));
  }
  level(hits);
  takeOutCommonShift(hits);
  doubt(hits, inReference, inVersion, shape);
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
});

/** Takes out of the differences in force how much harder the version strikes each voice in general. */
function level(hits: readonly ComparedHit[]): void {
  for (const voice of drumVoices) {
    const own = hits.filter((hit) => hit.voice === voice && hit.harder !== null);
    if (own.length === 0) continue;
    const mean = own.reduce((sum, { harder }) => sum + harder!, 0) / own.length;
    for (const hit of own) hit.harder! -= mean;
  }
}

/** Takes out of all lateness what every voice has in common: that is where the grid lies, not how drums are played. */
function takeOutCommonShift(hits: readonly ComparedHit[]): void {
  const matched = hits.filter((hit) => hit.late !== null);
  const shifts = drumVoices.flatMap((voice) => {
    const late = matched.filter((hit) => hit.voice === voice).map((hit) => hit.late!);
    return late.length >= max(leastForMean, 0.05 * matched.length) ? [median(late)] : [];
  });
  if (shifts.length < 2) return;
  const common = shifts.every((s) => s > 0)
    ? min(...shifts)
    : shifts.every((s) => s < 0)
      ? max(...shifts)
      : 0;
  for (const hit of hits) if (hit.late !== null) hit.late -= common;
}

const median = (values: readonly number[]): number => {
  const sorted = [...values].sort((a, b) => a - b);
  return (sorted[(sorted.length - 1) >> 1]! + sorted[sorted.length >> 1]!) / 2;
};

/** Of a voice that can be covered, a step that is there in more or fewer bars than this is rather covered now and then than played so. */
const coveredShares = { from: 0.15, to: 0.85, leastBars: 4 } as const;

/**
 * Marks as unsure what lacks where the other side hardly hears the voice or hears its step now and
 * then, and doubles of hits that agree.
 */
function doubt(
  hits: readonly ComparedHit[],
  reference: readonly Placed[],
  version: readonly Placed[],
  shape: BarShape,
): void {
  for (const voice of drumVoices) {
    const trusted = (side: readonly Placed[]) => {
      const own = side.filter(({ hit }) => hit.voice === voice);
      const mean = own.reduce((sum, { hit }) => sum + hit.confidence, 0) / own.length;
      return own.length === 0 || mean >= trustedAt;
    };
    const trust = { missing: trusted(version), extra: trusted(reference) };
    const agreed = hits.filter((hit) => hit.voice === voice && hit.kind === "agrees");
    const stepOf = (hit: ComparedHit) => stepInBar((hit.reference ?? hit.version)!, shape);
    const isCovered = (hit: ComparedHit) => {
      if (clearVoices.includes(voice)) return false;
      const there = agreed.filter((other) => stepOf(other) === stepOf(hit)).length;
      const lacks = hits.filter(
        (other) => other.voice === voice && other.kind === hit.kind && stepOf(other) === stepOf(hit),
      ).length;
      const share = there / (there + lacks);
      return (
        there + lacks >= coveredShares.leastBars && share > coveredShares.from && share < coveredShares.to
      );
    };
    for (const hit of hits) {
      if (hit.voice !== voice || hit.kind === "agrees") continue;
      const { time } = (hit.reference ?? hit.version)!.hit;
      const side = hit.kind === "missing" ? "reference" : "version";
      const isDouble = agreed.some((other) => abs(other[side]!.hit.time - time) <= doubled);
      if (isDouble || !trust[hit.kind] || isCovered(hit)) hit.sure = false;
    }
  }
}

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

/** Something worth saying of one voice: what differs, and where. */
export interface DrumReport {
  kind: "missing" | "extra" | "early" | "late" | "loud" | "soft" | "even" | "accented" | "otherVoice";
  voice: DrumVoice;
  /** Where it is: written places in beats of the reference. */
  places: number[];
  /** Seconds, dB, or nothing where it is a matter of being there. */
  amount: number | null;
  otherVoice?: DrumVoice;
  /** Of what is early or late: how far behind (+) its step each side is on average. */
  offsets?: { reference: Seconds; version: Seconds };
}

/** A step must be off by this much on average to be named. */
const leastLate: Seconds = 0.008;
/** A single hit must be off by this much, since it cannot be averaged. */
const leastLateAlone: Seconds = 0.02;
const leastHarder: Decibels = 3.5;
const leastHarderAlone: Decibels = 7;
/** Accents narrower than this are hardly heard, and cannot be lost. */
const leastSpread: Decibels = 1.3;
/** Share of the accents that is left where a voice is called even, and from which on it is called uneven. */
const flattened: Fraction = 0.45;
const exaggerated = 1.8;

/** How wide the accents of a voice are in the reference, and which share of them the version has; null where there are none. */
function accentsKept(
  agreed: readonly ComparedHit[],
  shape: BarShape,
): { spread: Decibels; kept: number } | null {
  const steps = new Map<number, { count: number; reference: number; version: number }>();
  for (const { reference, version } of agreed) {
    const step = stepInBar(reference!, shape);
    const sum = steps.get(step) ?? { count: 0, reference: 0, version: 0 };
    sum.count++;
    sum.reference += velocityLevel(reference!.hit.velocity);
    sum.version += velocityLevel(version!.hit.velocity);
    steps.set(step, sum);
  }
  const usual = [...steps.values()].filter(({ count }) => count >= leastForMean);
  const count = usual.reduce((sum, own) => sum + own.count, 0);
  if (usual.length < 2) return null;
  const mean = (side: "reference" | "version") => usual.reduce((sum, own) => sum + own[side], 0) / count;
  const [a, b] = [mean("reference"), mean("version")];
  let variance = 0;
  let common = 0;
  for (const own of usual) {
    const x = own.reference / own.count - a;
    variance += own.count * x * x;
    common += own.count * x * (own.version / own.count - b);
  }
  const spread = sqrt(variance / count);
  return spread >= leastSpread ? { spread, kept: common / variance } : null;
}

/** Standard errors that a mean must stand off from nothing to be a habit. */
const certainty = 3;
/** From so many on a mean says more than its single values. */
const leastForMean = 3;

/** The mean of what happens at one step, where it is large enough and comes again; else null. */
function habitOf(values: readonly number[], least: number, leastAlone: number): number | null {
  const mean = values.reduce((a, b) => a + b, 0) / values.length;
  if (values.length < leastForMean) {
    return values.every((value) => abs(value) >= leastAlone && value * mean > 0) ? mean : null;
  }
  const deviation = sqrt(values.reduce((sum, value) => sum + (value - mean) ** 2, 0) / (values.length - 1));
  return abs(mean) >= max(least, (certainty * deviation) / sqrt(values.length)) ? mean : null;
}

/** All that is worth saying, voice by voice. */
export function drumReports({ hits }: ComparedDrums, beatsPerBar: number): DrumReport[] {
  const shape: BarShape = { beatsPerBar, stepsPerBeat: stepsPerBeat(beatsPerBar) };
  return drumVoices.flatMap((voice): DrumReport[] => {
    const own = hits.filter((hit) => hit.voice === voice);
    if (own.length === 0) return [];
    const reports: DrumReport[] = [];
    for (const kind of ["missing", "extra"] as const) {
      const places = own
        .filter((hit) => hit.kind === kind && hit.sure && !hit.meant)
        .map((hit) => (hit.reference ?? hit.version)!.written);
      if (places.length > 0) reports.push({ kind, voice, places, amount: null });
    }
    const agreed = own.filter(({ kind }) => kind === "agrees");
    const others = agreed.filter(({ otherVoice }) => otherVoice !== null);
    if (others.length > agreed.length / 2) {
      const { otherVoice } = others[others.length >> 1]!;
      reports.push({
        kind: "otherVoice",
        voice,
        places: others.map(({ reference }) => reference!.written),
        amount: null,
        otherVoice: otherVoice!,
      });
    }
    const bySteps = new Map<number, ComparedHit[]>();
    for (const hit of agreed) {
      const step = stepInBar(hit.reference!, shape);
      bySteps.set(step, [...(bySteps.get(step) ?? []), hit]);
    }
    const off = new Map<DrumReport["kind"], { places: number[]; sum: number }>();
    const note = (kind: DrumReport["kind"], group: readonly ComparedHit[], amount: number) => {
      const known = off.get(kind) ?? { places: [], sum: 0 };
      known.places.push(...group.map(({ reference }) => reference!.written));
      known.sum += amount * group.length;
      off.set(kind, known);
    };
    for (const group of bySteps.values()) {
      const late = habitOf(
        group.map((hit) => hit.late!),
        leastLate,
        leastLateAlone,
      );
      if (late !== null) note(late > 0 ? "late" : "early", group, late);
      const harder = habitOf(
        group.map((hit) => hit.harder!),
        leastHarder,
        leastHarderAlone,
      );
      if (harder !== null) note(harder > 0 ? "loud" : "soft", group, harder);
    }
    const accent = accentsKept(agreed, shape);
    if (accent && (accent.kept <= flattened || accent.kept >= exaggerated)) {
      // One word for the whole voice says more than many for its steps.
      off.delete("loud");
      off.delete("soft");
      reports.push({
        kind: accent.kept <= flattened ? "even" : "accented",
        voice,
        places: agreed.map(({ reference }) => reference!.written),
        amount: accent.spread * (accent.kept - 1),
      });
    }
    for (const [kind, { places, sum }] of off) {
      const named = agreed.filter(({ reference }) => places.includes(reference!.written));
      const offset = (side: "reference" | "version") =>
        named.reduce((total, hit) => total + hit[side]!.offset, 0) / named.length;
      reports.push({
        kind,
        voice,
        places: places.sort((a, b) => a - b),
        amount: sum / places.length,
        ...(kind === "early" || kind === "late"
          ? { offsets: { reference: offset("reference"), version: offset("version") } }
          : {}),
      });
    }
    return reports;
  });
}
