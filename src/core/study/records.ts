/** The objects of a study as plain data, the same for database, pages and reports. */
import type { TrackAnalysis } from "../analysis/result";
import type { AudioFormat } from "../formats/probe";
import type { MixAspect } from "../match";
import type { Refusal } from "../outcome";
import type { Hertz, Seconds } from "../units";

export type JobState = "queued" | "running" | "done" | "failed" | "cancelled";

/** The analysis of a track's file as it stands. */
export interface JobRecord {
  state: JobState;
  /** What is being done, in words. */
  says: string;
  /** Share 0–1. */
  done: number;
  refusal: Refusal | null;
}

/** What a file says of itself, and what was noticed when it came in. */
export interface FileRecord {
  hash: string;
  bytes: number;
  format: AudioFormat;
  durationSeconds: Seconds;
  sampleRate: Hertz;
  channels: number;
  warnings: string[];
  claims: { title?: string; artist?: string; bpm?: number; key?: string };
}

export interface TrackRecord {
  id: string;
  role: "reference" | "version";
  /** 0 for the reference, else the place in order of arrival. */
  number: number;
  fileName: string;
  note: string;
  /** Milliseconds since 1970. */
  addedAt: number;
  file: FileRecord;
  job: JobRecord;
}

export type ElementState = "not started" | "in work" | "close enough" | "done" | "left out";

export interface ElementRecord {
  id: string;
  name: string;
  fromHz: Hertz;
  toHz: Hertz;
  state: ElementState;
  note: string;
  weight: number;
  position: number;
}

export interface StudyRecord {
  id: string;
  title: string;
  addedAt: number;
  aspectWeights: Record<MixAspect, number>;
  reference: TrackRecord | null;
  /** Oldest first. */
  versions: TrackRecord[];
  /** In the producer's order. */
  elements: ElementRecord[];
}

/** Analyses of the files of a study, by file hash. */
export type AnalysesByFile = ReadonlyMap<string, TrackAnalysis>;
