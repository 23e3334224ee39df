/**
 * Fourier transforms of real signals, in single precision. The transform itself is PFFFT
 * (J. Pommier) compiled to WebAssembly; this file hides its memory handling.
 */
import loadPffft from "@echogarden/pffft-wasm/simd";
import { bytesOfFloat, vectorLoops, vectorPlaces, type VectorLoops } from "./vector/loops";

interface Pffft {
  HEAPF32: Float32Array;
  _pffft_new_setup(size: number, kind: number): number;
  _pffft_aligned_malloc(bytes: number): number;
  _pffft_transform_ordered(
    setup: number,
    input: number,
    output: number,
    work: number,
    direction: number,
  ): void;
}

const realKind = 0;
const forwardDirection = 0;
const backwardDirection = 1;

let loaded: Pffft | undefined;
const plans = new Map<number, RealFft>();

/** Must have been awaited once before `realFft` is called. Repeated calls are free. */
export async function loadFft(): Promise<void> {
  loaded ??= (await loadPffft()) as Pffft;
}

/** A transform of one size, with buffers of its own that each call overwrites. */
export interface RealFft {
  readonly size: number;
  /** Where to put `size` real samples before `forward`, and where `backward` leaves them. */
  input(): Float32Array;
  /**
   * Spectrum of `input()`: `size` values, interleaved real and imaginary parts of bins
   * 0 … size/2 − 1; element 1 (the imaginary part of bin 0, always 0) carries bin size/2.
   * Not scaled. The array is valid until the next call.
   */
  forward(): Float32Array;
  /** The inverse of `forward`, from `spectrum()` to `input()`, multiplied by `size`. */
  backward(): Float32Array;
  /** The spectrum buffer that `forward` fills and `backward` reads. */
  spectrum(): Float32Array;
}

/**
 * @param size a multiple of 32 whose only prime factors are 2, 3 and 5.
 * @throws where `loadFft` has not been awaited or the size is not allowed.
 */
export function realFft(size: number): RealFft {
  const known = plans.get(size);
  if (known) return known;
  if (!loaded) throw new Error("loadFft() must be awaited before realFft() is called");
  if (size < 32 || size % 32 !== 0) throw new Error(`FFT size must be a multiple of 32, got ${size}`);
  const library = loaded;
  const setup = library._pffft_new_setup(size, realKind);
  if (setup === 0) throw new Error(`FFT size ${size} has a prime factor above 5`);
  const inputAt = library._pffft_aligned_malloc(size * 4);
  const outputAt = library._pffft_aligned_malloc(size * 4);
  const workAt = library._pffft_aligned_malloc(size * 4);
  // The heap may have been moved by a later allocation: views are made anew on each use.
  const view = (at: number) => library.HEAPF32.subarray(at >> 2, (at >> 2) + size);
  const plan: RealFft = {
    size,
    input: () => view(inputAt),
    spectrum: () => view(outputAt),
    forward() {
      library._pffft_transform_ordered(setup, inputAt, outputAt, workAt, forwardDirection);
      return view(outputAt);
    },
    backward() {
      library._pffft_transform_ordered(setup, outputAt, inputAt, workAt, backwardDirection);
      return view(inputAt);
    },
  };
  plans.set(size, plan);
  return plan;
}

const { ceil, cos, max, min, PI } = Math;

/** Periodic Hann window of the given length, values 0–1. */
export function hannWindow(length: number): Float32Array {
  const window = new Float32Array(length);
  for (let i = 0; i < length; i++) window[i] = 0.5 - 0.5 * cos((2 * PI * i) / length);
  return window;
}

let loops: VectorLoops | undefined;
/** Samples of a frame that there is room for in the loops' memory. */
let room = 0;

/**
 * Puts a windowed frame into a transform: of one channel, or of the sum of two. What lies outside the
 * file is silence, and so is what the window leaves of the transform.
 *
 * @param start sample at which the frame begins; may be negative.
 * @param window at most as long as the transform.
 */
export function loadFrame(
  transform: RealFft,
  channels: readonly Float32Array[],
  start: number,
  window: Float32Array,
): void {
  const { length } = window;
  if (!loops || room < length) {
    room = ceil(length / 4) * 4;
    loops = vectorLoops(3 * room * bytesOfFloat);
  }
  const { floats, multiply, addProduct } = loops;
  const [samplesAt, frameAt] = [room, 2 * room];
  floats.set(window, 0);
  const from = min(length, max(0, -start));
  const bytes = ceil(length / 4) * 4 * bytesOfFloat;
  channels.forEach((samples, channel) => {
    const to = max(from, min(length, samples.length - start));
    floats.fill(0, samplesAt, samplesAt + from);
    floats.set(samples.subarray(start + from, start + to), samplesAt + from);
    floats.fill(0, samplesAt + to, samplesAt + length);
    (channel === 0 ? multiply : addProduct)(samplesAt * bytesOfFloat, 0, frameAt * bytesOfFloat, bytes);
  });
  const input = transform.input();
  input.set(floats.subarray(frameAt, frameAt + length));
  input.fill(0, length);
}

/**
 * Reads bands of spectra.
 *
 * @param size of the transform.
 * @param edges first bin of each band, ascending, and where the last one ends.
 * @returns writes the root of each band's power, of a spectrum as `RealFft.forward` gives it.
 */
export function bandReader(
  size: number,
  edges: Int32Array,
): (spectrum: Float32Array, to: Float32Array, at?: number) => void {
  const bands = edges.length - 1;
  const {
    at: [spectrumAt, edgesAt, resultAt],
    bytes,
  } = vectorPlaces(size, edges.length, bands);
  const { floats, bandMagnitudes } = vectorLoops(bytes);
  new Int32Array(floats.buffer, edgesAt, edges.length).set(edges);
  const result = floats.subarray(resultAt / bytesOfFloat, resultAt / bytesOfFloat + bands);
  return (spectrum, to, at = 0) => {
    floats.set(spectrum, 0);
    bandMagnitudes(spectrumAt, edgesAt, bands, resultAt);
    to.set(result, at);
  };
}
