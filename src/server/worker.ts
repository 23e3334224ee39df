/** The tasks of the worker threads: everything that takes longer than a request may. */
import type { MessagePort } from "node:worker_threads";
import { analyse } from "@/core/analysis/analyse";
import { analysisStages, type TrackAnalysis, type TrackCurves } from "@/core/analysis/result";
import { durationOf, foldToStereo } from "@/core/audio/signal";
import type { AudioFormat } from "@/core/formats/probe";
import { success, type Outcome } from "@/core/outcome";
import { readClaims, type Claims } from "./claims";
import { decodeFile } from "./decode";
import { writeListeningCopy } from "./listeningCopy";

export { lineUpPair, placeStem, planTrack, sharpenTempo } from "./pairs";
export { readPart } from "./separatedPart";

/** What is known of a file once it has been decoded. */
export interface Inspection {
  format: AudioFormat;
  durationSeconds: number;
  sampleRate: number;
  channels: number;
  warnings: string[];
  claims: Claims;
}

/** Decodes a file to see whether it is whole and sound. */
export async function inspect({ path }: { path: string }): Promise<Outcome<Inspection>> {
  const decoded = await decodeFile(path);
  if (!decoded.ok) return decoded;
  const { format, signal, warnings } = decoded.value;
  return success({
    format,
    durationSeconds: durationOf(signal),
    sampleRate: signal.sampleRate,
    channels: signal.channels.length,
    warnings,
    claims: await readClaims(path, format),
  });
}

/** What a running analysis tells. */
export interface Progress {
  /** What is being done, in words for people. */
  says: string;
  /** Share 0–1 of the whole. */
  done: number;
}

const decodeShare = 0.3;

/** Decodes and analyses a file; writes its samples for listening. */
export async function analyseFile(task: {
  path: string;
  listeningCopy: string;
  port?: MessagePort;
}): Promise<Outcome<{ analysis: TrackAnalysis; curves: TrackCurves }>> {
  const tell = (says: string, done: number) => task.port?.postMessage({ says, done } satisfies Progress);
  tell("Decoding", 0);
  const decoded = await decodeFile(task.path, (done) => tell("Decoding", done * decodeShare));
  if (!decoded.ok) return decoded;
  const { signal } = decoded.value;
  await writeListeningCopy(task.listeningCopy, foldToStereo(signal));
  const words = new Map(analysisStages.map(({ name, says }) => [name, says]));
  const result = await analyse(signal, (stage, done) =>
    tell(words.get(stage) ?? stage, decodeShare + done * (1 - decodeShare)),
  );
  return success(result);
}
