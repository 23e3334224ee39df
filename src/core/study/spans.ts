import type { CoverageSpan } from "../align/coverage";
import type { TrackAnalysis, TrackCurves } from "../analysis/result";
import type { DrumHit } from "../drums/hits";
import { measureEnvelopes, type EnvelopeMeasures } from "../envelopes";
import { beatAt, secondsAt, type Grid } from "../grid/grid";
import { measureLoudness } from "../loudness";
import type { TrackMeasures } from "../match";
import { averageSpectrum } from "../tone";
import type { Bpm, Seconds, Span } from "../units";

export type { Span } from "../units";

/** What of each side is held against each other: spans that answer each other one by one. Null stands for the whole. */
export interface SpanPair {
  reference: Span[] | null;
  version: Span[] | null;
}

/** Selections shorter than this are taken for clicks. */
export const shortestSpan: Seconds = 0.5;

/** Both grids and the bars that answer each other. */
export interface AlignedBars {
  reference: Grid;
  version: Grid;
  spans: readonly CoverageSpan[];
}

/** The times of a span of coverage on either side. */
export function timesOf(span: CoverageSpan, { reference, version }: Omit<AlignedBars, "spans">) {
  const { beatsPerBar } = reference;
  const side = (grid: Grid, first: number): Span => ({
    from: secondsAt(grid, (first - 1) * beatsPerBar),
    to: secondsAt(grid, (first - 1 + span.bars) * beatsPerBar),
  });
  return { reference: side(reference, span.referenceFirst), version: side(version, span.versionFirst) };
}

/** The time of the version that answers a place of the reference, beats; null where none does. */
export function answeringTime({ reference, version, spans }: AlignedBars, beat: number): Seconds | null {
  const { beatsPerBar } = reference;
  const bar = Math.floor(beat / beatsPerBar) + 1;
  const span = spans.find(({ referenceFirst, bars }) => bar >= referenceFirst && bar < referenceFirst + bars);
  return span ? secondsAt(version, beat + (span.versionFirst - span.referenceFirst) * beatsPerBar) : null;
}

/**
 * Which parts of both tracks are compared: the bars that are recreated, as far as they lie in the
 * selection.
 *
 * @returns empty lists where nothing selected is recreated.
 */
export function coveredSpans(
  selection: Span | null,
  lined: AlignedBars,
): { reference: Span[]; version: Span[] } {
  const { beatsPerBar } = lined.reference;
  const result: { reference: Span[]; version: Span[] } = { reference: [], version: [] };
  for (const span of lined.spans) {
    const whole = timesOf(span, lined);
    const from = Math.max(whole.reference.from, selection?.from ?? -Infinity);
    const to = Math.min(whole.reference.to, selection?.to ?? Infinity);
    if (to - from < Math.min(shortestSpan, whole.reference.to - whole.reference.from)) continue;
    const beatsOn = (span.versionFirst - span.referenceFirst) * beatsPerBar;
    const answer = (seconds: Seconds) =>
      Math.max(0, secondsAt(lined.version, beatAt(lined.reference, seconds) + beatsOn));
    result.reference.push({ from: Math.max(0, from), to });
    result.version.push({ from: answer(from), to: answer(to) });
  }
  return result;
}

/**
 * Which part of a version answers a selection in the reference where the two cannot be lined up by
 * bars: the same seconds where the version is long enough to have them, else the whole version.
 */
export function sameSeconds(
  selection: Span | null,
  referenceSeconds: Seconds,
  versionSeconds: Seconds,
): SpanPair {
  if (!selection || selection.to - selection.from < shortestSpan) return { reference: null, version: null };
  const reference = { from: Math.max(0, selection.from), to: Math.min(referenceSeconds, selection.to) };
  if (reference.to - reference.from < shortestSpan) return { reference: null, version: null };
  return { reference: [reference], version: versionSeconds >= reference.to ? [reference] : null };
}

/**
 * What is compared of a whole track.
 *
 * @param bpm of the grid as it counts; else the first estimate.
 */
export const measuresOfWhole = (
  analysis: TrackAnalysis,
  bpm: Bpm | null = analysis.tempo?.bpm ?? null,
): TrackMeasures => ({
  bpm,
  loudness: analysis.loudness,
  spectrum: {
    mid: Float32Array.from(analysis.spectrum.mid),
    side: Float32Array.from(analysis.spectrum.side),
    cross: Float32Array.from(analysis.spectrum.cross),
  },
  envelopes: analysis.envelopes,
});

/**
 * What is compared of some spans; the tempo is that of the whole track.
 *
 * @param hits of the whole track as heard.
 */
export const measuresOfSpans = (
  curves: Pick<TrackCurves, "levels" | "bands" | "envelopes">,
  spans: readonly Span[],
  bpm: Bpm | null,
  hits: readonly DrumHit[],
): TrackMeasures => {
  let envelopes: EnvelopeMeasures | null = null;
  return {
    bpm,
    loudness: measureLoudness(curves.levels, spans),
    spectrum: averageSpectrum(curves.bands, spans),
    // They take longest, and not everybody asks for them.
    get envelopes() {
      return (envelopes ??= measureEnvelopes(curves.envelopes, hits, bpm && 60 / bpm, spans));
    },
  };
};
