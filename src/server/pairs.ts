/** Tasks of the workers that begin where analyses end. */
import { comparingRate, findOffset, thinned } from "@/core/align/offset";
import { foldToStereo } from "@/core/audio/signal";
import { loadFft } from "@/core/dsp/fft";
import type { OnsetRanges } from "@/core/grid/onset";
import { tempoNear } from "@/core/grid/tempo";
import { gridOf } from "@/core/grid/correction";
import { success, type Outcome } from "@/core/outcome";
import type { TrackPlan } from "@/core/plan";
import { planOf } from "@/core/plan/estimatePlan";
import { lineUp, type LinedUp, type LineUpSide, type StemOffset } from "@/core/study";
import type { CoverageSpan } from "@/core/align/coverage";
import { decodeFile } from "./decode";

/** Lines a version up with its reference. */
export async function lineUpPair({
  reference,
  version,
  coverage,
}: {
  reference: LineUpSide;
  version: LineUpSide;
  coverage: CoverageSpan[] | null;
}): Promise<LinedUp> {
  await loadFft();
  return lineUp(reference, version, coverage);
}

/** The plan of a track on its grid as corrected. */
export async function planTrack({ analysis, curves, correction }: LineUpSide): Promise<TrackPlan> {
  await loadFft();
  const { onsets, pitches, bands, levels } = curves;
  return planOf(
    gridOf(analysis.grid, analysis.durationSeconds, correction, onsets),
    { onsets, pitches, bands, energies: levels.energies },
    analysis.durationSeconds,
  );
}

/** Finds where a stem lies in its full track; null where one of them is silent. */
export async function placeStem({
  trackPath,
  stemPath,
}: {
  trackPath: string;
  stemPath: string;
}): Promise<Outcome<StemOffset | null>> {
  await loadFft();
  const track = await decodeFile(trackPath);
  if (!track.ok) return track;
  const stem = await decodeFile(stemPath);
  if (!stem.ok) return stem;
  const rate = comparingRate(track.value.signal.sampleRate, stem.value.signal.sampleRate);
  const mono = ({ signal }: typeof track.value) => thinned(foldToStereo(signal), signal.sampleRate, rate);
  return success(findOffset(mono(track.value), mono(stem.value), rate));
}

/** The tempo that the onsets say near one that was tapped. */
export async function sharpenTempo({
  onsets,
  bpm,
  reach,
}: {
  onsets: OnsetRanges;
  bpm: number;
  reach: number;
}): Promise<number> {
  await loadFft();
  return tempoNear(onsets, bpm, reach);
}
