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
import type { TrackAnalysis } from "@/core/analysis/result";
import type { AudioFormat } from "@/core/formats/probe";
import type { MixAspect } from "@/core/match";
import type { Refusal } from "@/core/outcome";
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
  /** Whether browsers play the file as it is; else a copy is made for them. */
  playsInBrowsers: integer("plays_in_browsers", { mode: "boolean" }).notNull(),
  /** What the file's tags say; never used as a measurement. */
  claims: text("claims", { mode: "json" }).$type<Claims>().notNull(),
  createdAt: createdAt(),
});

export const studies = sqliteTable("studies", {
  id: text("id").primaryKey(),
  title: text("title").notNull(),
  aspectWeights: text("aspect_weights", { mode: "json" }).$type<Record<MixAspect, number>>().notNull(),
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
    createdAt: createdAt(),
  },
  (table) => [
    uniqueIndex("tracks_number").on(table.studyId, table.number),
    index("tracks_file").on(table.fileHash),
  ],
);

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
