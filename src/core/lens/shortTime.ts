/**
 * Spectra of a signal frame by frame, and parts of them put together again. Parts are told by bands: each
 * bin by itself at the bottom, ever more of them together upwards.
 */
import { hannWindow, loadFrame, realFft } from "../dsp/fft";
import { bytesOfFloat, vectorLoops, vectorPlaces } from "../dsp/vector/loops";
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
  const window = hannWindow(size).map(sqrt);
  const {
    at: [scaledAt, frameAt, keptAt, targetAt, edgesAt, sharesAt],
    bytes,
  } = vectorPlaces(size, size, size, size, edges.length, bands);
  const loops = vectorLoops(bytes);
  const area = (at: number, count = size) =>
    loops.floats.subarray(at / bytesOfFloat, at / bytesOfFloat + count);
  const [own, kept, target, shareOf] = [area(frameAt), area(keptAt), area(targetAt), area(sharesAt, bands)];
  // Square roots of Hann windows at a quarter add up to 2.
  area(scaledAt).set(window.map((x) => x / (2 * size)));
  new Int32Array(loops.floats.buffer, edgesAt, edges.length).set(edges);
  const startOf = (frame: number) => (frame + 1) * hop - size;
  // The frame asked for last: several parts are cut out of one.
  let keptFrame = -1;
  function see(frame: number): void {
    if (frame === keptFrame) return;
    loadFrame(transform, [samples], startOf(frame), window);
    kept.set(transform.forward());
    keptFrame = frame;
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
      see(frame);
      loops.bandMagnitudes(keptAt, edgesAt, bands, targetAt);
      to.set(target.subarray(0, bands));
    },
    add(frame, shares, to) {
      see(frame);
      shareOf.set(shares);
      own.fill(0, 0, 2);
      loops.scaleBands(keptAt, edgesAt, sharesAt, bands, frameAt);
      transform.spectrum().set(own);
      own.set(transform.backward());
      const start = startOf(frame);
      const from = max(0, -start);
      const end = max(from, min(size, samples.length - start));
      const there = to.subarray(start + from, start + end);
      target.set(there, from);
      loops.addProduct(frameAt, scaledAt, targetAt, size * bytesOfFloat);
      there.set(target.subarray(from, end));
    },
  };
}
