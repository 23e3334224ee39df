/** What drum hits are told by: the level of forty bands, a hundred times a second. */
import { onsetFrames } from "../grid/onset";
import type { Hertz } from "../units";

const { floor, log10, max, min, round, sqrt } = Math;

/** Bands: seven narrow ones where kicks lie, then five to the octave. */
export const drumBandCount = 40;
const narrowBands = 7;
const narrowFrom: Hertz = 32;
const narrowWidth: Hertz = 21.5;
const perOctave = 5;
/** Levels are compressed as log10(1 + this × magnitude ÷ effective magnitude of the track). */
export const compression = 30;

/** Frequency at which band b begins; that of `drumBandCount` is where the last one ends. */
export function drumBandEdge(band: number): Hertz {
  const top = narrowFrom + narrowWidth * min(band, narrowBands);
  return band <= narrowBands ? top : top * 2 ** ((band - narrowBands) / perOctave);
}

/** Compressed levels of the bands. */
export interface DrumBands {
  /** Exact rate of the frames; frame i is centred on i / framesPerSecond. */
  framesPerSecond: Hertz;
  /** `frames × drumBandCount`, ≥ 0; all 0 in silence. The same whatever the gain of the file. */
  levels: Float32Array;
}

/** The rate at which bands are made of whole bins, which is what the model was fitted on. */
const fittedRate: Hertz = 44100;

/**
 * Edges of the bands in bins, of which bin k covers k … k + 1. At other rates than the fitted one they
 * cut bins in two, so that a band is the same part of the spectrum at every rate.
 */
function bandEdges(sampleRate: Hertz): Float64Array {
  const binWidth = sampleRate / onsetFrames(1, sampleRate).size;
  const fittedWidth = fittedRate / onsetFrames(1, fittedRate).size;
  return Float64Array.from({ length: drumBandCount + 1 }, (_, b) => {
    const fitted = max(1, round(drumBandEdge(b) / fittedWidth)) - 0.5;
    return min(sampleRate / 2 / binWidth, max(1, (fitted * fittedWidth) / binWidth + 0.5));
  });
}

/** Root mean square of all magnitudes. */
export function effectiveOf(magnitudes: Float32Array): number {
  let total = 0;
  for (let i = 0; i < magnitudes.length; i++) total += magnitudes[i]! ** 2;
  return sqrt(total / magnitudes.length);
}

/** Gathers the bands of spectra that are handed over frame by frame, in the frames of onsets. */
export function drumBandGatherer(sampleCount: number, sampleRate: Hertz) {
  const { hop, frames } = onsetFrames(sampleCount, sampleRate);
  const edges = bandEdges(sampleRate);
  const levels = new Float32Array(frames * drumBandCount);
  return {
    add(spectrum: Float32Array, frame: number): void {
      const row = frame * drumBandCount;
      for (let b = 0; b < drumBandCount; b++) {
        const from = edges[b]!;
        const to = edges[b + 1]!;
        let power = 0;
        for (let bin = floor(from); bin < to; bin++) {
          const re = spectrum[2 * bin]!;
          const im = spectrum[2 * bin + 1]!;
          // Whole bins but for the first and the last.
          power += (re * re + im * im) * (min(to, bin + 1) - max(from, bin));
        }
        levels[row + b] = sqrt(power);
      }
    },
    finish(): DrumBands {
      const gain = compression / (effectiveOf(levels) || 1);
      for (let i = 0; i < levels.length; i++) levels[i] = log10(1 + gain * levels[i]!);
      return { framesPerSecond: sampleRate / hop, levels };
    },
  };
}
