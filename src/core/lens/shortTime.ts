/**
 * Spectra of a signal frame by frame, and parts of them put together again. Parts are told by bands: each
 * bin by itself at the bottom, ever more of them together upwards.
 */
import { hannWindow, realFft } from "../dsp/fft";
import type { Hertz, Seconds } from "../units";

const { floor, max, min, sqrt } = Math;

/** A signal as overlapping frames, four of which lie over every sample. */
export interface ShortTime {
  rate: Hertz;
  hop: number;
  bands: number;
  /** Middle of each band. */
  hertz: Float32Array;
  frames: number;
  /** The frame in whose newest quarter a time lies: the first that sees it. */
  frameOf(time: Seconds): number;
  /** Makes powers of all frames the energy of the signal. */
  energyScale: number;
  /** Root of the power in each band. */
  magnitudes(frame: number, to: Float32Array): void;
  /** Adds a share of every band of a frame's spectrum to a signal. */
  add(frame: number, shares: Float32Array, to: Float32Array): void;
}

/** A band is at most this share of its frequency wide, where that is more than a bin. */
const widest = 1 / 48;

/** First bin of every band, and where the last ends: bin 0 belongs to none. */
function edgesOf(bins: number): Int32Array {
  const edges = [1];
  while (edges.at(-1)! < bins) {
    const from = edges.at(-1)!;
    edges.push(min(bins, from + max(1, floor(from * widest))));
  }
  return Int32Array.from(edges);
}

/** @param frameLength at usual sample rates; twice that above 50 kHz. */
export function shortTime(samples: Float32Array, rate: Hertz, frameLength = 2048): ShortTime {
  const size = rate > 50_000 ? 2 * frameLength : frameLength;
  const hop = size / 4;
  const bins = size / 2;
  const transform = realFft(size);
  const edges = edgesOf(bins);
  const bands = edges.length - 1;
  const bandOf = new Uint16Array(bins);
  for (let band = 0; band < bands; band++) bandOf.fill(band, edges[band]!, edges[band + 1]!);
  const window = hannWindow(size).map(sqrt);
  // The frame asked for last: several parts are cut out of one.
  const kept = new Float32Array(size);
  let keptFrame = -1;
  const startOf = (frame: number) => (frame + 1) * hop - size;
  // Square roots of Hann windows at a quarter add up to 2.
  const scaled = window.map((x) => x / (2 * size));
  function load(frame: number): Float32Array {
    const input = transform.input();
    const start = startOf(frame);
    const from = max(0, -start);
    const to = max(from, min(size, samples.length - start));
    input.fill(0, 0, from);
    for (let i = from; i < to; i++) input[i] = samples[start + i]! * window[i]!;
    input.fill(0, to);
    return transform.forward();
  }
  function spectrumOf(frame: number): Float32Array {
    if (frame !== keptFrame) kept.set(load(frame));
    keptFrame = frame;
    return kept;
  }
  return {
    rate,
    hop,
    bands,
    hertz: Float32Array.from(
      { length: bands },
      (_, band) => ((edges[band]! + edges[band + 1]! - 1) / 2) * (rate / size),
    ),
    energyScale: 1 / size,
    frames: floor((samples.length + size) / hop),
    frameOf: (time) => floor((time * rate) / hop),
    magnitudes(frame, to) {
      const spectrum = spectrumOf(frame);
      for (let band = 0; band < bands; band++) {
        let power = 0;
        for (let i = 2 * edges[band]!; i < 2 * edges[band + 1]!; i++) power += spectrum[i]! * spectrum[i]!;
        to[band] = sqrt(power);
      }
    },
    add(frame, shares, to) {
      const spectrum = spectrumOf(frame);
      const own = transform.spectrum();
      own[0] = 0;
      own[1] = 0;
      for (let bin = 1; bin < bins; bin++) {
        const share = shares[bandOf[bin]!]!;
        own[2 * bin] = spectrum[2 * bin]! * share;
        own[2 * bin + 1] = spectrum[2 * bin + 1]! * share;
      }
      const output = transform.backward();
      const start = startOf(frame);
      const end = min(size, samples.length - start);
      for (let i = max(0, -start); i < end; i++) to[start + i]! += scaled[i]! * output[i]!;
    },
  };
}
