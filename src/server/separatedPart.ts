/** Task of the workers: pieces of the percussive or sustained part of a file. */
import { loadFft } from "@/core/dsp/fft";
import { separate, separationContext, separationHop } from "@/core/dsp/separate";
import { framesPerPiece, packFrames, unpackFrames, type ListeningPart } from "@/core/formats/pieces";
import { readFrames } from "./listeningCopy";

/** A piece of a separated part; takes about a tenth of a second, so it belongs in a worker. */
export async function readPart({
  path,
  piece,
  part,
}: {
  path: string;
  piece: number;
  part: Exclude<ListeningPart, "whole">;
}): Promise<Uint8Array<ArrayBuffer>> {
  await loadFft();
  // Whole hops of context, so that every piece is cut into the same frames.
  const context = Math.ceil(separationContext / separationHop) * separationHop;
  const start = piece * framesPerPiece - context;
  const end = (piece + 1) * framesPerPiece + context;
  const [left, right] = unpackFrames(await readFrames(path, start, end));
  const before = Math.max(0, -start);
  const wanted = Math.max(0, Math.min(framesPerPiece, left.length - (context - before)));
  const separated = [left, right].map((samples) => {
    const padded = new Float32Array(end - start);
    padded.set(samples, before);
    return separate(padded, part);
  }) as [Float32Array, Float32Array];
  return packFrames(separated, context, context + wanted);
}
