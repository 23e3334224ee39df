/** How alike two waveforms are. */
import { realFft } from "../dsp/fft";
import type { Fraction, Hertz } from "../units";
import type { StereoSamples } from "./strokes";

const { max, min, round, sqrt } = Math;

const furthestApart = 0.02;

/** Highest correlation of two hits (mono) moved against each other by at most 20 ms. */
export function waveformLikeness(a: StereoSamples, b: StereoSamples, rate: Hertz): Fraction {
  const length = min(a[0].length, b[0].length, 32768);
  const size = 65536;
  const transform = realFft(size);
  const load = ([left, right]: StereoSamples): number => {
    const input = transform.input();
    input.fill(0);
    let power = 0;
    for (let i = 0; i < length; i++) {
      const x = left[i]! + right[i]!;
      input[i] = x;
      power += x * x;
    }
    return power;
  };
  const first = load(a);
  const own = Float32Array.from(transform.forward());
  const second = load(b);
  if (first <= 0 || second <= 0) return 0;
  const other = transform.forward();
  for (let bin = 1; bin < size / 2; bin++) {
    const [x, y, u, v] = [own[2 * bin]!, own[2 * bin + 1]!, other[2 * bin]!, other[2 * bin + 1]!];
    other[2 * bin] = x * u + y * v;
    other[2 * bin + 1] = y * u - x * v;
  }
  other[0] = 0;
  other[1] = 0;
  const correlation = transform.backward();
  const reach = round(furthestApart * rate);
  let best = 0;
  for (let lag = -reach; lag <= reach; lag++) best = max(best, correlation[(lag + size) % size]!);
  return min(1, best / size / sqrt(first * second));
}
