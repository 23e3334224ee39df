/**
 * The ranges of all measured numbers, in one place. The schemas of results are made of these, and
 * guard both storing and reading: a number outside can only come from a damaged file or a bug.
 */
import { z } from "zod";
import { limits } from "./formats/limits";

/** Longest time in a file, with room for offsets. */
const longest = limits.longestSeconds + 60;
/** Beats in the longest file at the fastest tempo that can be typed, on either side of bar 1. */
export const mostBeats = 10_000;

/** Time in a file; negative before its start. */
export const secondsRange = z.number().min(-120).max(longest);
export const lengthRange = z.number().min(0).max(longest);
export const bpmRange = z.number().min(5).max(1000);
/** Beats from bar 1 beat 1. */
export const beatRange = z.number().min(-mostBeats).max(mostBeats);
export const barRange = z.number().int().min(-mostBeats).max(mostBeats);
export const beatsPerBarRange = z.number().int().min(1).max(16);
export const fractionRange = z.number().min(0).max(1);
export const percentRange = z.number().min(0).max(100);
export const centsRange = z.number().min(-100).max(100);
export const hertzRange = z.number().min(0).max(limits.highestSampleRate);
/** Levels, loudness and their differences, dB or LU. Samples are held within +60 dB of full scale. */
export const decibelRange = z.number().min(-500).max(200);
/** Power of a band relative to full scale. */
export const powerRange = z.number().min(0).max(1e12);
/** What two signals have in common in a band, relative to full scale. */
export const crossPowerRange = z.number().min(-1e12).max(1e12);
export const countRange = z.number().int().min(0).max(1e9);
