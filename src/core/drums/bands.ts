/** What drum hits are told by: the level of forty bands, a hundred times a second. */
import { onsetFrames } from "../grid/onset";
import type { Hertz } from "../units";

const { log10, max, min, round, sqrt } = Math;

/** Bands: seven narrow ones where kicks lie, then five to the octave. */
export const drumBandCount = 40;
const narrowBands = 7;
const narrowFrom: Hertz = 32;
const narrowWidth: Hertz = 21.5;
const perOctave = 5;
/** Levels are compressed as log10(1 + this × magnitude ÷ effective magnitude of the track). */
const compression = 30;

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

/** Gathers the bands of spectra that are handed over frame by frame, in the frames of onsets. */
export function drumBandGatherer(sampleCount: number, sampleRate: Hertz) {
  const { hop, size, frames } = onsetFrames(sampleCount, sampleRate);
  const binWidth = sampleRate / size;
  const edges = Int32Array.from({ length: drumBandCount + 1 }, (_, b) =>
    min(size / 2, max(1, round(drumBandEdge(b) / binWidth))),
  );
  const levels = new Float32Array(frames * drumBandCount);
  let total = 0;
  return {
    add(spectrum: Float32Array, frame: number): void {
      const row = frame * drumBandCount;
      for (let b = 0; b < drumBandCount; b++) {
        let power = 0;
        for (let bin = edges[b]!; bin < edges[b + 1]!; bin++) {
          const re = spectrum[2 * bin]!;
          const im = spectrum[2 * bin + 1]!;
          power += re * re + im * im;
        }
        total += power;
        levels[row + b] = sqrt(power);
      }
    },
    finish(): DrumBands {
      const effective = sqrt(total / levels.length);
      const gain = effective > 0 ? compression / effective : 0;
      for (let i = 0; i < levels.length; i++) levels[i] = log10(1 + gain * levels[i]!);
      return { framesPerSecond: sampleRate / hop, levels };
    },
  };
}
