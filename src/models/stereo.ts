/** What the Stereo view shows: width, correlation and balance of both sides per octave band and over bars. */
import type { MixAspect, TrackMeasures } from "@/core/match";
import {
  lowEndWidth,
  monoFrom,
  octaves,
  offCentre,
  stereoByOctave,
  stereoOfWhole,
  widthGaps,
  type BandStereo,
} from "@/core/stereo";
import { coverageOf, type StudyResults } from "@/core/study";
import { fixed, nominalFrequency } from "./format";
import { spaceModel, type SpaceModel } from "./space";

export interface StereoBand {
  low: number;
  centre: number;
  high: number;
  reference: BandStereo;
  version: BandStereo;
  /** Version less reference, dB; null where it is not heard on both sides. */
  widthGap: number | null;
}

/** Something to know or to do. */
export interface StereoFinding {
  key: string;
  title: string;
  detail: string;
  isWarning: boolean;
}

export interface StereoModel {
  nothingRecreated: boolean;
  outdated: boolean;
  score: number | null;
  whole: Record<"reference" | "version", BandStereo>;
  bands: StereoBand[];
  /** Side against mid below 120 Hz, dB; null where nothing sounds there. */
  lowEnd: Record<"reference" | "version", number | null>;
  /** Width of each bar and of the bar that answers it, dB. */
  overBars: { bar: number; reference: number | null; version: number | null }[];
  findings: StereoFinding[];
  space: SpaceModel;
}

/** Bands with less than this share of the power are not spoken of. */
const leastShare = 0.003;
/** From here on a gap in width is worth a word. */
const leastGap = 2;
/** Losing more than this when summed to mono is said. */
const mostLoss = -2;

/** Bars of the reference with the width of both sides; what is not recreated has none. */
function widthOverBars(
  { study, plans, alignments }: StudyResults,
  versionId: string,
): StereoModel["overBars"] {
  const version = study.versions.find(({ id }) => id === versionId);
  const formOf = (id: string | undefined) => (id === undefined ? null : plans.get(id)?.value.form);
  const [ours, theirs] = [formOf(study.reference?.id), formOf(versionId)];
  if (!ours || !version) return [];
  const spans = coverageOf(version, alignments.get(versionId)?.value.alignment);
  return ours.bars.width.map((reference, i) => {
    const bar = ours.bars.firstBar + i;
    const span = spans.find(
      ({ referenceFirst, bars }) => bar >= referenceFirst && bar < referenceFirst + bars,
    );
    const own =
      span && theirs
        ? theirs.bars.width[bar - span.referenceFirst + span.versionFirst - theirs.bars.firstBar]
        : undefined;
    return { bar, reference, version: own ?? null };
  });
}

/** Neighbouring octaves that are too wide or too narrow together, with their mean gap. */
function widthRanges(bands: readonly StereoBand[]): { low: number; high: number; gap: number }[] {
  const ranges: { low: number; high: number; gap: number; count: number }[] = [];
  for (const { low, high, version, widthGap } of bands) {
    if (widthGap === null || Math.abs(widthGap) < leastGap || version.share < leastShare || low < 80)
      continue;
    const last = ranges.at(-1);
    if (last?.high === low && Math.sign(last.gap) === Math.sign(widthGap)) {
      last.high = high;
      last.gap = (last.gap * last.count + widthGap) / ++last.count;
    } else ranges.push({ low, high, gap: widthGap, count: 1 });
  }
  return ranges;
}

function findingsOf({
  bands,
  lowEnd,
  whole,
}: Pick<StereoModel, "bands" | "lowEnd" | "whole">): StereoFinding[] {
  const found: StereoFinding[] = [];
  if (lowEnd.version !== null && lowEnd.version > monoFrom) {
    const asReference = lowEnd.reference !== null && lowEnd.reference > monoFrom;
    found.push({
      key: "low end",
      title: "The low end is not mono",
      detail: `Below 120 Hz the side lies ${fixed(-lowEnd.version)} dB under the mid${asReference ? "; the reference's is not mono either" : lowEnd.reference === null ? "" : `, the reference's ${fixed(-lowEnd.reference)} dB`}. Make it mono there.`,
      isWarning: !asReference,
    });
  }
  for (const { low, high, gap } of widthRanges(bands))
    found.push({
      key: `width ${low}`,
      title: `${nominalFrequency(low)} to ${nominalFrequency(high)}: ${fixed(Math.abs(gap))} dB too ${gap > 0 ? "wide" : "narrow"}`,
      detail: `${gap > 0 ? "Narrow" : "Widen"} what plays here, or ${gap > 0 ? "lower" : "raise"} its side.`,
      isWarning: false,
    });
  for (const { low, high, reference, version } of bands) {
    if (version.balanceDb === null || version.share < leastShare) continue;
    const beside = version.balanceDb - (reference.balanceDb ?? 0);
    if (Math.abs(version.balanceDb) < offCentre || Math.abs(beside) < offCentre) continue;
    found.push({
      key: `balance ${low}`,
      title: `${nominalFrequency(low)} to ${nominalFrequency(high)}: ${fixed(Math.abs(version.balanceDb))} dB to the ${version.balanceDb > 0 ? "left" : "right"}`,
      detail: `The reference lies ${Math.abs(reference.balanceDb ?? 0) < 0.5 ? "in the middle" : `${fixed(Math.abs(reference.balanceDb ?? 0))} dB to the ${(reference.balanceDb ?? 0) > 0 ? "left" : "right"}`}${low < 250 ? "; kick and bass belong in the middle" : ""}.`,
      isWarning: low < 250,
    });
  }
  const lost = bands.filter(
    ({ version, reference }) =>
      version.monoLossDb !== null &&
      version.monoLossDb < mostLoss &&
      version.monoLossDb < (reference.monoLossDb ?? 0) - 1 &&
      version.share >= leastShare,
  );
  for (const { low, high, version, reference } of lost)
    found.push({
      key: `mono ${low}`,
      title: `${nominalFrequency(low)} to ${nominalFrequency(high)} loses ${fixed(-version.monoLossDb!)} dB in mono`,
      detail: `The reference loses ${fixed(-(reference.monoLossDb ?? 0))} dB. Look for what is out of phase there.`,
      isWarning: version.monoLossDb! < -4,
    });
  if ((whole.version.correlation ?? 1) < 0)
    found.push({
      key: "polarity",
      title: "Left and right work against each other",
      detail: "Their correlation is below 0: one of them is likely to have its polarity inverted.",
      isWarning: true,
    });
  return found.sort((a, b) => Number(b.isWarning) - Number(a.isWarning));
}

/** Of the mix, what the view tells. */
export const stereoAspects: readonly MixAspect[] = ["width", "space"];

export function stereoModel(
  results: StudyResults,
  compared: {
    version: { id: string; file: { hash: string } };
    reference: TrackMeasures;
    measured: TrackMeasures;
    nothingRecreated: boolean;
    outdated: boolean;
    compared: { mix: { aspects: readonly { name: MixAspect; score: number | null }[] } };
  },
): StereoModel {
  const wobbleOf = (hash: string) => results.analyses.get(hash)?.wobble ?? null;
  const [ours, theirs] = [compared.reference.spectrum, compared.measured.spectrum];
  const [a, b] = [stereoByOctave(ours), stereoByOctave(theirs)];
  const gaps = widthGaps(ours, theirs);
  const shown = {
    whole: { reference: stereoOfWhole(ours), version: stereoOfWhole(theirs) },
    bands: octaves.map((octave, o): StereoBand => ({
      ...octave,
      reference: a[o]!,
      version: b[o]!,
      widthGap: gaps[o]!,
    })),
    lowEnd: { reference: lowEndWidth(ours), version: lowEndWidth(theirs) },
  };
  return {
    nothingRecreated: compared.nothingRecreated,
    outdated: compared.outdated,
    score: compared.compared.mix.aspects.find(({ name }) => name === "width")?.score ?? null,
    ...shown,
    overBars: widthOverBars(results, compared.version.id),
    findings: compared.nothingRecreated ? [] : findingsOf(shown),
    space: spaceModel(compared.reference, compared.measured, compared.compared.mix.aspects, {
      reference: wobbleOf(results.study.reference!.file.hash),
      version: wobbleOf(compared.version.file.hash),
    }),
  };
}
