/** How far a lifted part stands free of what others left in it, from what the lifting itself can tell. */
import type { StereoSamples } from "../hits/strokes";
import { powerToDecibels, type Decibels, type Fraction, type Hertz, type Seconds, type Span } from "../units";
import { freedomModel } from "./freedomModel";
import { strokesOf, type HeardParts } from "./heardParts";
import type { DrumPart, LensPart } from "./parts";

const { max, min, round } = Math;

/** What tells how much of a part is not its own. */
export interface Evidence {
  /** Variance of the filter that it was lifted by, beside its energy. */
  unsure: number;
  /** Share of its energy that lies where it is not known to sound. */
  beside: Fraction;
  /** How unsure its hits or notes are on average, 0–1. */
  doubt: Fraction;
}

/** Most of a stroke's energy lies within this time of it. */
const soundsFor: Record<DrumPart, Seconds> = { kick: 0.15, snare: 0.15, hats: 0.08, percussion: 0.15 };
/** What lies as far ahead of a stroke or a note, or behind a note, is taken for its own. */
const ahead: Seconds = 0.005;
const behindNotes: Seconds = 0.1;

/** Energy of both channels within some spans, which are in order of their starts. */
function energyWithin([left, right]: StereoSamples, rate: Hertz, spans: readonly Span[]): number {
  let inside = 0;
  let at = 0;
  for (const span of spans) {
    const to = min(left.length, round(span.to * rate));
    for (let i = max(at, round(span.from * rate)); i < to; i++)
      inside += left[i]! * left[i]! + right[i]! * right[i]!;
    at = max(at, to);
  }
  return inside;
}

const doubtOf = (sure: readonly Fraction[]): Fraction =>
  1 - sure.reduce((sum, own) => sum + own, 0) / max(1, sure.length);

/**
 * @param energy of the part, above 0.
 * @param variance of the filter that it was lifted by.
 */
export function evidenceOf(
  part: LensPart,
  samples: StereoSamples,
  rate: Hertz,
  heard: HeardParts,
  { energy, variance }: { energy: number; variance: number },
): Evidence {
  const unsure = variance / energy;
  const shareBeside = (spans: readonly Span[]): Fraction =>
    max(0, 1 - energyWithin(samples, rate, spans) / energy);
  if (part === "music") return { unsure, beside: 0, doubt: 0 };
  if (part === "bass") {
    const spans = heard.bass.map(({ start, end }) => ({ from: start - ahead, to: end + behindNotes }));
    const doubt = doubtOf(heard.bass.map(({ sure }) => sure));
    return { unsure, beside: shareBeside(spans), doubt };
  }
  const strokes = strokesOf(heard, part);
  const spans = strokes.map(({ time }) => ({ from: time - ahead, to: time + soundsFor[part] }));
  const doubt = doubtOf(strokes.map(({ confidence }) => confidence));
  return { unsure, beside: shareBeside(spans), doubt };
}

/** What may add up to all that is not a part's own, in shares of its power. */
export const distortionTerms = ({ unsure, beside, doubt }: Evidence): readonly number[] => [
  1,
  unsure,
  beside,
  doubt,
];

/** No part is known to stand freer than that: what was heard wrongly is not in the evidence. */
const mostFree: Decibels = 20;

/** @returns how far the part stands above what is not its own, at most 20 dB. */
export function freeDbOf(part: LensPart, evidence: Evidence): Decibels {
  const weights = freedomModel[part];
  const distortion = distortionTerms(evidence).reduce((sum, term, i) => sum + weights[i]! * term, 1e-3);
  return min(mostFree, -powerToDecibels(distortion));
}
