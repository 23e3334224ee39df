/** The objects of a study as plain data, the same for database, pages and reports. */
import type { CoverageSpan } from "../align/coverage";
import type { EarlyFindings } from "../analysis/early";
import type { TrackAnalysis } from "../analysis/result";
import type { EqualiserCorrection } from "../equaliser/keptMoves";
import type { DrumCorrection } from "../drums/correction";
import type { AudioFormat } from "../formats/probe";
import type { GridCorrection } from "../grid/correction";
import type { IntendedChanges, MixAspect, StyleAspect } from "../match";
import type { HitCorrection } from "../hits/correction";
import type { BassCorrection } from "../lowEnd/correction";
import type { Mark } from "./document";
import type { LensPart } from "../lens/parts";
import type { PresenceCorrection } from "../lens/presenceCorrection";
import type { Refusal } from "../outcome";
import type { FormCorrection, HarmonyCorrection } from "../plan/trackPlan";
import type { Hertz, Seconds } from "../units";

/** How work stands: that of an analysis, or of what follows from it. */
export type JobState = "queued" | "running" | "done" | "failed" | "cancelled";

/** The analysis of a track's file as it stands. */
export interface JobRecord {
  state: JobState;
  /** What is being done, in words. */
  message: string;
  /** Share 0–1. */
  done: number;
  refusal: Refusal | null;
  /** What is known of the track while it is being analysed. */
  early?: EarlyFindings;
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
  tags: { title?: string; artist?: string; bpm?: number; key?: string };
}

/** What the producer has corrected of what was measured of an item. */
export interface Corrections {
  grid: GridCorrection;
  harmony: HarmonyCorrection;
  form: FormCorrection;
  drums: DrumCorrection;
  equaliser: EqualiserCorrection;
  hits: HitCorrection;
  bass: BassCorrection;
  presence: PresenceCorrection;
}

export const noCorrections: Corrections = {
  grid: {},
  harmony: {},
  form: {},
  drums: {},
  equaliser: {},
  hits: {},
  bass: {},
  presence: {},
};

export interface TrackRecord {
  id: string;
  corrections: Corrections;
  role: "reference" | "version";
  /** 0 for the reference, then in order of arrival; never given twice. */
  number: number;
  /** Of a version: where the producer has put it among the others, on the scale of their numbers; null where by its own. */
  place: number | null;
  fileName: string;
  note: string;
  /** Milliseconds since 1970. */
  addedAt: number;
  file: FileRecord;
  job: JobRecord;
  /** Coverage that the producer has set in place of what is found; null for the reference. */
  coverage: CoverageSpan[] | null;
  /** Marked by the producer as one to come back to. */
  starred: boolean;
  stems: StemRecord[];
}

/** An isolated part of a track. */
export interface StemRecord {
  id: string;
  corrections: Corrections;
  /** The element it is tied to, if any. */
  elementId: string | null;
  fileName: string;
  file: FileRecord;
  job: JobRecord;
  /** Where the stem begins in its track, as measured: positive where it must be moved to later. */
  measuredOffset: StemOffset | null;
  /** What the producer has set in its place, seconds. */
  offsetSeconds: Seconds | null;
}

/** A one-shot or loop that is offered for the drums of the study. */
export interface CandidateRecord {
  id: string;
  fileName: string;
  file: FileRecord;
  /** The analysis of a loop; of a one-shot there is none. */
  job: JobRecord;
  /** The drum of the reference that it was chosen for, as "kick-1"; null where for none. */
  chosenFor: string | null;
}

/** A track of the style, which the study's reference and versions are held against. */
export interface YardstickRecord {
  id: string;
  fileName: string;
  file: FileRecord;
  job: JobRecord;
}

/** Where a stem lies in its full track. */
export interface StemOffset {
  seconds: Seconds;
  /** How far the place found stands out, 0–1. */
  confidence: number;
}

export type ElementState = "not started" | "in work" | "close enough" | "done" | "left out";

export interface ElementRecord {
  id: string;
  name: string;
  /** The part that the lens lifts out for it; null where it is a frequency range of the mix alone. */
  lens: LensPart | null;
  fromHz: Hertz;
  toHz: Hertz;
  state: ElementState;
  note: string;
  weight: number;
  /** Score that is enough, 1–100; null where none is set. */
  target: number | null;
  /** Kept out of the lists; it counts all the same. */
  hidden: boolean;
}

export interface StudyRecord {
  id: string;
  title: string;
  addedAt: number;
  aspectWeights: Record<MixAspect, number>;
  intended: IntendedChanges;
  /** What the producer has said of what was to be done, by its key. */
  marks: Record<string, Mark>;
  /** Match that the producer wants to reach, 1–100; null where none is set. */
  target: number | null;
  /** Aspects in which versions are held against the yardstick instead of the reference. */
  styleAspects: StyleAspect[];
  /** Folder whose renders become versions by themselves; null where none is watched. */
  folder: string | null;
  /** Number of the version that stands in for the reference; null where none does. */
  standIn: number | null;
  reference: TrackRecord | null;
  /** Oldest first, or as the producer has put them. */
  versions: TrackRecord[];
  /** In the producer's order. */
  elements: ElementRecord[];
  /** Sounds that are offered for its drums, in the order of their arrival. */
  candidates: CandidateRecord[];
  /** Tracks of its style, in the order of their arrival. */
  yardstick: YardstickRecord[];
}

/** Analyses of the files of a study, by file hash. */
export type AnalysesByFile = ReadonlyMap<string, TrackAnalysis>;
