import { refuse } from "../outcome";

/** What Plain Mirror accepts. */
export const limits = {
  shortestSeconds: 1,
  /** Of a one-shot. */
  shortestSoundSeconds: 0.02,
  /** Shorter candidates are one-shots, longer ones may be loops. */
  shortestLoopSeconds: 1.5,
  /** What is longer and no loop is not held against single drums. */
  longestOneShotSeconds: 12,
  longestSeconds: 20 * 60,
  largestBytes: 500 * 1024 * 1024,
  /** Of a whole study with all its files. */
  largestArchiveBytes: 16 * 1024 ** 3,
  lowestSampleRate: 8000,
  highestSampleRate: 192000,
  mostChannels: 32,
  /** Samples as stereo, 32-bit float: 20 minutes at 96 kHz, 11 at 192 kHz. */
  largestDecodedBytes: 1024 ** 3,
} as const;

/** @param seconds of the file, of which at least so many are needed. */
export const tooShort = (seconds: number, least: number) =>
  refuse(
    "too-short",
    `This file is only ${seconds.toFixed(seconds < 0.1 ? 3 : 2)} s long; at least ${least} s is needed.`,
  );
