/** Tempo from taps. */

/** After a pause this long tapping begins anew. */
const longestPause = 2.5;
const mostTaps = 24;

/** The taps that belong together once another has come. */
export function tapsKept(taps: readonly number[], now: number): number[] {
  const last = taps.at(-1);
  return last !== undefined && now - last > longestPause ? [now] : [...taps, now].slice(-mostTaps);
}

/** Least-squares tempo of at least four taps; null of fewer. */
export function tappedBpm(taps: readonly number[]): number | null {
  if (taps.length < 4) return null;
  const meanK = (taps.length - 1) / 2;
  const mean = taps.reduce((a, b) => a + b, 0) / taps.length;
  let covariance = 0;
  let variance = 0;
  taps.forEach((time, k) => {
    covariance += (k - meanK) * (time - mean);
    variance += (k - meanK) ** 2;
  });
  return covariance > 0 ? (60 * variance) / covariance : null;
}
