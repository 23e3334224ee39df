/** A file as the commands take it: decoded and analysed. */
import { analyse } from "@/core/analysis/analyse";
import type { Signal } from "@/core/audio/signal";
import type { AlignmentSide } from "@/core/study";
import { decodeFile } from "@/server/decoding/decode";
import { giveUp, sentenceFor, type Terminal } from "./terminal";

export type AnalysedFile = AlignmentSide & { signal: Signal };

/** Decodes and analyses a file, and says what is odd about it. */
export async function analysedFile(file: string, { say }: Terminal): Promise<AnalysedFile> {
  const decoded = await decodeFile(file);
  if (!decoded.ok) return giveUp(sentenceFor(file, decoded.refusal));
  const { signal, info } = decoded.value;
  info.warnings.forEach(say);
  const { analysis, curves } = await analyse(signal);
  return { analysis: { ...analysis, channels: info.channels }, curves, correction: {}, signal };
}
