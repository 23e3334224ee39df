declare module "@echogarden/pffft-wasm/simd" {
  export default function load(): Promise<unknown>;
}
