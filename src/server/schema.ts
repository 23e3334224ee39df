/** Everything but the audio files themselves, which lie in the data folder under their hash. */
import { sql } from "drizzle-orm";
import {
  blob,
  index,
  integer,
  primaryKey,
  real,
  sqliteTable,
  text,
  uniqueIndex,
} from "drizzle-orm/sqlite-core";
import type { CoverageSpan } from "@/core/align/coverage";
import type { TrackAnalysis } from "@/core/analysis/result";
import type { DrumCorrection } from "@/core/drums/correction";
import type { AudioFormat } from "@/core/formats/probe";
import type { GridCorrection } from "@/core/grid/correction";
import type { IntendedChanges, MixAspect } from "@/core/match";
import type { Refusal } from "@/core/outcome";
import type { FormCorrection, HarmonyCorrection, TrackPlan } from "@/core/plan";
import type { StemOffset } from "@/core/study";
import type { Claims } from "./claims";

const createdAt = () =>
  integer("created_at")
    .notNull()
    .default(sql`(unixepoch('subsec') * 1000)`);

/** An audio file as it was brought, kept byte for byte under the SHA-256 of its bytes. */
export const files = sqliteTable("files", {
  hash: text("hash").primaryKey(),
  bytes: integer("bytes").notNull(),
  format: text("format").$type<AudioFormat>().notNull(),
  durationSeconds: real("duration_seconds").notNull(),
  sampleRate: integer("sample_rate").notNull(),
  channels: integer("channels").notNull(),
  /** Plain sentences about what was missing or repaired. */
  warnings: text("warnings", { mode: "json" }).$type<string[]>().notNull(),
  /** What the file's tags say; never used as a measurement. */
  claims: text("claims", { mode: "json" }).$type<Claims>().notNull(),
  createdAt: createdAt(),
});

export const studies = sqliteTable("studies", {
  id: text("id").primaryKey(),
  title: text("title").notNull(),
  /** Aspects that a later step adds are missing here and have their usual weight. */
  aspectWeights: text("aspect_weights", { mode: "json" })
    .$type<Partial<Record<MixAspect, number>>>()
    .notNull(),
  /** Differences that are wanted; null where nothing was said. */
  intended: text("intended", { mode: "json" }).$type<IntendedChanges>(),
  createdAt: createdAt(),
});

/** A reference or a version: a file's place in a study. The reference has number 0. */
export const tracks = sqliteTable(
  "tracks",
  {
    id: text("id").primaryKey(),
    studyId: text("study_id")
      .notNull()
      .references(() => studies.id, { onDelete: "cascade" }),
    role: text("role", { enum: ["reference", "version"] }).notNull(),
    number: integer("number").notNull(),
    fileHash: text("file_hash")
      .notNull()
      .references(() => files.hash),
    fileName: text("file_name").notNull(),
    note: text("note").notNull().default(""),
    /** Coverage that the producer has set in place of what is found. */
    coverage: text("coverage", { mode: "json" }).$type<CoverageSpan[]>(),
    createdAt: createdAt(),
  },
  (table) => [
    uniqueIndex("tracks_number").on(table.studyId, table.number),
    index("tracks_file").on(table.fileHash),
  ],
);

/** An isolated part of a track. */
export const stems = sqliteTable(
  "stems",
  {
    id: text("id").primaryKey(),
    trackId: text("track_id")
      .notNull()
      .references(() => tracks.id, { onDelete: "cascade" }),
    elementId: text("element_id"),
    fileHash: text("file_hash")
      .notNull()
      .references(() => files.hash),
    fileName: text("file_name").notNull(),
    /** Where it lies in its track, as measured from the two files. */
    measuredOffset: text("measured_offset", { mode: "json" }).$type<StemOffset>(),
    /** What the producer has set in its place, seconds. */
    offsetSeconds: real("offset_seconds"),
    createdAt: createdAt(),
  },
  (table) => [index("stems_track").on(table.trackId), index("stems_file").on(table.fileHash)],
);

/** Corrections of the grid of a track or stem, oldest first: the newest counts, undoing removes it. */
export const gridCorrections = sqliteTable(
  "grid_corrections",
  {
    id: integer("id").primaryKey({ autoIncrement: true }),
    /** A track or a stem. */
    placeId: text("place_id").notNull(),
    correction: text("correction", { mode: "json" }).$type<GridCorrection>().notNull(),
    createdAt: createdAt(),
  },
  (table) => [index("grid_corrections_place").on(table.placeId)],
);

/** Corrections of chords, sections and drums of a track or stem, as those of the grid are kept. */
export const planCorrections = sqliteTable(
  "plan_corrections",
  {
    id: integer("id").primaryKey({ autoIncrement: true }),
    /** A track or a stem. */
    placeId: text("place_id").notNull(),
    subject: text("subject", { enum: ["harmony", "form", "drums"] }).notNull(),
    correction: text("correction", { mode: "json" })
      .$type<HarmonyCorrection | FormCorrection | DrumCorrection>()
      .notNull(),
    createdAt: createdAt(),
  },
  (table) => [index("plan_corrections_place").on(table.placeId)],
);

/** Plans of tracks and stems whose grid was corrected; those on the measured grid stand in the analysis. */
export const plans = sqliteTable("plans", {
  /** A track or a stem. */
  placeId: text("place_id").primaryKey(),
  /** Stands for everything that the plan depends on; another key makes it out of date. */
  key: text("key").notNull(),
  plan: text("plan", { mode: "json" }).$type<TrackPlan>().notNull(),
  createdAt: createdAt(),
});

/** How each version lies along its reference, and what is measured over the bars that answer. */
export const linedUp = sqliteTable("lined_up", {
  trackId: text("track_id")
    .primaryKey()
    .references(() => tracks.id, { onDelete: "cascade" }),
  /** Stands for everything that the result depends on; another key makes it out of date. */
  key: text("key").notNull(),
  result: text("result", { mode: "json" }).$type<unknown>().notNull(),
  createdAt: createdAt(),
});

/** Numbers of the newest analysis of a file. */
export const analyses = sqliteTable("analyses", {
  fileHash: text("file_hash")
    .primaryKey()
    .references(() => files.hash, { onDelete: "cascade" }),
  analysisVersion: integer("analysis_version").notNull(),
  summary: text("summary", { mode: "json" }).$type<TrackAnalysis>().notNull(),
  createdAt: createdAt(),
});

/** Long curves of the newest analysis of a file, as typed arrays. */
export const curves = sqliteTable(
  "curves",
  {
    fileHash: text("file_hash")
      .notNull()
      .references(() => files.hash, { onDelete: "cascade" }),
    name: text("name").notNull(),
    /** Type of the elements and what else is needed to read them. */
    kind: text("kind", { enum: ["float32", "uint8"] }).notNull(),
    /** Steps a second, or seconds a step, as the curve's reader knows. */
    rate: real("rate").notNull(),
    data: blob("data", { mode: "buffer" }).notNull(),
  },
  (table) => [primaryKey({ columns: [table.fileHash, table.name] })],
);

export const jobStates = ["queued", "running", "done", "failed", "cancelled"] as const;
export type JobState = (typeof jobStates)[number];

/** The analysis of one file: waiting, running or ended. */
export const jobs = sqliteTable("jobs", {
  fileHash: text("file_hash")
    .primaryKey()
    .references(() => files.hash, { onDelete: "cascade" }),
  state: text("state", { enum: jobStates }).notNull(),
  refusal: text("refusal", { mode: "json" }).$type<Refusal>(),
  createdAt: createdAt(),
});

export const elementStates = ["not started", "in work", "close enough", "done", "left out"] as const;
export type ElementState = (typeof elementStates)[number];

/** Something the producer tracks on its own, heard through a frequency range. */
export const elements = sqliteTable(
  "elements",
  {
    id: text("id").primaryKey(),
    studyId: text("study_id")
      .notNull()
      .references(() => studies.id, { onDelete: "cascade" }),
    name: text("name").notNull(),
    fromHz: real("from_hz").notNull(),
    toHz: real("to_hz").notNull(),
    state: text("state", { enum: elementStates }).notNull().default("not started"),
    note: text("note").notNull().default(""),
    weight: real("weight").notNull(),
    position: real("position").notNull(),
  },
  (table) => [index("elements_study").on(table.studyId)],
);
