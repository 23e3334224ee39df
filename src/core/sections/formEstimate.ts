import { z } from "zod";
import { momentKinds } from "./moments";
import { barRange, beatRange, decibelRange, fractionRange, hertzRange, mostBeats } from "../ranges";
import { elementGroups } from "./presence";

/** Groups that the matrix of elements and sections has; effects are told from moments. */
export const presenceGroups = [...elementGroups, "effects"] as const;
export type PresenceGroup = (typeof presenceGroups)[number];

export const placedSectionSchema = z.object({
  /** Bar that it begins with, and bar that it ends with, both included. */
  firstBar: barRange,
  lastBar: barRange,
  name: z.string().trim().min(1, "a section needs a name").max(40, "a name has 40 letters at most"),
  letter: z.string().trim().min(1, "a section needs a letter").max(4, "a letter has 4 characters at most"),
});

/** A section as a span of whole bars. */
export type PlacedSection = z.infer<typeof placedSectionSchema>;

export const sectionMeasuresSchema = z.object({
  /** Mean K-weighted level, LUFS without gates. */
  loudness: decibelRange,
  /** Spectral centroid, Hz. */
  brightness: hertzRange,
  /** Side to mid, dB. */
  width: decibelRange,
  /** Onsets a bar. */
  density: z.number().min(0).max(1000),
  /** Probability that each group plays. */
  presence: z.record(z.enum(presenceGroups), fractionRange),
});

export type SectionMeasures = z.infer<typeof sectionMeasuresSchema>;

export const momentSchema = z.object({
  kind: z.enum(momentKinds),
  /** Beats from bar 1 beat 1. */
  startBeat: beatRange,
  endBeat: beatRange,
});

export const formEstimateSchema = z.object({
  sections: z.array(placedSectionSchema).max(mostBeats),
  moments: z.array(momentSchema).max(mostBeats),
  /** What each bar sounds like, from `firstBar` on; lists of one length. */
  bars: z.object({
    firstBar: barRange,
    loudness: z.array(decibelRange),
    brightness: z.array(hertzRange),
    width: z.array(decibelRange),
    density: z.array(z.number().min(0).max(1000)),
    /** Probability that each group plays in each bar; effects are 1 in bars with such moments. */
    presence: z.record(z.enum(presenceGroups), z.array(fractionRange)),
  }),
});

/** The plan of a track as measured: sections, moments, and what bars sound like. */
export type FormEstimate = z.infer<typeof formEstimateSchema>;
