/**
 * How strongly each semitone sounds over time: the peaks of the spectrum, gathered by pitch after
 * the tuning of the whole track has been found (harmonic pitch class profile before folding: Gómez
 * 2006, "Tonal description of music audio signals"). Noise and drums have few steady peaks and so
 * add little.
 */
import { hannWindow, loadFrame, realFft } from "../dsp/fft";
import type { Hertz } from "../units";
import { lowestPitch, pitchCount, type PitchSalience } from "./pitches";
import { tuningOf } from "./tuning";

export type { PitchSalience } from "./pitches";

const { abs, ceil, floor, log2, max, min, round, sqrt } = Math;

/** Frame length: the power of two nearest to 0.37 s, which tells semitones apart from 65 Hz on. */
const frameSizeFor = (sampleRate: Hertz) => 2 ** round(log2(0.37 * sampleRate));
const framesASecond = 10;
/** A peak must stand this far above the mean of its neighbourhood. */
const peakFactor = 2;
const neighbourhood = 12;

/**
 * @param channels left and right, same length.
 * @param onProgress called with 0–1 now and then.
 */
export function pitchSalience(
  channels: readonly [Float32Array, Float32Array],
  sampleRate: Hertz,
  onProgress?: (done: number) => void,
): PitchSalience {
  const [left] = channels;
  const size = frameSizeFor(sampleRate);
  const hop = round(sampleRate / framesASecond);
  const frames = ceil(left.length / hop);
  const window = hannWindow(size);
  const transform = realFft(size);
  const binWidth = sampleRate / size;
  const lowBin = max(2, floor((440 * 2 ** ((lowestPitch - 0.5 - 69) / 12)) / binWidth));
  const highBin = min(size / 2 - 2, ceil((440 * 2 ** ((lowestPitch + pitchCount - 69) / 12)) / binWidth));
  const magnitudes = new Float32Array(size / 2);
  const cumulated = new Float64Array(size / 2 + 1);

  // All peaks of all frames: pitch, strength, frame.
  let capacity = 1 << 16;
  let pitches = new Float32Array(capacity);
  let strengthOf = new Float32Array(capacity);
  let frameOf = new Int32Array(capacity);
  let count = 0;
  for (let frame = 0; frame < frames; frame++) {
    loadFrame(transform, channels, frame * hop - size / 2, window);
    const spectrum = transform.forward();
    const first = lowBin - neighbourhood < 1 ? 1 : lowBin - neighbourhood;
    const last = min(size / 2 - 1, highBin + neighbourhood);
    for (let bin = first; bin <= last; bin++) {
      const re = spectrum[2 * bin]!;
      const im = spectrum[2 * bin + 1]!;
      const magnitude = sqrt(re * re + im * im);
      magnitudes[bin] = magnitude;
      cumulated[bin + 1] = cumulated[bin]! + magnitude;
    }
    for (let bin = lowBin; bin <= highBin; bin++) {
      const here = magnitudes[bin]!;
      const below = magnitudes[bin - 1]!;
      const above = magnitudes[bin + 1]!;
      if (here <= below || here < above || here <= 0) continue;
      const a = max(first, bin - neighbourhood);
      const b = min(last, bin + neighbourhood);
      if (here < (peakFactor * (cumulated[b + 1]! - cumulated[a]!)) / (b - a + 1)) continue;
      const bend = below - 2 * here + above;
      const place = bin + (bend < 0 ? max(-0.5, min(0.5, (0.5 * (below - above)) / bend)) : 0);
      const pitch = 69 + 12 * log2((place * binWidth) / 440);
      if (count === capacity) {
        capacity *= 2;
        const grown = new Float32Array(capacity);
        grown.set(pitches);
        pitches = grown;
        const grownStrength = new Float32Array(capacity);
        grownStrength.set(strengthOf);
        strengthOf = grownStrength;
        const grownFrames = new Int32Array(capacity);
        grownFrames.set(frameOf);
        frameOf = grownFrames;
      }
      pitches[count] = pitch;
      strengthOf[count] = here;
      frameOf[count] = frame;
      count++;
    }
    if (onProgress && frame % 256 === 0) onProgress(frame / frames);
  }
  const tuningCents = tuningOf(pitches, strengthOf, count);
  const tuning = tuningCents / 100;

  const strengths = new Float32Array(frames * pitchCount);
  for (let i = 0; i < count; i++) {
    const place = pitches[i]! - tuning - lowestPitch;
    const nearest = round(place);
    if (nearest < 0 || nearest >= pitchCount) continue;
    // Between two semitones a peak belongs to neither for certain.
    const share = max(0, 1 - 1.6 * abs(place - nearest));
    strengths[frameOf[i]! * pitchCount + nearest]! += share * strengthOf[i]!;
  }
  return { framesPerSecond: sampleRate / hop, strengths, tuningCents };
}
