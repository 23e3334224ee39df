import { z } from "zod";
import { momentKinds } from "./moments";
import { elementGroups } from "./presence";

/** Groups that the matrix of elements and sections has; effects are told from moments. */
export const presenceGroups = [...elementGroups, "effects"] as const;
export type PresenceGroup = (typeof presenceGroups)[number];

const fraction = z.number().min(0).max(1);

export const placedSectionSchema = z.object({
  /** Bar that it begins with, and bar that it ends with, both included. */
  firstBar: z.number().int(),
  lastBar: z.number().int(),
  name: z.string().trim().min(1, "a section needs a name").max(40, "a name has 40 letters at most"),
  letter: z.string().trim().min(1, "a section needs a letter").max(4, "a letter has 4 characters at most"),
});

/** A section as a span of whole bars. */
export type PlacedSection = z.infer<typeof placedSectionSchema>;

export const sectionMeasuresSchema = z.object({
  /** Mean K-weighted level, LUFS without gates. */
  loudness: z.number(),
  /** Spectral centroid, Hz. */
  brightness: z.number(),
  /** Side to mid, dB. */
  width: z.number(),
  /** Onsets a bar. */
  density: z.number(),
  /** Probability that each group plays. */
  presence: z.record(z.enum(presenceGroups), fraction),
});

export type SectionMeasures = z.infer<typeof sectionMeasuresSchema>;

export const momentSchema = z.object({
  kind: z.enum(momentKinds),
  /** Beats from bar 1 beat 1. */
  startBeat: z.number(),
  endBeat: z.number(),
});

export const formEstimateSchema = z.object({
  sections: z.array(placedSectionSchema),
  moments: z.array(momentSchema),
  /** What each bar sounds like, from `firstBar` on; lists of one length. */
  bars: z.object({
    firstBar: z.number().int(),
    loudness: z.array(z.number()),
    brightness: z.array(z.number()),
    width: z.array(z.number()),
    density: z.array(z.number()),
    /** Probability that each group plays in each bar; effects are 1 in bars with such moments. */
    presence: z.record(z.enum(presenceGroups), z.array(fraction)),
  }),
});

/** The plan of a track as measured: sections, moments, and what bars sound like. */
export type FormEstimate = z.infer<typeof formEstimateSchema>;
