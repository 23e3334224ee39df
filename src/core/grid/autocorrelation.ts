import { realFft } from "../dsp/fft";
import { withoutRunningMean } from "./curve";

const { max } = Math;

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
