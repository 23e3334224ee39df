/**
 * Tells what is struck from what sounds on: medians over time keep the sustained part of a
 * spectrogram, medians over frequency the percussive part (FitzGerald 2010, "Harmonic/percussive
 * separation using median filtering"), soft masks share the sound out between them.
 */
import { hannWindow, realFft } from "./fft";

const { floor, max, min } = Math;

/** Frame length and hop in samples; half-overlapping square-root windows would ring, so a quarter. */
export const separationFrame = 4096;
export const separationHop = 1024;
/** Frames and bins that medians are taken over. */
const span = 17;

/** Samples that must be given on either side of what is wanted. */
export const separationContext = separationFrame + separationHop * span;

/** Median of the first `span` values of a scratch array, which is left sorted. */
function medianOf(scratch: Float32Array): number {
  for (let i = 1; i < span; i++) {
    const value = scratch[i]!;
    let k = i - 1;
    while (k >= 0 && scratch[k]! > value) {
      scratch[k + 1] = scratch[k]!;
      k--;
    }
    scratch[k + 1] = value;
  }
  return scratch[span >> 1]!;
}

/**
 * The percussive or the sustained part of some samples; the two add up to the whole.
 *
 * @param samples beginning at a multiple of `separationHop` in the file, so that neighbouring
 * pieces are cut alike; the outer `separationContext` samples are not right.
 */
export function separateHarmonicPercussive(
  samples: Float32Array,
  part: "percussive" | "sustained",
): Float32Array {
  const bins = separationFrame / 2;
  const frames = max(1, floor((samples.length - separationFrame) / separationHop) + 1);
  const window = hannWindow(separationFrame);
  const transform = realFft(separationFrame);
  const spectra = new Float32Array(frames * separationFrame);
  const powers = new Float32Array(frames * bins);
  for (let frame = 0; frame < frames; frame++) {
    const start = frame * separationHop;
    const input = transform.input();
    for (let i = 0; i < separationFrame; i++) input[i] = (samples[start + i] ?? 0) * window[i]!;
    const spectrum = transform.forward();
    spectra.set(spectrum, frame * separationFrame);
    for (let bin = 0; bin < bins; bin++) {
      powers[frame * bins + bin] = spectrum[2 * bin]! ** 2 + spectrum[2 * bin + 1]! ** 2;
    }
  }
  const scratch = new Float32Array(span);
  const half = span >> 1;
  const result = new Float32Array(samples.length);
  // Windows twice (in and out) at a quarter hop add up to 1.5.
  const scale = 1 / (1.5 * separationFrame);
  for (let frame = 0; frame < frames; frame++) {
    const spectrum = transform.spectrum();
    spectrum.set(spectra.subarray(frame * separationFrame, (frame + 1) * separationFrame));
    for (let bin = 0; bin < bins; bin++) {
      for (let k = -half; k <= half; k++) {
        scratch[k + half] = powers[min(frames - 1, max(0, frame + k)) * bins + bin]!;
      }
      const sustained = medianOf(scratch);
      for (let k = -half; k <= half; k++) {
        scratch[k + half] = powers[frame * bins + min(bins - 1, max(0, bin + k))]!;
      }
      const percussive = medianOf(scratch);
      const whole = sustained + percussive;
      const share = whole > 0 ? (part === "percussive" ? percussive : sustained) / whole : 0.5;
      spectrum[2 * bin]! *= share;
      // Element 1 carries the highest bin, which goes with the lowest.
      spectrum[2 * bin + 1]! *= share;
    }
    const output = transform.backward();
    const start = frame * separationHop;
    const end = min(separationFrame, samples.length - start);
    for (let i = 0; i < end; i++) result[start + i]! += output[i]! * window[i]! * scale;
  }
  return result;
}
