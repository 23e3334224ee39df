/** The typical hits of a track with what each is like. */
import { asHits, type DrumEstimate } from "../drums/hits";
import type { Hertz, Seconds } from "../units";
import { measureHit, type HitMeasures } from "./measures";
import type { StereoSamples } from "./strokes";
import { typicalHits, type TypicalHit } from "./typicalHits";

export interface MeasuredHit {
  hit: TypicalHit;
  measures: HitMeasures;
}

/**
 * @param channels left and right; the same array twice for mono.
 * @param leftOut times of strokes that must not enter.
 */
export const measuredHits = (
  channels: StereoSamples,
  rate: Hertz,
  drums: DrumEstimate,
  leftOut?: ReadonlySet<Seconds>,
): MeasuredHit[] =>
  typicalHits(channels, rate, asHits(drums), drums.bassNotes, leftOut).map((hit) => ({
    hit,
    measures: measureHit(hit.samples, rate, hit.voice, hit.known),
  }));
