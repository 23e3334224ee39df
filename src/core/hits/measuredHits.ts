/** The typical hits of a track with what each is like. */
import type { DrumHit } from "../drums/hits";
import type { Hertz, Seconds } from "../units";
import type { HitMeasures } from "./hitMeasures";
import { measureHit } from "./measures";
import type { StereoSamples } from "./strokes";
import { typicalHits, type TypicalHit } from "./typicalHits";

export interface MeasuredHit {
  hit: TypicalHit;
  measures: HitMeasures;
}

/**
 * @param channels left and right; the same array twice for mono.
 * @param hits in order of time.
 * @param bassStarts when bass notes begin, in order.
 * @param leftOut times of strokes that must not enter.
 */
export const measuredHits = (
  channels: StereoSamples,
  rate: Hertz,
  hits: readonly DrumHit[],
  bassStarts: readonly Seconds[],
  leftOut?: ReadonlySet<Seconds>,
): MeasuredHit[] =>
  typicalHits(channels, rate, hits, bassStarts, leftOut).map((hit) => ({
    hit,
    measures: measureHit(hit.samples, rate, hit.voice, hit.known),
  }));
