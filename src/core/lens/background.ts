/** What sounds on in a spectrogram while drums are struck: medians over time. */

const { max, min } = Math;

/** Nine values are compared, so many frames apart: what is shorter than half of all is struck. */
const values = 9;
const apart = 2;
/** Frames on either side that a median reaches. */
export const backgroundReach = (apart * (values - 1)) / 2;

/**
 * Median of nine (Devillard 1998, "Fast median search"), of as many rows at once, element by element.
 *
 * @param at where each row begins.
 */
function medianOfRows(
  from: Float32Array,
  at: Int32Array,
  length: number,
  to: Float32Array,
  put: number,
): void {
  const a = at[0]!;
  const b = at[1]!;
  const c = at[2]!;
  const d = at[3]!;
  const e = at[4]!;
  const f = at[5]!;
  const g = at[6]!;
  const h = at[7]!;
  const k = at[8]!;
  for (let i = 0; i < length; i++) {
    // Each three in order.
    let x = from[a + i]!;
    let y = from[b + i]!;
    let z = from[c + i]!;
    const low1 = min(x, min(y, z));
    const high1 = max(x, max(y, z));
    const middle1 = max(min(x, y), min(max(x, y), z));
    x = from[d + i]!;
    y = from[e + i]!;
    z = from[f + i]!;
    const low2 = min(x, min(y, z));
    const high2 = max(x, max(y, z));
    const middle2 = max(min(x, y), min(max(x, y), z));
    x = from[g + i]!;
    y = from[h + i]!;
    z = from[k + i]!;
    const low3 = min(x, min(y, z));
    const high3 = max(x, max(y, z));
    const middle3 = max(min(x, y), min(max(x, y), z));
    // The median is the middle one of the highest low, the middle of the middles and the lowest high.
    const low = max(low1, max(low2, low3));
    const high = min(high1, min(high2, high3));
    const middle = max(min(middle1, middle2), min(max(middle1, middle2), middle3));
    to[put + i] = max(min(low, middle), min(max(low, middle), high));
  }
}

/**
 * @param magnitudes `frames × bands`, frame by frame.
 * @param result as long, is overwritten.
 */
export function background(magnitudes: Float32Array, bands: number, result: Float32Array): void {
  const frames = magnitudes.length / bands;
  const at = new Int32Array(values);
  for (let frame = 0; frame < frames; frame++) {
    for (let k = 0; k < values; k++)
      at[k] = min(frames - 1, max(0, frame + k * apart - backgroundReach)) * bands;
    medianOfRows(magnitudes, at, bands, result, frame * bands);
  }
}
