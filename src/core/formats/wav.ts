import type { Hertz } from "../units";

const { max, min, round } = Math;

/** How samples are stored in a written WAV file. */
export type WavSampleFormat = "int16" | "int24" | "float32";

/** Bytes ahead of the samples in a file that is written here. */
const headBytes = 44;

/** The head of a RIFF/WAVE file whose samples follow. @param width bytes of a sample. */
function writeHead(view: DataView, { dataBytes, count, width, sampleRate, isFloat }: WavShape): void {
  const text = (at: number, value: string) => {
    for (let i = 0; i < value.length; i++) view.setUint8(at + i, value.charCodeAt(i));
  };
  text(0, "RIFF");
  // A chunk of an odd length is followed by a byte that its length does not count.
  view.setUint32(4, 36 + dataBytes + (dataBytes % 2), true);
  text(8, "WAVEfmt ");
  view.setUint32(16, 16, true);
  view.setUint16(20, isFloat ? 3 : 1, true);
  view.setUint16(22, count, true);
  view.setUint32(24, sampleRate, true);
  view.setUint32(28, sampleRate * count * width, true);
  view.setUint16(32, count * width, true);
  view.setUint16(34, width * 8, true);
  text(36, "data");
  view.setUint32(40, dataBytes, true);
}

interface WavShape {
  dataBytes: number;
  count: number;
  /** Bytes of a sample. */
  width: number;
  sampleRate: Hertz;
  isFloat: boolean;
}

/** The head of a 24-bit stereo file of so many frames, which are sent after it by `stereoWavFrames`. */
export function stereoWavHead(frames: number, sampleRate: Hertz): Uint8Array<ArrayBuffer> {
  const bytes = new Uint8Array(headBytes);
  const shape = { dataBytes: frames * 6, count: 2, width: 3, sampleRate, isFloat: false };
  writeHead(new DataView(bytes.buffer), shape);
  return bytes;
}

/** Frames of such a file. */
export const stereoWavFrames = (channels: readonly [Float32Array, Float32Array]): Uint8Array<ArrayBuffer> =>
  writeWav(channels, 1, "int24").subarray(headBytes);

/**
 * Writes a RIFF/WAVE file ("Multimedia Programming Interface and Data Specifications 1.0", 1991).
 * Samples beyond ±1 are clipped in the integer formats.
 *
 * @param channels planar samples, all of the same length, at least one channel.
 */
export function writeWav(
  channels: readonly Float32Array[],
  sampleRate: Hertz,
  format: WavSampleFormat = "int16",
): Uint8Array<ArrayBuffer> {
  const width = { int16: 2, int24: 3, float32: 4 }[format];
  const frames = channels[0]!.length;
  const count = channels.length;
  const dataBytes = frames * count * width;
  const bytes = new Uint8Array(headBytes + dataBytes + (dataBytes % 2));
  const view = new DataView(bytes.buffer);
  writeHead(view, { dataBytes, count, width, sampleRate, isFloat: format === "float32" });
  let at = headBytes;
  for (let i = 0; i < frames; i++) {
    for (let c = 0; c < count; c++, at += width) {
      const sample = channels[c]![i]!;
      if (format === "float32") view.setFloat32(at, sample, true);
      else if (format === "int16") view.setInt16(at, round(max(-1, min(1, sample)) * 32767), true);
      else {
        const value = round(max(-1, min(1, sample)) * 8388607);
        view.setUint8(at, value & 255);
        view.setUint8(at + 1, (value >> 8) & 255);
        view.setUint8(at + 2, (value >> 16) & 255);
      }
    }
  }
  return bytes;
}
