/** Hits of drum voices: when, how hard, how surely. */
import { z } from "zod";
import { fractionRange, secondsRange } from "../ranges";
import type { Fraction, Seconds } from "../units";
import { drumVoices, type DrumVoice } from "./voices";

export interface DrumHit {
  time: Seconds;
  voice: DrumVoice;
  velocity: Fraction;
  /** How probable it is that this voice is struck here. */
  confidence: Fraction;
  /** Which drum of its voice: those of one number sound alike. None where it was not heard. */
  kind?: number;
}

/** Far more drums of one voice than any track has. */
const mostKinds = 64;

/** Hits less probable than this are not counted; they only keep others from being called missing. */
export const leastConfidence = 0.5;

/**
 * All hits of a track as columns, in order of time, the improbable ones included; and when bass
 * notes begin, for how drums and bass lock.
 */
export const drumEstimateSchema = z
  .object({
    times: z.array(secondsRange),
    /** Places in `drumVoices`. */
    voices: z.array(
      z
        .number()
        .int()
        .min(0)
        .max(drumVoices.length - 1),
    ),
    velocities: z.array(fractionRange),
    confidences: z.array(fractionRange),
    kinds: z.array(z.number().int().min(0).max(mostKinds)),
    bassNotes: z.array(secondsRange),
  })
  .refine(
    ({ times, voices, velocities, confidences, kinds }) =>
      voices.length === times.length &&
      kinds.length === times.length &&
      velocities.length === times.length &&
      confidences.length === times.length,
    "columns of the same length are expected",
  );
export type DrumEstimate = z.infer<typeof drumEstimateSchema>;

export const noDrums: DrumEstimate = {
  times: [],
  voices: [],
  velocities: [],
  confidences: [],
  kinds: [],
  bassNotes: [],
};

const { round } = Math;

/** Hits as columns; times are kept to a tenth of a millisecond. */
export function asColumns(hits: readonly DrumHit[], bassNotes: readonly Seconds[]): DrumEstimate {
  const sorted = [...hits].sort((a, b) => a.time - b.time);
  const thousandths = (value: number) => round(value * 1000) / 1000;
  const tenthMilliseconds = (seconds: Seconds) => round(seconds * 1e4) / 1e4;
  return {
    times: sorted.map(({ time }) => tenthMilliseconds(time)),
    voices: sorted.map(({ voice }) => drumVoices.indexOf(voice)),
    velocities: sorted.map(({ velocity }) => thousandths(velocity)),
    confidences: sorted.map(({ confidence }) => thousandths(confidence)),
    kinds: sorted.map(({ kind }) => kind ?? 0),
    bassNotes: bassNotes.map(tenthMilliseconds),
  };
}

/** The inverse of `asColumns`. */
export const asHits = ({ times, voices, velocities, confidences, kinds }: DrumEstimate): DrumHit[] =>
  times.map((time, i) => ({
    time,
    voice: drumVoices[voices[i]!]!,
    velocity: velocities[i]!,
    confidence: confidences[i]!,
    kind: kinds[i]!,
  }));
