/** What Plain Mirror accepts. */
export const limits = {
  shortestSeconds: 1,
  longestSeconds: 20 * 60,
  largestBytes: 500 * 1024 * 1024,
  lowestSampleRate: 8000,
  highestSampleRate: 192000,
} as const;
