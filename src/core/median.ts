/** The middle of some numbers, or the mean of the two in the middle; not a number of none. */
export function median(values: readonly number[]): number {
  const sorted = [...values].sort((a, b) => a - b);
  return (sorted[(sorted.length - 1) >> 1]! + sorted[sorted.length >> 1]!) / 2;
}

/** The value of sorted numbers that a share of them lies below; not a number of none. */
export const quantileOfSorted = (sorted: ArrayLike<number>, share: number): number =>
  sorted[Math.min(sorted.length - 1, Math.floor(share * sorted.length))] ?? NaN;

/** The value that a share of some numbers lies below; not a number of none. */
export const quantile = (values: readonly number[], share: number): number =>
  quantileOfSorted(new Float64Array(values).sort(), share);
