import { hannWindow, realFft } from "../dsp/fft";
import type { Hertz } from "../units";
import { bands, twelfthCount } from "./bands";
import type { FractionalOctaveSpectrogram } from "./spectrum";

const { ceil, log2, max, min, round } = Math;

/** Frame length: the power of two nearest to 0.74 s, long enough to resolve bass notes. */
export const frameSizeFor = (sampleRate: Hertz) => 2 ** round(log2(0.743 * sampleRate));

/**
 * Averaged modified periodograms (Welch 1967, "The use of fast Fourier transform for the
 * estimation of power spectra"): Hann window, half overlap, bins shared out to bands by width.
 *
 * Both sides are transformed at once: left and right spectra are combined to mid and side after
 * the transform, and mono is transformed once.
 *
 * @param channels left and right, same length; the same array twice for mono.
 * @param onProgress called with 0–1 now and then.
 * @param onFrame given the powers of the bins of mid in each frame, in an array that the next one overwrites.
 */
export function fractionalOctaveSpectrogram(
  channels: readonly [Float32Array, Float32Array],
  sampleRate: Hertz,
  onProgress?: (done: number) => void,
  onFrame?: (powers: Float32Array) => void,
): FractionalOctaveSpectrogram {
  const [left, right] = channels;
  const size = frameSizeFor(sampleRate);
  const hop = size / 2;
  const frames = ceil(left.length / hop) + 1;
  const mid = new Float32Array(frames * twelfthCount);
  const side = new Float32Array(frames * twelfthCount);
  const cross = new Float32Array(frames * twelfthCount);
  const window = hannWindow(size);
  let windowPower = 0;
  for (let i = 0; i < size; i++) windowPower += window[i]! ** 2;

  // Which bins feed which band, and with what share, laid out flat for the inner loop.
  const binWidth = sampleRate / size;
  const firstBins = new Int32Array(twelfthCount);
  const shareStarts = new Int32Array(twelfthCount + 1);
  const shares: number[] = [];
  bands(12).forEach((band, b) => {
    const first = round(band.low / binWidth);
    const last = min(size / 2 - 1, round(band.high / binWidth));
    firstBins[b] = first;
    for (let bin = first; bin <= last; bin++) {
      const overlap = min(band.high / binWidth, bin + 0.5) - max(band.low / binWidth, bin - 0.5);
      shares.push(max(0, overlap));
    }
    shareStarts[b + 1] = shares.length;
  });
  const shareOf = Float64Array.from(shares);
  // Parseval: one-sided power of a bin, so that the bands of a signal add up to its mean square.
  const scale = 2 / (size * windowPower);

  const mono = left === right;
  const transform = realFft(size);
  const kept = new Float32Array(size);
  const powers = new Float32Array(size / 2);
  const load = (samples: Float32Array, start: number) => {
    const input = transform.input();
    const from = max(0, -start);
    const to = min(size, samples.length - start);
    input.fill(0, 0, from);
    for (let i = from; i < to; i++) input[i] = samples[start + i]! * window[i]!;
    input.fill(0, max(from, to));
  };

  for (let frame = 0; frame < frames; frame++) {
    const start = frame * hop - hop;
    load(left, start);
    let spectrum = transform.forward();
    if (!mono) {
      kept.set(spectrum);
      load(right, start);
      spectrum = transform.forward();
    }
    const row = frame * twelfthCount;
    for (let b = 0; b < twelfthCount; b++) {
      let midPower = 0;
      let sidePower = 0;
      let crossPower = 0;
      let bin = firstBins[b]!;
      for (let s = shareStarts[b]!; s < shareStarts[b + 1]!; s++, bin++) {
        const re = spectrum[2 * bin]!;
        const im = spectrum[2 * bin + 1]!;
        if (mono) {
          const power = re * re + im * im;
          powers[bin] = power;
          midPower += shareOf[s]! * power;
        } else {
          const lr = kept[2 * bin]!;
          const li = kept[2 * bin + 1]!;
          const mr = (lr + re) / 2;
          const mi = (li + im) / 2;
          const sr = (lr - re) / 2;
          const si = (li - im) / 2;
          const power = mr * mr + mi * mi;
          powers[bin] = power;
          midPower += shareOf[s]! * power;
          sidePower += shareOf[s]! * (sr * sr + si * si);
          crossPower += shareOf[s]! * (mr * sr + mi * si);
        }
      }
      mid[row + b] = midPower * scale;
      side[row + b] = sidePower * scale;
      cross[row + b] = crossPower * scale;
    }
    onFrame?.(powers);
    if (onProgress && frame % 64 === 0) onProgress(frame / frames);
  }
  return {
    hopSeconds: hop / sampleRate,
    frames,
    durationSeconds: left.length / sampleRate,
    mid,
    side,
    cross,
  };
}
