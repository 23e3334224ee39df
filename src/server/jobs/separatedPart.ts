/** Task of the computing threads: chunks of the percussive or sustained part of a file. */
import { loadFft } from "@/core/dsp/fft";
import { separateHarmonicPercussive, separationContext, separationHop } from "@/core/dsp/harmonicPercussive";
import { framesPerChunk, packFrames, unpackFrames, type SeparatedPart } from "@/core/formats/chunks";
import { readFrames } from "../storage/listeningCopy";

/** A chunk of a separated part; takes about a tenth of a second, so it belongs in a worker. */
export async function readPart({
  path,
  chunk,
  part,
}: {
  path: string;
  chunk: number;
  part: SeparatedPart;
}): Promise<Uint8Array<ArrayBuffer>> {
  await loadFft();
  // Whole hops of context, so that every chunk is cut into the same frames.
  const context = Math.ceil(separationContext / separationHop) * separationHop;
  const start = chunk * framesPerChunk - context;
  const end = (chunk + 1) * framesPerChunk + context;
  const [left, right] = unpackFrames(await readFrames(path, start, end));
  const before = Math.max(0, -start);
  const wanted = Math.max(0, Math.min(framesPerChunk, left.length - (context - before)));
  const separated = [left, right].map((samples) => {
    const padded = new Float32Array(end - start);
    padded.set(samples, before);
    return separateHarmonicPercussive(padded, part);
  }) as [Float32Array, Float32Array];
  return packFrames(separated, context, context + wanted);
}
