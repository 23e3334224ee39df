/** What the view Drums shows, and how the core's findings are said in words. */
import { withoutExtension } from "@/core/formats/fileNames";
import {
  byVoice,
  drumReports,
  drumVoices,
  placeInWords,
  straight,
  swingOfDrums,
  voiceNames,
  type ComparedDrums,
  type ComparedHit,
  type CountedHit,
  type DrumCorrection,
  type DrumEstimate,
  type DrumReport,
  type DrumVoice,
  type MainSwing,
  type IntendedDifference,
} from "@/core/drums";
import { packDrums, unpackDrums, type PackedDrums } from "@/core/drums/packedHits";
import type { Grid } from "@/core/grid/grid";
import { packGrid, unpackGrid, type PackedGrid } from "@/core/grid/packedGrid";
import { defaultAspectWeights, measureRules, scoreOf, weightedMean } from "@/core/match";
import type { MixAspect } from "@/core/match";
import type { CountedSection } from "@/core/plan";
import {
  drumStemsOf,
  itemDrums,
  itemPlan,
  versionOf,
  type StudyResults,
  type TrackRecord,
} from "@/core/study";
import { fixed, signed } from "./format";

export interface DrumTrack {
  itemId: string;
  kind: "reference" | "version";
  name: string;
  /** For files that are written. */
  title: string;
  estimate: DrumEstimate;
  /** By which stem a voice is known. */
  sources: Partial<Record<DrumVoice, string>>;
  correction: DrumCorrection;
  /** The grid that its own pattern is laid on. */
  ownGrid: Grid | null;
  /** The grid that coverage is counted on. */
  grid: Grid | null;
  swing: MainSwing;
}

export interface DrumModel {
  reference: DrumTrack | null;
  version: DrumTrack | null;
  sections: CountedSection[];
}

function drumTrack(
  { study, analyses, grids, ownGrids }: StudyResults,
  track: TrackRecord,
  kind: DrumTrack["kind"],
  name: string,
): DrumTrack | null {
  const analysis = analyses.get(track.file.hash);
  if (!analysis) return null;
  const ownGrid = ownGrids.get(track.id) ?? null;
  const grid = grids.get(track.id) ?? ownGrid;
  const { estimate, sources, counted } = itemDrums(
    analysis,
    drumStemsOf(track.stems, study.elements, analyses),
    track.corrections,
    ownGrid,
  );
  return {
    itemId: track.id,
    kind,
    name,
    title: withoutExtension(track.fileName),
    estimate,
    sources,
    correction: track.corrections.drums,
    ownGrid,
    grid,
    swing: grid ? swingOfDrums(counted.hits, grid, analysis.grid?.swing) : straight,
  };
}

/** Drums of the reference and of the version with a number, or else the newest. */
export function drumModel(results: StudyResults, number: number | null): DrumModel {
  const { study, plans } = results;
  const { reference } = study;
  const version = versionOf(study, number);
  const plan = reference && plans.get(reference.id);
  return {
    reference: reference && drumTrack(results, reference, "reference", "Reference"),
    version: version && drumTrack(results, version, "version", `Version ${version.number}`),
    sections: reference && plan ? itemPlan(plan.value, reference).sections : [],
  };
}

type SentTrack = Omit<DrumTrack, "estimate" | "ownGrid" | "grid"> & {
  estimate: PackedDrums;
  ownGrid: PackedGrid | null;
  grid: PackedGrid | null;
};

/** The model as a page is sent it. */
export interface SentDrums extends Omit<DrumModel, "reference" | "version"> {
  reference: SentTrack | null;
  version: SentTrack | null;
}

export function sentDrums({ reference, version, ...rest }: DrumModel): SentDrums {
  const packed = (track: DrumTrack | null): SentTrack | null =>
    track && {
      ...track,
      estimate: packDrums(track.estimate),
      ownGrid: track.ownGrid && packGrid(track.ownGrid),
      grid: track.grid && packGrid(track.grid),
    };
  return { ...rest, reference: packed(reference), version: packed(version) };
}

export function receivedDrums({ reference, version, ...rest }: SentDrums): DrumModel {
  const unpacked = (track: SentTrack | null): DrumTrack | null =>
    track && {
      ...track,
      estimate: unpackDrums(track.estimate),
      ownGrid: track.ownGrid && unpackGrid(track.ownGrid),
      grid: track.grid && unpackGrid(track.grid),
    };
  return { ...rest, reference: unpacked(reference), version: unpacked(version) };
}

/** The model with the corrections that count now, which may be newer than those it was sent with. */
export function correctedDrums(
  model: DrumModel,
  correctionOf: (itemId: string) => DrumCorrection | undefined,
): DrumModel {
  const now = (track: DrumTrack | null): DrumTrack | null => {
    const correction = track && correctionOf(track.itemId);
    return track && correction && correction !== track.correction ? { ...track, correction } : track;
  };
  return { ...model, reference: now(model.reference), version: now(model.version) };
}

export const drumAspects = ["pattern", "timing", "swing", "accents"] as const satisfies readonly MixAspect[];

/** One number for the drums, from the aspects that apply. */
export const drumScore = (
  aspects: Partial<Record<MixAspect, number | null>>,
  weights: Record<MixAspect, number> = defaultAspectWeights,
): number | null =>
  weightedMean(drumAspects.map((name) => ({ score: aspects[name] ?? null, weight: weights[name] })));

/** Scores of the four aspects over what is compared. */
export const scoresOfDrums = ({
  pattern,
  timing,
  accents,
  swing,
}: ComparedDrums): Record<(typeof drumAspects)[number], number | null> => ({
  pattern: pattern === null ? null : 100 * pattern,
  timing: timing === null ? null : scoreOf(1000 * timing, measureRules.hitTiming),
  swing: swing === null ? null : scoreOf(swing.version - swing.reference, measureRules.swing),
  accents: accents === null ? null : scoreOf(accents, measureRules.accents),
});

/** A sentence with a place to go to. */
export interface DrumFinding {
  key: string;
  title: string;
  detail: string;
  /** Points of the drums' score that it is worth. */
  points: number;
  voice: DrumVoice | null;
  /** Bar in which it first shows; null where it is everywhere. */
  bar: number | null;
  /** What is to be said if it is intended. */
  intended: IntendedDifference;
}

const plural = (count: number, word: string) => `${count} ${word}${count === 1 ? "" : "s"}`;

/** Places as people count them: `bar 2 beat 3¾`, or `beat 3¾ of 6 bars` where it comes again. */
export function placesInWords(places: readonly number[], beatsPerBar: number, most = 3): string {
  const bySteps = new Map<string, number[]>();
  for (const place of places) {
    const step = placeInWords(place, beatsPerBar);
    bySteps.set(step, [...(bySteps.get(step) ?? []), Math.floor(place / beatsPerBar + 1e-6) + 1]);
  }
  const said = [...bySteps].flatMap(([step, bars]) =>
    bars.length > 2 ? [`beat ${step} of ${bars.length} bars`] : bars.map((bar) => `bar ${bar} beat ${step}`),
  );
  return said.length > most
    ? `${said.slice(0, most).join(", ")} and ${said.length - most} more`
    : said.join(", ");
}

const milliseconds = (seconds: number) => `${fixed(Math.abs(1000 * seconds), 0)} ms`;

/** Nobody hears less than this. */
const onGrid = 0.0025;
const besideGrid = (offset: number) =>
  Math.abs(offset) < onGrid
    ? "on the grid"
    : `${milliseconds(offset)} ${offset > 0 ? "behind" : "ahead of"} the grid`;

function sentenceOf(report: DrumReport, beatsPerBar: number): Pick<DrumFinding, "title" | "detail"> {
  const { voice, places, amount } = report;
  const name = voiceNames[voice];
  const where = placesInWords(places, beatsPerBar);
  switch (report.kind) {
    case "missing":
      return { title: `${name}: ${plural(places.length, "hit")} missing`, detail: where };
    case "extra":
      return { title: `${name}: ${places.length} extra hit${places.length === 1 ? "" : "s"}`, detail: where };
    case "early":
    case "late":
      return {
        title: `${name} ${milliseconds(amount!)} ${report.kind === "late" ? "late" : "early"}`,
        detail: `${where}: ${besideGrid(report.offsets!.reference)} in the reference, ${besideGrid(report.offsets!.version)} in yours`,
      };
    case "loud":
    case "soft":
      return {
        title: `${name} too ${report.kind === "loud" ? "hard" : "soft"}`,
        detail: `${where}: ${signed(amount, 1)} dB relative to its other hits`,
      };
    case "even":
      return {
        title: `${name} accents too even`,
        detail: `accents spread ${fixed(Math.abs(amount!))} dB less than in the reference`,
      };
    case "accented":
      return {
        title: `${name} accents too uneven`,
        detail: `accents spread ${fixed(amount)} dB wider than in the reference`,
      };
    case "otherVoice":
      return {
        title: `${voiceNames[report.otherVoice!]} in place of ${name.toLowerCase()}`,
        detail: where,
      };
  }
}

const intendedKind: Record<DrumReport["kind"], IntendedDifference["kind"]> = {
  missing: "missing",
  extra: "extra",
  early: "timing",
  late: "timing",
  loud: "accents",
  soft: "accents",
  even: "accents",
  accented: "accents",
  otherVoice: "otherVoice",
};

/** What is different, the most valuable first. */
export function drumFindings(
  compared: ComparedDrums,
  beatsPerBar: number,
  weights: Record<MixAspect, number>,
  intended: readonly IntendedDifference[],
): DrumFinding[] {
  const isIntended = (own: IntendedDifference) =>
    intended.some(({ kind, voice }) => kind === own.kind && voice === own.voice);
  const scores = scoresOfDrums(compared);
  const whole = drumScore(scores, weights);
  if (whole === null) return [];
  const mended = (change: Partial<typeof scores>) =>
    (drumScore({ ...scores, ...change }, weights) ?? whole) - whole;
  const hitsWeight = compared.voices.reduce((sum, { weight }) => sum + weight, 0) || 1;
  const effective = (of: "timing" | "accents", without: DrumVoice) => {
    const counting = compared.voices.filter(
      (own) => own[of] !== null && !isIntended({ kind: of, voice: own.voice }),
    );
    const weight = counting.reduce((sum, own) => sum + Math.sqrt(own.weight), 0) || 1;
    return Math.sqrt(
      counting.reduce(
        (sum, own) => sum + (own.voice === without ? 0 : Math.sqrt(own.weight) * own[of]! ** 2),
        0,
      ) / weight,
    );
  };
  const worth = ({ kind, voice }: DrumReport): number => {
    if (kind === "missing" || kind === "extra") {
      const own = compared.hits.filter((hit) => hit.kind === kind && hit.voice === voice && hit.reliable);
      const weight = own.reduce((sum, hit) => sum + (hit.reference ?? hit.version)!.hit.velocity, 0);
      return mended({ pattern: Math.min(100, (scores.pattern ?? 0) + (50 * weight) / hitsWeight) });
    }
    if (kind === "otherVoice") return 0;
    return kind === "early" || kind === "late"
      ? mended({ timing: scoreOf(1000 * effective("timing", voice), measureRules.hitTiming) })
      : mended({ accents: scoreOf(effective("accents", voice), measureRules.accents) });
  };
  const found = drumReports(compared, beatsPerBar).flatMap((report): DrumFinding[] => {
    const own = { kind: intendedKind[report.kind], voice: report.voice };
    if (isIntended(own)) return [];
    return [
      {
        key: `${report.voice} ${report.kind}`,
        ...sentenceOf(report, beatsPerBar),
        points: worth(report),
        voice: report.voice,
        bar: report.places.length > 0 ? Math.floor(report.places[0]! / beatsPerBar + 1e-6) + 1 : null,
        intended: own,
      },
    ];
  });
  const { swing } = compared;
  if (swing && scores.swing !== null && scores.swing < 97) {
    const less = swing.version < swing.reference;
    found.push({
      key: "swing",
      title:
        Math.abs(swing.version - 50) < 1.5 && less
          ? "Yours is played straight"
          : `Yours swings ${less ? "less" : "more"}`,
      detail: `${swing.of === 8 ? "eighths" : "sixteenths"}: the reference ${fixed(swing.reference)} %, yours ${fixed(swing.version)} %`,
      points: mended({ swing: 100 }),
      voice: null,
      bar: null,
      intended: { kind: "swing", voice: null },
    });
  }
  return found.sort((a, b) => b.points - a.points);
}

/**
 * Voices that a track has at all, in their order: one that was heard once or twice among hundreds of
 * hits is left out, one that was set by hand never.
 */
export function voicesIn(sides: readonly (readonly CountedHit[])[]): DrumVoice[] {
  const found = new Set(
    sides.flatMap((hits) =>
      byVoice(hits, ({ voice }) => voice).flatMap(([voice, own]) =>
        own.some(({ origin }) => origin !== "heard") || own.length >= Math.max(2, 0.002 * hits.length)
          ? [voice]
          : [],
      ),
    ),
  );
  return drumVoices.filter((voice) => found.has(voice));
}

/** Share of agreement of each bar, over bars of the reference that are recreated. */
export function agreementByBar(
  hits: readonly ComparedHit[],
  beatsPerBar: number,
): Map<number, { agrees: number; all: number }> {
  const bars = new Map<number, { agrees: number; all: number }>();
  for (const { reference, version, kind, reliable, intended } of hits) {
    if (intended || (!reliable && kind !== "agrees")) continue;
    const bar = Math.floor((reference ?? version)!.quantised / beatsPerBar + 1e-6) + 1;
    const own = bars.get(bar) ?? { agrees: 0, all: 0 };
    const weight = kind === "agrees" ? 2 : 1;
    own.all += weight;
    if (kind === "agrees") own.agrees += weight;
    bars.set(bar, own);
  }
  return bars;
}
