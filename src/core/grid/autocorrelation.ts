import { realFft } from "../dsp/fft";

const { floor, max } = Math;

/**
 * Autocorrelation of a curve after removing its running mean over one second, so that slow
 * changes of level do not count as rhythm. Unbiased, value 1 at lag 0; all 0 for a constant curve.
 *
 * @returns lags 0 … `longestLag`, in frames.
 */
export function autocorrelation(curve: Float32Array, longestLag: number, meanSpan: number): Float32Array {
  const flat = withoutRunningMean(curve, meanSpan);
  let size = 64;
  while (size < curve.length + longestLag + 1) size *= 2;
  const transform = realFft(size);
  const input = transform.input();
  input.set(flat);
  input.fill(0, flat.length);
  const spectrum = transform.forward();
  spectrum[0] = spectrum[0]! ** 2;
  spectrum[1] = spectrum[1]! ** 2;
  for (let i = 2; i < size; i += 2) {
    spectrum[i] = spectrum[i]! ** 2 + spectrum[i + 1]! ** 2;
    spectrum[i + 1] = 0;
  }
  const correlated = transform.backward();
  const result = new Float32Array(longestLag + 1);
  const atZero = correlated[0]! / curve.length;
  if (atZero <= 0) return result;
  for (let lag = 0; lag <= longestLag; lag++) {
    result[lag] = correlated[lag]! / max(1, curve.length - lag) / atZero;
  }
  return result;
}

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
