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

/**
 * What would stand at a place if the values were sorted, in one pass of partitions (Hoare 1961, "Find").
 *
 * @param values are moved about.
 */
export function placeInOrder(values: Float32Array, place: number): number {
  let [low, high] = [0, values.length - 1];
  while (low < high) {
    const pivot = values[(low + high) >> 1]!;
    let [i, k] = [low, high];
    while (i <= k) {
      while (values[i]! < pivot) i++;
      while (values[k]! > pivot) k--;
      if (i > k) break;
      const own = values[i]!;
      values[i++] = values[k]!;
      values[k--] = own;
    }
    if (place <= k) high = k;
    else if (place >= i) low = i;
    else break;
  }
  return values[place]!;
}
