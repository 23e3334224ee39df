/** The inner loops of `vector.wat`, each with memory of its own. Made at once, in pages as on the server. */
import { bytesOfBase64 } from "../../base64";
import { vectorCode } from "./vectorCode";

const bytesOfPage = 65536;
export const bytesOfFloat = 4;

export interface VectorLoops {
  /** Their whole memory. */
  floats: Float32Array;
  filter(from: number, stride: number, taps: number, tapBytes: number, to: number, count: number): void;
  layer(
    from: number,
    channels: number,
    taps: number,
    dilation: number,
    weights: number,
    biases: number,
    units: number,
    to: number,
    frames: number,
    least: number,
    added: number,
  ): void;
  median(from: number, stride: number, to: number, bytes: number): void;
  multiply(a: number, b: number, to: number, bytes: number): void;
  addProduct(a: number, b: number, to: number, bytes: number): void;
  addScaled(from: number, factor: number, to: number, bytes: number): void;
  scaleBands(spectrum: number, edges: number, factors: number, bands: number, to: number): void;
  bandMagnitudes(spectrum: number, edges: number, bands: number, to: number): void;
  midSidePowers(left: number, right: number, mid: number, side: number, cross: number, bins: number): void;
  spanSums(values: number, spans: number, count: number, to: number): void;
  between(from: number, weights: number, pairs: number, to: number, count: number): void;
}

let compiled: WebAssembly.Module | undefined;

/**
 * Shares out the loops' memory.
 *
 * @param counts of floats.
 * @returns addresses one behind the other, each a multiple of 16, and how many bytes all of them take.
 */
export function vectorPlaces<const Counts extends readonly number[]>(
  ...counts: Counts
): { at: { [K in keyof Counts]: number }; bytes: number } {
  let bytes = 0;
  const at = counts.map((count) => {
    const own = bytes;
    bytes += Math.ceil(count / 4) * 4 * bytesOfFloat;
    return own;
  });
  return { at: at as { [K in keyof Counts]: number }, bytes };
}

/** @param bytes of memory that are needed at least. */
export function vectorLoops(bytes: number): VectorLoops {
  compiled ??= new WebAssembly.Module(bytesOfBase64(vectorCode));
  const memory = new WebAssembly.Memory({ initial: Math.ceil(bytes / bytesOfPage) });
  const loops = new WebAssembly.Instance(compiled, { host: { memory } }).exports;
  return { ...(loops as unknown as VectorLoops), floats: new Float32Array(memory.buffer) };
}
