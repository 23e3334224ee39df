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
}

let compiled: WebAssembly.Module | undefined;

/** @param bytes of memory that are needed at least. */
export function vectorLoops(bytes: number): VectorLoops {
  compiled ??= new WebAssembly.Module(bytesOfBase64(vectorCode));
  const memory = new WebAssembly.Memory({ initial: Math.ceil(bytes / bytesOfPage) });
  const loops = new WebAssembly.Instance(compiled, { host: { memory } }).exports;
  return { ...(loops as unknown as VectorLoops), floats: new Float32Array(memory.buffer) };
}
