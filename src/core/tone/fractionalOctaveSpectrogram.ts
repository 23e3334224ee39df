import { hannWindow, loadFrame, realFft } from "../dsp/fft";
import { bytesOfFloat, vectorLoops, vectorPlaces } from "../dsp/vector/loops";
import type { Hertz } from "../units";
import { bands, twelfthCount } from "./bands";
import type { FractionalOctaveSpectrogram } from "./spectrum";

const { ceil, log2, max, min, round } = Math;

/** Frame length: the power of two nearest to 0.74 s, long enough to resolve bass notes. */
export const frameSizeFor = (sampleRate: Hertz) => 2 ** round(log2(0.743 * sampleRate));

/** Which bins feed each twelfth-octave band, and with what share; shares in whole vectors. */
function bandSpans(binWidth: Hertz, bins: number) {
  const weights: number[] = [];
  const spans = bands(12).map(({ low, high }) => {
    const first = round(low / binWidth);
    const last = min(bins - 1, round(high / binWidth));
    const at = weights.length;
    for (let bin = first; bin <= last; bin++)
      weights.push(max(0, min(high / binWidth, bin + 0.5) - max(low / binWidth, bin - 0.5)));
    while (weights.length % 4 > 0) weights.push(0);
    return { first, at, count: weights.length - at };
  });
  return { weights, spans };
}

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

  const mono = left === right;
  const transform = realFft(size);
  const bins = size / 2;
  // Spectra, powers of their bins and sums over bands, all in the memory of the loops.
  const { weights, spans } = bandSpans(sampleRate / size, bins);
  // Weights are filled up to whole vectors, beyond the last bin too.
  const {
    at: [leftAt, rightAt, midAt, sideAt, crossAt, weightsAt, spansAt, sumsAt],
    bytes,
  } = vectorPlaces(size, size, bins + 4, bins + 4, bins + 4, weights.length, 3 * twelfthCount, twelfthCount);
  const loops = vectorLoops(bytes);
  const area = (at: number, count: number) =>
    loops.floats.subarray(at / bytesOfFloat, at / bytesOfFloat + count);
  area(weightsAt, weights.length).set(weights);
  new Int32Array(loops.floats.buffer, spansAt, 3 * twelfthCount).set(
    spans.flatMap(({ first, at, count }) => [
      first * bytesOfFloat,
      weightsAt + at * bytesOfFloat,
      count * bytesOfFloat,
    ]),
  );
  const spectra = [area(leftAt, size), area(rightAt, size)] as const;
  const sums = area(sumsAt, twelfthCount);
  const midPowers = area(midAt, bins);
  const gathered = [
    { from: midAt, to: mid },
    { from: sideAt, to: side },
    { from: crossAt, to: cross },
  ];
  // Parseval: one-sided power of a bin, so that the bands of a signal add up to its mean square.
  const scale = 2 / (size * windowPower);

  for (let frame = 0; frame < frames; frame++) {
    loadFrame(transform, [left], frame * hop - hop, window);
    spectra[0].set(transform.forward());
    if (!mono) loadFrame(transform, [right], frame * hop - hop, window);
    spectra[1].set(mono ? spectra[0] : transform.forward());
    loops.midSidePowers(leftAt, rightAt, midAt, sideAt, crossAt, bins);
    const row = frame * twelfthCount;
    for (const { from, to } of gathered) {
      loops.spanSums(from, spansAt, twelfthCount, sumsAt);
      for (let b = 0; b < twelfthCount; b++) to[row + b] = sums[b]! * scale;
    }
    onFrame?.(midPowers);
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
