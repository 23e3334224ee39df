/** Works out band envelopes; apart from `levels.ts`, which pages may load without the transform. */
import { bandReader, hannWindow, loadFrame, realFft } from "../dsp/fft";
import type { Hertz } from "../units";
import {
  envelopeBandCount,
  envelopeBandEdge,
  envelopeRow,
  levelsPerDecibel,
  lowestLevel,
  type BandEnvelopes,
} from "./levels";

const { ceil, log10, log2, max, min, round } = Math;

/** Window length: about 23 ms. */
const frameSizeFor = (sampleRate: Hertz): number => max(256, 2 ** round(log2(0.0232 * sampleRate)));

/**
 * Band levels of short Hann-windowed spectra, a frame every 10 ms.
 *
 * @param channels left and right, same length; the same array twice for mono.
 * @param onProgress called with 0–1 now and then.
 */
export function bandEnvelopes(
  [left, right]: readonly [Float32Array, Float32Array],
  sampleRate: Hertz,
  onProgress?: (done: number) => void,
): BandEnvelopes {
  const hop = round(sampleRate / 100);
  const size = frameSizeFor(sampleRate);
  const frames = max(1, ceil(left.length / hop));
  const levels = new Uint8Array(frames * envelopeRow);
  const window = hannWindow(size);
  let windowPower = 0;
  for (let i = 0; i < size; i++) windowPower += window[i]! ** 2;
  // Parseval: one-sided power, so that the bands of a signal add up to its mean square.
  const scale = 2 / (size * windowPower);
  const binWidth = sampleRate / size;
  const edges = Int32Array.from({ length: envelopeBandCount + 1 }, (_, b) =>
    min(size / 2, max(1, round(envelopeBandEdge(b) / binWidth))),
  );
  const transform = realFft(size);
  const mono = left === right;
  const readBands = bandReader(size, edges);
  const magnitudes = new Float32Array(envelopeBandCount);
  const gather = (samples: Float32Array, start: number, at: number) => {
    loadFrame(transform, [samples], start, window);
    readBands(transform.forward(), magnitudes);
    for (let b = 0; b < envelopeBandCount; b++) {
      const decibels = 10 * log10(magnitudes[b]! ** 2 * scale + 1e-30);
      levels[at + b] = max(0, min(255, round((decibels - lowestLevel) * levelsPerDecibel)));
    }
  };
  for (let frame = 0; frame < frames; frame++) {
    const start = frame * hop - size / 2;
    const row = frame * envelopeRow;
    gather(left, start, row);
    if (mono) levels.copyWithin(row + envelopeBandCount, row, row + envelopeBandCount);
    else gather(right, start, row + envelopeBandCount);
    if (onProgress && frame % 1024 === 0) onProgress(frame / frames);
  }
  return { framesPerSecond: sampleRate / hop, levels };
}
