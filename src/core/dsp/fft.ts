/**
 * Fourier transforms of real signals, in single precision. The transform itself is PFFFT
 * (J. Pommier) compiled to WebAssembly; this file hides its memory handling.
 */
import loadPffft from "@echogarden/pffft-wasm/simd";

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

const { cos, PI } = Math;

/** Periodic Hann window of the given length, values 0–1. */
export function hannWindow(length: number): Float32Array {
  const window = new Float32Array(length);
  for (let i = 0; i < length; i++) window[i] = 0.5 - 0.5 * cos((2 * PI * i) / length);
  return window;
}

/**
 * Puts a windowed frame of the sum of both channels into a transform; what lies outside the file
 * is silence.
 *
 * @param start sample at which the frame begins; may be negative.
 * @param window as long as the transform.
 */
export function loadFrame(
  transform: RealFft,
  [left, right]: readonly [Float32Array, Float32Array],
  start: number,
  window: Float32Array,
): void {
  const { size } = transform;
  const input = transform.input();
  const from = Math.max(0, -start);
  const to = Math.max(from, Math.min(size, left.length - start));
  input.fill(0, 0, from);
  for (let i = from; i < to; i++) input[i] = (left[start + i]! + right[start + i]!) * window[i]!;
  input.fill(0, to);
}
