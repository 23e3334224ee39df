/** What a single hit is like, in numbers. */
import { z } from "zod";
import { decibelRange, fractionRange } from "../ranges";
import type { Hertz, Seconds } from "../units";

/** What is kept ahead of a stroke. */
export const beforeHit: Seconds = 0.01;

const milliseconds = z.number().min(0).max(20000);
const hertz = z.number().min(0).max(200000);

/** Octave bands in which a hit is followed. */
export const hitBands: readonly Hertz[] = [31.5, 63, 125, 250, 500, 1000, 2000, 4000, 8000, 16000];

/** Centres of third octaves, 25 Hz to 16 kHz. */
export const thirdOctaveCentres: readonly Hertz[] = Array.from(
  { length: 29 },
  (_, i) => 1000 * 2 ** ((i - 16) / 3),
);

const envelopeSchema = z.object({
  /** Until the level has fallen so far from its peak; null where it ends or is overlaid before. */
  to20: milliseconds.nullable(),
  to40: milliseconds.nullable(),
});

export const hitMeasuresSchema = z.object({
  /** Pitch that the body settles to, or the lowest strong one of a skin that sounds at several; null for a drum without one. */
  fundamentalHz: hertz.nullable(),
  /** Of kicks and toms, from the pitch of the first milliseconds to that, semitones; negative falls. */
  glideSemitones: z.number().min(-120).max(120).nullable(),
  attackMs: milliseconds,
  decay: envelopeSchema,
  /** By octave bands: level against the loudest band, and its decay; null where nothing sounds. */
  bands: z.array(envelopeSchema.extend({ levelDb: decibelRange }).nullable()).length(hitBands.length),
  /** Power above 1 kHz in the first 15 ms against that below 250 Hz in all. */
  clickDb: decibelRange.nullable(),
  /** Centre of gravity of the spectrum. */
  brightnessHz: hertz,
  /** 1 for noise, 0 for tones: flatness of the spectrum from 100 Hz on. */
  noisiness: fractionRange,
  /** −1 left to 1 right. */
  position: z.number().min(-1).max(1),
  /** Side against mid. */
  sideToMidDb: decibelRange.nullable(),
  /** How it ends: cut off within some milliseconds, ringing on slower than it fell, or neither. */
  tail: z.enum(["plain", "room", "gated"]),
  peakDb: decibelRange,
  /** Power of each third-octave band from 25 Hz to 16 kHz against all of them, dB. */
  thirdOctaves: z.array(decibelRange),
});
export type HitMeasures = z.infer<typeof hitMeasuresSchema>;
