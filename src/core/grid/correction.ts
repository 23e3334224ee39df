/**
 * What a producer corrects of a measured grid. Corrections are kept apart from the measurement and
 * laid over it each time, so that they can be undone and survive a new analysis.
 */
import { z } from "zod";
import type { Bpm, Seconds } from "../units";
import { beatsOnLine, trackBeats } from "./beats";
import type { Grid } from "./grid";
import type { GridEstimate } from "./gridEstimate";
import type { OnsetRanges } from "./onset";

const { abs, max, min } = Math;

/** Tempi that can be typed. */
export const slowestTyped: Bpm = 20;
export const fastestTyped: Bpm = 400;

/** Metres that can be chosen, by beats a bar; 2 stands for 6/8. */
export const offeredMetres = [4, 3, 2, 5, 7] as const;

export const gridCorrectionSchema = z.object({
  /** The tempo that is right. */
  bpm: z
    .number()
    .min(slowestTyped, `a tempo must be at least ${slowestTyped} BPM`)
    .max(fastestTyped, `a tempo can be ${fastestTyped} BPM at most`)
    .optional(),
  /** Whether beats lie on one exact tempo or follow the player. */
  manner: z.enum(["steady", "following"]).optional(),
  beatsPerBar: z
    .number()
    .int()
    .refine((value) => (offeredMetres as readonly number[]).includes(value), "this metre is not known")
    .optional(),
  /** Where bar 1 begins, in seconds of the file. */
  barOneAt: z.number().min(-30).max(1200).optional(),
  /** By how much all beats are moved, after everything else. */
  nudgeSeconds: z.number().min(-2, "2 s is the most").max(2, "2 s is the most").optional(),
});

export type GridCorrection = z.infer<typeof gridCorrectionSchema>;

/** Whether a correction changes nothing. Bar 1 at 0 s is a correction; a nudge of 0 s is none. */
export const isEmptyCorrection = ({ nudgeSeconds, ...rest }: GridCorrection): boolean =>
  !nudgeSeconds && Object.values(rest).every((value) => value === undefined);

/** Bar 1 set this near to a beat is taken to be on it, as a share of the beat and in seconds. */
const snapShare = 0.12;
const snapSeconds: Seconds = 0.05;

/** The place in rising times that is nearest to a time. */
function nearestPlace(times: readonly Seconds[], time: Seconds): number {
  let best = 0;
  for (let i = 1; i < times.length; i++) if (abs(times[i]! - time) < abs(times[best]! - time)) best = i;
  return best;
}

/** Least-squares period of beats that lie near one tempo. */
function meanPeriod(beats: readonly Seconds[]): Seconds {
  const meanK = (beats.length - 1) / 2;
  const mean = beats.reduce((a, b) => a + b, 0) / beats.length;
  let covariance = 0;
  let variance = 0;
  beats.forEach((time, k) => {
    covariance += (k - meanK) * (time - mean);
    variance += (k - meanK) ** 2;
  });
  return covariance / variance;
}

/**
 * The grid of a track: what was measured, with the producer's corrections over it.
 *
 * @param onsets needed only where beats are to follow a player at another tempo than measured.
 * @returns null where nothing was measured and no tempo is given.
 */
export function gridOf(
  measured: GridEstimate | null,
  durationSeconds: Seconds,
  correction: GridCorrection = {},
  onsets: OnsetRanges | null = null,
): Grid | null {
  if (!measured && correction.bpm === undefined) return null;
  const measuredBarOne = measured?.downbeats[0] ?? correction.barOneAt ?? 0;
  const from = min(measured?.beats[0] ?? measuredBarOne, measuredBarOne);
  const to = max(measured?.beats.at(-1) ?? durationSeconds, from + 1);
  let steady = correction.manner ? correction.manner === "steady" : (measured?.steady ?? true);
  let beats: readonly Seconds[];
  let bpm = correction.bpm ?? measured!.bpm;
  if (measured && correction.bpm === undefined && steady === measured.steady) beats = measured.beats;
  else if (!steady && onsets) beats = trackBeats(onsets, bpm, from, to, "following").beats;
  else {
    steady = true;
    // Without a tempo of the producer's, the best one tempo through the beats that follow the player.
    if (correction.bpm === undefined) bpm = 60 / meanPeriod(measured!.beats);
    const anchor = correction.bpm === undefined ? middleAnchor(measured!.beats, 60 / bpm) : measuredBarOne;
    beats = beatsOnLine(60 / bpm, anchor, from, to);
  }
  if (beats.length < 2) return null;

  let barOne = nearestPlace(beats, measuredBarOne);
  if (correction.barOneAt !== undefined) {
    const wanted = correction.barOneAt;
    barOne = nearestPlace(beats, wanted);
    const distance = wanted - beats[barOne]!;
    if (abs(distance) > max(snapSeconds, snapShare * (60 / bpm))) {
      beats = beats.map((time) => time + distance);
      barOne = nearestPlace(beats, wanted);
    }
  }
  const nudge = correction.nudgeSeconds ?? 0;
  return {
    beats: nudge === 0 ? beats : beats.map((time) => time + nudge),
    barOne,
    beatsPerBar: correction.beatsPerBar ?? measured?.beatsPerBar ?? 4,
    steady,
    bpm,
  };
}

/** Anchor of a line of a known period that lies nearest to all beats. */
function middleAnchor(beats: readonly Seconds[], period: Seconds): Seconds {
  return beats.reduce((sum, time, k) => sum + (time - k * period) / beats.length, 0);
}
