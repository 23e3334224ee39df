/** The decoded samples of a file on disk, and the chunks of them that listeners ask for. */
import { open } from "node:fs/promises";
import { bytesPerFrame, framesPerChunk, packFrames } from "@/core/formats/chunks";

/** Writes all samples, chunk by chunk so that no second copy of a long file is held. */
export async function writeListeningCopy(
  path: string,
  channels: readonly [Float32Array, Float32Array],
): Promise<void> {
  const file = await open(path, "w");
  try {
    const frames = channels[0].length;
    for (let from = 0; from < frames; from += 4 * framesPerChunk) {
      await file.write(packFrames(channels, from, Math.min(frames, from + 4 * framesPerChunk)));
    }
  } finally {
    await file.close();
  }
}

/** Bytes of some frames; fewer past the end, none before the beginning. */
export async function readFrames(path: string, from: number, to: number): Promise<Uint8Array<ArrayBuffer>> {
  const file = await open(path, "r");
  try {
    const first = Math.max(0, from);
    const bytes = new Uint8Array(Math.max(0, to - first) * bytesPerFrame);
    const { bytesRead } = await file.read(bytes, 0, bytes.length, first * bytesPerFrame);
    return bytes.subarray(0, bytesRead);
  } finally {
    await file.close();
  }
}

/** A chunk as it stands in the file. */
export const readChunk = (path: string, chunk: number): Promise<Uint8Array<ArrayBuffer>> =>
  readFrames(path, chunk * framesPerChunk, (chunk + 1) * framesPerChunk);
