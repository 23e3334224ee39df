/** Medians over rows, in single precision. */
import { bytesOfFloat, vectorLoops, type VectorLoops } from "./loops";

const { ceil, floor, max, min } = Math;

/** Values that a median is of. */
export const medianOf = 9;
/** Values that are put into the loops' memory at a time, and as many for the results. */
const pieceLength = 1 << 18;

let loops: VectorLoops | undefined;

/**
 * Medians over time of a spectrogram: each of nine values, `apart` rows from one another, itself the
 * middle one. The first and the last row stand in for those beyond the ends.
 *
 * @param values `rows × columns`, row by row.
 * @param result as long, is overwritten.
 */
export function mediansOverRows(
  values: Float32Array,
  columns: number,
  apart: number,
  result: Float32Array,
): void {
  loops ??= vectorLoops(2 * pieceLength * bytesOfFloat);
  const { floats, median } = loops;
  const rows = values.length / columns;
  const reach = ((medianOf - 1) / 2) * apart;
  const atOnce = floor(pieceLength / columns) - 2 * reach - 1;
  if (atOnce < 1) throw new Error("Rows are too long for a median");
  const row = (index: number) => {
    const own = min(rows - 1, max(0, index));
    return values.subarray(own * columns, (own + 1) * columns);
  };
  for (let begin = 0; begin < rows; begin += atOnce) {
    const count = min(atOnce, rows - begin);
    const first = max(0, begin - reach);
    const last = min(rows, begin + count + reach);
    floats.set(values.subarray(first * columns, last * columns), (first - begin + reach) * columns);
    for (let k = begin - reach; k < 0; k++) floats.set(row(k), (k - begin + reach) * columns);
    for (let k = rows; k < begin + count + reach; k++) floats.set(row(k), (k - begin + reach) * columns);
    const length = count * columns;
    median(
      0,
      apart * columns * bytesOfFloat,
      pieceLength * bytesOfFloat,
      ceil(length / 4) * 4 * bytesOfFloat,
    );
    result.set(floats.subarray(pieceLength, pieceLength + length), begin * columns);
  }
}
