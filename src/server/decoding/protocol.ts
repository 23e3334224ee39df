/** What the server and its decoding processes say to each other. */
import type { EarlyFindings } from "@/core/analysis/early";
import type { TrackAnalysis, TrackCurves } from "@/core/analysis/result";
import type { LiftedTrack } from "@/core/lens";
import type { Outcome } from "@/core/outcome";
import type { StemOffset } from "@/core/study";
import type { StemsSummed, SumTask } from "../lens/sumStems";
import type { LiftTask } from "../lens/task";
import type { DecodedInfo } from "./decode";
import type { Tags } from "./tags";

/** What is known of a file once it has been looked through. */
export interface Inspection extends Omit<DecodedInfo, "frames"> {
  durationSeconds: number;
  tags: Tags;
}

/** How far a task is. */
export interface Progress {
  /** What is being done, in words for people. */
  message: string;
  /** Share 0–1 of the whole. */
  done: number;
  /** What is known of the track already. */
  early?: EarlyFindings;
}

/** Tasks that touch the bytes of files; each by name with what it takes and gives. */
export interface DecodingTasks {
  /** Decodes a file to see whether it is whole and sound. */
  inspect: { task: { path: string; shortestSeconds?: number }; result: Outcome<Inspection> };
  /** Decodes and analyses a file, and writes its samples for listening. */
  analyse: {
    task: { path: string; listeningCopy: string };
    result: Outcome<{ analysis: TrackAnalysis; curves: TrackCurves }>;
  };
  /** Writes the samples of a file for listening anew. */
  render: { task: { path: string; listeningCopy: string }; result: Outcome<null> };
  /** The sound of a one-shot, left and right: the first seconds of it without the silence before. */
  readSound: {
    task: { path: string };
    result: Outcome<{ samples: [Float32Array, Float32Array]; sampleRate: number }>;
  };
  /** Finds where a stem lies in its full track; null where one of them is silent. */
  placeStem: { task: { trackPath: string; stemPath: string }; result: Outcome<StemOffset | null> };
  /** Takes its stems from a track; refused as not found where a listening copy is gone. */
  sumStems: { task: SumTask; result: Outcome<StemsSummed> };
  /** Takes a file apart; refused as not found where its listening copy is gone. */
  lift: { task: LiftTask; result: Outcome<LiftedTrack> };
}

export type DecodingTask = keyof DecodingTasks;

/** To the process. */
export interface Order {
  id: number;
  name: DecodingTask;
  task: unknown;
}

/** From the process. */
export type Report =
  | { id: number; kind: "progress"; progress: Progress }
  | { id: number; kind: "result"; result: unknown }
  /** A bug: what was thrown. */
  | { id: number; kind: "error"; message: string };

/** Why a process ended itself; written to its standard error. */
export const endings = { memory: "plain-mirror: memory limit", stalled: "plain-mirror: stalled" } as const;
