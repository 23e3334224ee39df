/** What the Loudness view shows: levels of both sides, section by section, and over the bars. */
import { cutOut, integratedLoudness, kWeightedStepsPerSecond, type LoudnessMeasures } from "@/core/loudness";
import { truePeakCeiling, type MixAspect, type TrackMeasures } from "@/core/match";
import { beatAt, secondsAt, spanOfBars } from "@/core/grid/grid";
import type { Seconds } from "@/core/units";
import type { CountedSection } from "@/core/plan";
import { coveredSpans, type AlignedBars, type StudyResults } from "@/core/study";
import { dynamicsModel, type DynamicsModel } from "./dynamics";
import { fixed } from "./format";

export interface LoudnessModel {
  nothingRecreated: boolean;
  outdated: boolean;
  scores: Record<"loudness" | "dynamics", number | null>;
  reference: LoudnessMeasures;
  version: LoudnessMeasures;
  /** Runs of samples at full scale: how many, and where the first of them begin, seconds in the file. */
  clipped: Record<"reference" | "version", { runs: number; at: number[] }>;
  /** dB that bring the version to the reference's loudness, and its true peak then; null in silence. */
  gain: number | null;
  peakAfterGain: number | null;
  dynamics: DynamicsModel;
}

/** Of the mix, what the view tells. */
export const loudnessAspects: readonly MixAspect[] = ["loudness", "dynamics", "punch", "pumping"];

export function loudnessModel(
  { study, analyses }: StudyResults,
  compared: {
    version: { file: { hash: string } };
    reference: TrackMeasures;
    measured: TrackMeasures;
    nothingRecreated: boolean;
    outdated: boolean;
    compared: { mix: { aspects: readonly { name: MixAspect; score: number | null }[] } };
  },
): LoudnessModel {
  const scoreOf = (name: MixAspect) =>
    compared.compared.mix.aspects.find((aspect) => aspect.name === name)?.score ?? null;
  const clippedIn = (hash: string) => {
    const analysis = analyses.get(hash);
    return { runs: analysis?.clippedRuns ?? 0, at: analysis?.clippedPlaces.map(({ start }) => start) ?? [] };
  };
  const [ours, theirs] = [compared.reference.loudness, compared.measured.loudness];
  const gain =
    ours.integratedLufs === null || theirs.integratedLufs === null
      ? null
      : ours.integratedLufs - theirs.integratedLufs;
  return {
    nothingRecreated: compared.nothingRecreated,
    outdated: compared.outdated,
    scores: { loudness: scoreOf("loudness"), dynamics: scoreOf("dynamics") },
    reference: ours,
    version: theirs,
    clipped: {
      reference: clippedIn(study.reference!.file.hash),
      version: clippedIn(compared.version.file.hash),
    },
    gain,
    peakAfterGain: gain === null || theirs.truePeakDbtp === null ? null : theirs.truePeakDbtp + gain,
    dynamics: dynamicsModel(compared.reference, compared.measured, compared.compared.mix.aspects),
  };
}

/** The time of the reference that a time of the version answers; null where it answers none. */
export function referenceTimeOf(
  { reference, version, spans }: AlignedBars,
  seconds: Seconds,
): Seconds | null {
  const { beatsPerBar } = reference;
  const beat = beatAt(version, seconds);
  const bar = Math.floor(beat / beatsPerBar) + 1;
  const span = spans.find(({ versionFirst, bars }) => bar >= versionFirst && bar < versionFirst + bars);
  return span ? secondsAt(reference, beat + (span.referenceFirst - span.versionFirst) * beatsPerBar) : null;
}

/** What to do about the level, in a sentence. */
export function gainSentence({ gain, peakAfterGain }: LoudnessModel): string {
  if (gain === null) return "One side is silent, so levels have no meaning.";
  if (Math.abs(gain) < 0.25) return "As loud as the reference.";
  const turn = `Turn it ${gain > 0 ? "up" : "down"} by ${fixed(Math.abs(gain))} dB`;
  if (peakAfterGain === null) return `${turn}.`;
  const over = peakAfterGain > truePeakCeiling;
  return `${turn}: its true peak will be at ${fixed(peakAfterGain)} dBTP${over && gain > 0 ? ", above −1: a limiter has to take the rest" : ""}.`;
}

/** A section of the reference with the loudness of both sides; null where it is not recreated or silent. */
export interface SectionLoudness {
  name: string;
  firstBar: number;
  lastBar: number;
  reference: number | null;
  version: number | null;
}

/** Integrated loudness of each section of the reference, and of what answers it. */
export function sectionLoudness(
  sections: readonly CountedSection[],
  aligned: AlignedBars,
  reference: Float32Array,
  version: Float32Array,
): SectionLoudness[] {
  return sections.map(({ name, firstBar, lastBar }) => {
    const spans = coveredSpans(spanOfBars(aligned.reference, { first: firstBar, last: lastBar }), aligned);
    const whole = [spanOfBars(aligned.reference, { first: firstBar, last: lastBar })];
    const of = (curve: Float32Array, own: typeof whole) =>
      own.length > 0 ? integratedLoudness(cutOut(curve, kWeightedStepsPerSecond, own)) : null;
    return {
      name,
      firstBar,
      lastBar,
      reference: of(reference, whole),
      version: of(version, spans.version),
    };
  });
}

/** Steps from section to section that differ by less are the same. */
const leastStep = 1;

/** Where the step from one section to the next is not the reference's, largest first. */
export function stepSentences(sections: readonly SectionLoudness[]): string[] {
  return sections
    .slice(1)
    .flatMap((own, i) => {
      const before = sections[i]!;
      if (own.reference === null || before.reference === null) return [];
      if (own.version === null || before.version === null) return [];
      const [ours, theirs] = [own.reference - before.reference, own.version - before.version];
      if (Math.abs(ours - theirs) < leastStep) return [];
      const side = (step: number) => `${fixed(Math.abs(step))} LU ${step > 0 ? "above" : "below"}`;
      const isLevel = (step: number) => Math.abs(step) < 0.3;
      return [
        {
          size: Math.abs(ours - theirs),
          text: `${own.name}: ${isLevel(ours) ? "as loud as" : side(ours)} ${before.name}; yours ${isLevel(theirs) ? "stays level" : side(theirs)}.`,
        },
      ];
    })
    .sort((a, b) => b.size - a.size)
    .map(({ text }) => text.charAt(0).toUpperCase() + text.slice(1));
}

/** Share of the time at each whole LUFS, from `quietest` up to 0. */
export const quietest = -40;
export function loudnessDistribution(shortTerm: Float32Array): number[] {
  const counts = new Array<number>(-quietest + 1).fill(0);
  let whole = 0;
  for (const level of shortTerm) {
    if (!(level > quietest - 0.5)) continue;
    counts[Math.min(counts.length - 1, Math.round(level) - quietest)]!++;
    whole++;
  }
  return counts.map((count) => (whole > 0 ? count / whole : 0));
}
