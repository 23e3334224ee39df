/** Reading curves over time. */

const { floor, max } = Math;

/** The curve less its mean over a window centred on each value, negative values set to 0. */
export function withoutRunningMean(curve: Float32Array, span: number): Float32Array {
  const half = max(1, floor(span / 2));
  const flat = new Float32Array(curve.length);
  let sum = 0;
  let from = 0;
  let to = 0;
  for (let i = 0; i < curve.length; i++) {
    while (to < curve.length && to <= i + half) sum += curve[to++]!;
    while (from < i - half) sum -= curve[from++]!;
    flat[i] = max(0, curve[i]! - sum / (to - from));
  }
  return flat;
}

/** Value of a curve between its samples, by straight lines. */
export function valueAt(curve: Float32Array, position: number): number {
  const index = floor(position);
  if (index < 0 || index + 1 >= curve.length) return 0;
  const share = position - index;
  return curve[index]! * (1 - share) + curve[index + 1]! * share;
}

/** Largest value of a curve within ±`reach` of a position. */
export function peakNear(curve: Float32Array, position: number, reach: number): number {
  let best = 0;
  const last = Math.min(curve.length - 1, Math.ceil(position + reach));
  for (let i = max(0, floor(position - reach)); i <= last; i++) if (curve[i]! > best) best = curve[i]!;
  return best;
}
