import type { TrackAnalysis, TrackCurves } from "../analysis/result";
import { measureLoudness } from "../loudness";
import type { TrackMeasures } from "../match";
import { averageSpectrum } from "../tone";
import type { Seconds } from "../units";

/** A stretch of time in seconds, `from` < `to`. */
export interface Span {
  from: Seconds;
  to: Seconds;
}

/** What of each side is held against each other. Null stands for the whole. */
export interface SpanPair {
  reference: Span | null;
  version: Span | null;
}

/** Selections shorter than this are taken for clicks. */
export const shortestSpan: Seconds = 0.5;

/**
 * Which part of a version answers a selection in the reference, until the two are lined up: the
 * same seconds where the version is long enough to have them, else the whole version, as when
 * eight bars were rebuilt.
 */
export function answeringSpans(
  selection: Span | null,
  referenceSeconds: Seconds,
  versionSeconds: Seconds,
): SpanPair {
  if (!selection || selection.to - selection.from < shortestSpan) return { reference: null, version: null };
  const reference = { from: Math.max(0, selection.from), to: Math.min(referenceSeconds, selection.to) };
  if (reference.to - reference.from < shortestSpan) return { reference: null, version: null };
  return { reference, version: versionSeconds >= reference.to ? reference : null };
}

/** What is compared of a whole track. */
export const measuresOfWhole = (analysis: TrackAnalysis): TrackMeasures => ({
  bpm: analysis.tempo?.bpm ?? null,
  loudness: analysis.loudness,
  spectrum: {
    mid: Float32Array.from(analysis.spectrum.mid),
    side: Float32Array.from(analysis.spectrum.side),
  },
});

/** What is compared of a span: its level and spectrum; the tempo is that of the whole track. */
export const measuresOfSpan = (
  analysis: TrackAnalysis,
  curves: Pick<TrackCurves, "levels" | "bands">,
  span: Span,
): TrackMeasures => ({
  bpm: analysis.tempo?.bpm ?? null,
  loudness: measureLoudness(curves.levels, span.from, span.to),
  spectrum: averageSpectrum(curves.bands, span.from, span.to),
});
