/** Where hits of each voice and what sounds between them sit from left to right. */
import { z } from "zod";
import { drumVoiceSchema, drumVoices, type DrumVoice } from "../drums/voices";
import type { DrumHit } from "../drums/hits";
import { countRange } from "../ranges";
import type { Hertz, Seconds } from "../units";
import { envelopeBandCount, envelopeBandsIn, envelopeRow, powerOfLevel, type BandEnvelopes } from "./levels";

const { abs, atan, max, PI, round, sqrt } = Math;

const position = z.number().min(-1).max(1);

/** Ranges that sustained sounds are told of: bass, middle, highs. */
export const sustainedRanges: readonly { name: string; low: Hertz; high: Hertz }[] = [
  { name: "Bass", low: 20, high: 150 },
  { name: "Low mids", low: 150, high: 600 },
  { name: "Mids", low: 600, high: 2400 },
  { name: "Highs", low: 2400, high: 16000 },
];

export const positionsSchema = z.object({
  /** −1 left … 1 right by constant power, with the hits that it is the mean of. */
  voices: z.array(z.object({ voice: drumVoiceSchema, position, hits: countRange })).max(drumVoices.length),
  /** The same for what sounds between hits, by range; null where nothing does. */
  sustained: z.array(position.nullable()).length(sustainedRanges.length),
});
export type Positions = z.infer<typeof positionsSchema>;

/** Where little but the voice itself rises: below the hats, above the kick. */
const voiceRanges: Record<DrumVoice, readonly [Hertz, Hertz]> = {
  kick: [20, 150],
  snare: [200, 2400],
  clap: [800, 3600],
  rim: [800, 3600],
  hat: [6000, 16000],
  openHat: [6000, 16000],
  tom: [150, 600],
  cymbal: [4000, 16000],
  perc: [400, 5000],
};
const voiceBands = Object.fromEntries(
  drumVoices.map((voice) => [voice, envelopeBandsIn(...voiceRanges[voice])]),
) as Record<DrumVoice, [number, number]>;
const sustainedBands = sustainedRanges.map(({ low, high }) => envelopeBandsIn(low, high));

const fewestHits = 4;
/** Frames of 10 ms: before a hit, its rise, and how long it is not over. */
const before = { from: -4, to: -2 } as const;
const rise = { from: 0, to: 3 } as const;
const over = 12;
/** Hits of other voices this near share the rise, where their ranges do. */
const alone: Seconds = 0.04;
const overlap = (a: DrumVoice, b: DrumVoice): boolean =>
  voiceRanges[a][0] < voiceRanges[b][1] && voiceRanges[b][0] < voiceRanges[a][1];

/** The place between two loudspeakers that gives such powers (constant-power panning). */
export const positionOf = (left: number, right: number): number => {
  const place = (4 / PI) * atan(sqrt(right / max(left, 1e-20))) - 1;
  return round(100 * max(-1, Math.min(1, place))) / 100;
};

/**
 * @param isMeasured whether a frame belongs to what is measured.
 * @param hits in order.
 */
export function measurePositions(
  { framesPerSecond, levels }: BandEnvelopes,
  isMeasured: (frame: number) => boolean,
  hits: readonly DrumHit[],
): Positions {
  const frames = levels.length / envelopeRow;
  const power = (frame: number, side: 0 | 1, [first, end]: readonly [number, number]) => {
    const row = frame * envelopeRow + side * envelopeBandCount;
    let sum = 0;
    for (let b = first; b < end; b++) sum += powerOfLevel[levels[row + b]!]!;
    return sum;
  };
  const isStruck = new Uint8Array(frames);
  const sums = new Map<DrumVoice, { sides: [number, number]; hits: number }>();
  hits.forEach(({ time, voice }, i) => {
    const frame = round(time * framesPerSecond);
    isStruck.fill(1, max(0, frame - 1), frame + over);
    if (frame + before.from < 0 || frame + rise.to >= frames) return;
    const shares = (step: 1 | -1) => {
      for (let k = i + step; hits[k] && abs(hits[k]!.time - time) < alone; k += step) {
        if (hits[k]!.voice !== voice && overlap(hits[k]!.voice, voice)) return true;
      }
      return false;
    };
    if (shares(1) || shares(-1)) return;
    const rises = ([0, 1] as const).map((side) => {
      let floor = 0;
      for (let t = before.from; t <= before.to; t++) floor += power(frame + t, side, voiceBands[voice]) / 3;
      let peak = 0;
      for (let t = rise.from; t <= rise.to; t++) peak = max(peak, power(frame + t, side, voiceBands[voice]));
      return max(0, peak - floor);
    });
    const whole = rises[0]! + rises[1]!;
    if (whole <= 0) return;
    const own = sums.get(voice) ?? { sides: [0, 0], hits: 0 };
    // Every hit counts alike, however hard it is struck.
    own.sides[0] += rises[0]! / whole;
    own.sides[1] += rises[1]! / whole;
    own.hits++;
    sums.set(voice, own);
  });
  const sustained = sustainedBands.map((range) => {
    let left = 0;
    let right = 0;
    for (let frame = 0; frame < frames; frame++) {
      if (isStruck[frame] || !isMeasured(frame)) continue;
      left += power(frame, 0, range);
      right += power(frame, 1, range);
    }
    return left + right > 1e-10 ? positionOf(left, right) : null;
  });
  return {
    voices: drumVoices.flatMap((voice) => {
      const own = sums.get(voice);
      return own && own.hits >= fewestHits
        ? [{ voice, position: positionOf(...own.sides), hits: own.hits }]
        : [];
    }),
    sustained,
  };
}
