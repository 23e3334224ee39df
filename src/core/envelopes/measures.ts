/** All that band envelopes tell of a track or of some spans of it. */
import { z } from "zod";
import { leastConfidence, type DrumHit } from "../drums/hits";
import { backVoices } from "../drums/voices";
import type { Seconds, Span } from "../units";
import {
  envelopeBandCount,
  envelopeRow,
  levelsOfBoth,
  powersOfBoth,
  rangePowers,
  type BandEnvelopes,
} from "./levels";
import { measurePositions, positionsSchema } from "./positions";
import { measurePumping, pumpingSchema } from "./pumping";
import { measurePunch, punchSchema } from "./punch";
import { measureSpace, spaceSchema } from "./space";
import { measureTexture, textureSchema } from "./texture";

export const envelopeMeasuresSchema = z.object({
  /** Null where there are too few kicks. */
  pumping: pumpingSchema.nullable(),
  /** Null where there are too few hits. */
  punch: punchSchema.nullable(),
  space: spaceSchema,
  positions: positionsSchema,
  texture: textureSchema,
});
export type EnvelopeMeasures = z.infer<typeof envelopeMeasuresSchema>;

const { ceil, floor, max, min } = Math;

/** Hits at the edges of a span are seen with what is around them. */
const around: Seconds = 2;
/** Length of a beat where none is known. */
const usualBeat: Seconds = 0.5;

/**
 * @param hits as heard, in order; the improbable ones are left out.
 * @param beat its length; null where there is no tempo.
 * @param spans null for the whole.
 */
export function measureEnvelopes(
  envelopes: BandEnvelopes,
  hits: readonly DrumHit[],
  beat: Seconds | null,
  spans: readonly Span[] | null = null,
): EnvelopeMeasures {
  if (!spans || spans.length === 0) return measureWithin(envelopes, hits, beat, spans);
  // Only what lies around the spans is gone through; nothing that is measured knows where it lies.
  const { framesPerSecond, levels } = envelopes;
  const first = max(0, floor((min(...spans.map(({ from }) => from)) - around) * framesPerSecond));
  const end = ceil((max(...spans.map(({ to }) => to)) + around) * framesPerSecond);
  const late = first / framesPerSecond;
  return measureWithin(
    { framesPerSecond, levels: levels.subarray(first * envelopeRow, end * envelopeRow) },
    hits.map((hit) => ({ ...hit, time: hit.time - late })),
    beat,
    spans.map(({ from, to }) => ({ from: from - late, to: to - late })),
  );
}

function measureWithin(
  envelopes: BandEnvelopes,
  hits: readonly DrumHit[],
  beat: Seconds | null,
  spans: readonly Span[] | null,
): EnvelopeMeasures {
  const { framesPerSecond } = envelopes;
  const isIn = (time: Seconds) => !spans || spans.some(({ from, to }) => time >= from && time < to);
  const counted = hits.filter(({ confidence, time }) => confidence >= leastConfidence && isIn(time));
  const levels = levelsOfBoth(envelopes);
  const frames = levels.length / envelopeBandCount;
  const measured = new Uint8Array(frames);
  if (!spans) measured.fill(1);
  for (const { from, to } of spans ?? [])
    measured.fill(
      1,
      Math.max(0, Math.ceil(from * framesPerSecond)),
      Math.max(0, Math.ceil(to * framesPerSecond)),
    );
  const isMeasured = (frame: number) => measured[frame] === 1;
  const powers = powersOfBoth(envelopes);
  const framePowers = rangePowers(powers, [0, envelopeBandCount]);
  let sum = 0;
  let count = 0;
  for (let frame = 0; frame < frames; frame++) {
    if (measured[frame] === 0) continue;
    sum += framePowers[frame]!;
    count++;
  }
  const timesOf = (isWanted: (hit: DrumHit) => boolean) => counted.filter(isWanted).map(({ time }) => time);
  const times = timesOf(() => true);
  return {
    pumping: measurePumping(
      levels,
      framesPerSecond,
      timesOf(({ voice }) => voice === "kick"),
      beat ?? usualBeat,
    ),
    punch: measurePunch(
      framePowers,
      framesPerSecond,
      count > 0 ? sum / count : 0,
      timesOf(({ voice }) => voice === "kick" || backVoices.includes(voice)),
    ),
    space: measureSpace(powers, framesPerSecond, isMeasured, times, beat ?? usualBeat),
    positions: measurePositions(envelopes, isMeasured, counted),
    texture: measureTexture(powers, framesPerSecond, isMeasured, times),
  };
}
