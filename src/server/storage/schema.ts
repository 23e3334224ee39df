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
  type AnySQLiteColumn,
} from "drizzle-orm/sqlite-core";
import type { Patch } from "@/core/edits/patch";
import type { AudioFormat } from "@/core/formats/probe";
import { lensParts } from "@/core/lens/parts";
import type { MixAspect } from "@/core/match";
import type { Refusal } from "@/core/outcome";
import { elementStates } from "@/core/study/document";

const createdAt = () =>
  integer("created_at")
    .notNull()
    .default(sql`(unixepoch('subsec') * 1000)`);

/** An audio file as it was uploaded, kept byte for byte under the SHA-256 of its bytes. */
export const files = sqliteTable("files", {
  hash: text("hash").primaryKey(),
  bytes: integer("bytes").notNull(),
  format: text("format").$type<AudioFormat>().notNull(),
  durationSeconds: real("duration_seconds").notNull(),
  sampleRate: integer("sample_rate").notNull(),
  channels: integer("channels").notNull(),
  /** Plain sentences about what was missing, repaired or folded. */
  warnings: text("warnings", { mode: "json" }).$type<unknown>().notNull(),
  /** What the file's tags say; never used as a measurement. */
  tags: text("tags", { mode: "json" }).$type<unknown>().notNull(),
  createdAt: createdAt(),
});

export const studies = sqliteTable("studies", {
  id: text("id").primaryKey(),
  title: text("title").notNull(),
  /** Aspects that a later step adds are missing here and have their usual weight. */
  aspectWeights: text("aspect_weights", { mode: "json" })
    .$type<Partial<Record<MixAspect, number>>>()
    .notNull(),
  /** Differences that are intended; null where nothing was said. */
  intended: text("intended", { mode: "json" }).$type<unknown>(),
  /** What was said of what is to be done; null where nothing was. */
  marks: text("marks", { mode: "json" }).$type<unknown>(),
  /** Match that is to be reached; null where none is set. */
  target: real("target"),
  /** Aspects that are held against the yardstick; null where none is. */
  styleAspects: text("style_aspects", { mode: "json" }).$type<unknown>(),
  /** Folder whose renders become versions by themselves. */
  folder: text("folder"),
  /** When the study was deleted; it can be brought back until it is cleared away. */
  removedAt: integer("removed_at"),
  /** Number of the next version; numbers are never given twice. */
  nextNumber: integer("next_number").notNull().default(1),
  /** Counts edits, undos and redos. */
  sequence: integer("sequence").notNull().default(0),
  /** What the list of studies shows, written whenever something of it changes. */
  summary: text("summary", { mode: "json" }).$type<unknown>(),
  createdAt: createdAt(),
});

/** Something the producer tracks on its own, heard through a frequency range. */
export const elements = sqliteTable(
  "elements",
  {
    id: text("id").primaryKey(),
    studyId: text("study_id")
      .notNull()
      .references(() => studies.id, { onDelete: "cascade" }),
    name: text("name").notNull(),
    /** The part that the lens lifts out for it; none for a frequency range of the mix. */
    lens: text("lens", { enum: lensParts }),
    fromHz: real("from_hz").notNull(),
    toHz: real("to_hz").notNull(),
    state: text("state", { enum: elementStates }).notNull().default("not started"),
    note: text("note").notNull().default(""),
    weight: real("weight").notNull(),
    target: real("target"),
    hidden: integer("hidden", { mode: "boolean" }).notNull().default(false),
    position: real("position").notNull(),
    removedAt: integer("removed_at"),
  },
  (table) => [index("elements_study").on(table.studyId)],
);

export const itemRoles = ["reference", "version", "stem", "candidate", "yardstick"] as const;

/** An audio item: a file's part in a study. */
export const items = sqliteTable(
  "items",
  {
    id: text("id").primaryKey(),
    studyId: text("study_id")
      .notNull()
      .references(() => studies.id, { onDelete: "cascade" }),
    role: text("role", { enum: itemRoles }).notNull(),
    /** The track that a stem belongs to. */
    parentId: text("parent_id").references((): AnySQLiteColumn => items.id, { onDelete: "cascade" }),
    /** 0 for the reference, then in order of arrival; null for stems. */
    number: integer("number"),
    fileHash: text("file_hash")
      .notNull()
      .references(() => files.hash),
    fileName: text("file_name").notNull(),
    note: text("note").notNull().default(""),
    elementId: text("element_id").references(() => elements.id, { onDelete: "set null" }),
    /** Coverage that the producer has set in place of what is found. */
    coverage: text("coverage", { mode: "json" }).$type<unknown>(),
    /** Where a stem lies in its track, as measured from the two files. */
    measuredOffset: text("measured_offset", { mode: "json" }).$type<unknown>(),
    /** What the producer has set in its place, seconds. */
    offsetSeconds: real("offset_seconds"),
    /** The drum of the reference that a candidate was chosen for. */
    chosenFor: text("chosen_for"),
    /** Of a version: marked as one to come back to. */
    starred: integer("starred", { mode: "boolean" }).notNull().default(false),
    /** Where a version was put among the others, on the scale of their numbers; null where it was not. */
    place: real("place"),
    /** When it was removed; it can be brought back until it is cleared away. */
    removedAt: integer("removed_at"),
    createdAt: createdAt(),
  },
  (table) => [
    index("items_study").on(table.studyId),
    index("items_parent").on(table.parentId),
    index("items_file").on(table.fileHash),
  ],
);

/** What of a study's watched folder has been seen: it belongs to one path, and begins anew with another. */
export const watches = sqliteTable("watches", {
  studyId: text("study_id")
    .primaryKey()
    .references(() => studies.id, { onDelete: "cascade" }),
  folder: text("folder").notNull(),
  /** By file name: its size and when it was changed, as it was there before or became a version. */
  seen: text("seen", { mode: "json" }).$type<unknown>().notNull(),
});

export const correctionSubjects = [
  "grid",
  "harmony",
  "form",
  "drums",
  "equaliser",
  "hits",
  "bass",
  "presence",
] as const;

/** What the producer has corrected of what was measured of an item: the corrections as they stand. */
export const corrections = sqliteTable(
  "corrections",
  {
    itemId: text("item_id")
      .notNull()
      .references(() => items.id, { onDelete: "cascade" }),
    subject: text("subject", { enum: correctionSubjects }).notNull(),
    value: text("value", { mode: "json" }).$type<unknown>().notNull(),
  },
  (table) => [primaryKey({ columns: [table.itemId, table.subject] })],
);

/** The log of edits of a study: each with its patch, from which its inverse follows. */
export const edits = sqliteTable(
  "edits",
  {
    id: integer("id").primaryKey({ autoIncrement: true }),
    studyId: text("study_id")
      .notNull()
      .references(() => studies.id, { onDelete: "cascade" }),
    /** What was done, in words. */
    label: text("label").notNull(),
    patch: text("patch", { mode: "json" }).$type<Patch>().notNull(),
    /** The study's count when the edit was made, and when it was undone. */
    sequence: integer("sequence").notNull(),
    undoneSequence: integer("undone_sequence"),
    createdAt: createdAt(),
  },
  (table) => [index("edits_study").on(table.studyId, table.sequence)],
);

/** Numbers of the newest analysis of a file. */
export const analyses = sqliteTable("analyses", {
  fileHash: text("file_hash")
    .primaryKey()
    .references(() => files.hash, { onDelete: "cascade" }),
  analysisVersion: integer("analysis_version").notNull(),
  summary: text("summary", { mode: "json" }).$type<unknown>().notNull(),
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
    /** Steps a second; 0 where the curve's reader knows. */
    rate: real("rate").notNull(),
    data: blob("data", { mode: "buffer" }).notNull(),
  },
  (table) => [primaryKey({ columns: [table.fileHash, table.name] })],
);

/** A result that belongs to an item, with the key of all that it depends on: another key makes it out of date. */
const derived = () => ({
  itemId: text("item_id")
    .notNull()
    .references(() => items.id, { onDelete: "cascade" }),
  /** The version that it is held against; empty where it is the reference of the study. */
  against: text("against").notNull().default(""),
  key: text("key").notNull(),
  result: text("result", { mode: "json" }).$type<unknown>().notNull(),
  createdAt: createdAt(),
});

const onePerPair = (table: { itemId: AnySQLiteColumn; against: AnySQLiteColumn }) => [
  primaryKey({ columns: [table.itemId, table.against] }),
];

/** Plans of items whose grid was corrected; those on the measured grid stand in the analysis. */
export const plans = sqliteTable("plans", derived(), onePerPair);
/** How each version lies along its reference, and what is measured over the bars that answer. */
export const alignments = sqliteTable("alignments", derived(), onePerPair);
/** What chords, sections and drums of each version have in common with its reference. */
export const comparisons = sqliteTable("comparisons", derived(), onePerPair);

/** What the lens has lifted out of each version and its reference, over the bars that answer. */
export const lenses = sqliteTable("lenses", derived(), onePerPair);

/** How the stems of each track add up to it. */
export const stemSums = sqliteTable("stem_sums", derived(), onePerPair);

/** What is kept of the parts of a file that the lens has taken apart. */
export const lifts = sqliteTable("lifts", {
  fileHash: text("file_hash")
    .primaryKey()
    .references(() => files.hash, { onDelete: "cascade" }),
  key: text("key").notNull(),
  /** How free each part stands, and the shape of the powers. */
  result: text("result", { mode: "json" }).$type<unknown>().notNull(),
  /** Of each part in order powers by band over time and levels, as single-precision floats. */
  powers: blob("powers", { mode: "buffer" }).notNull(),
  createdAt: createdAt(),
});

export const jobKinds = [
  "analyse",
  "render",
  "placeStem",
  "sumStems",
  "plan",
  "align",
  "compare",
  "lift",
  "lens",
] as const;
export type JobKind = (typeof jobKinds)[number];
export const jobStates = ["queued", "running", "done", "failed", "cancelled"] as const;
export type JobState = (typeof jobStates)[number];

/** Work that is waiting, running or ended: one row for each kind and what it is about. */
export const jobs = sqliteTable(
  "jobs",
  {
    id: integer("id").primaryKey({ autoIncrement: true }),
    kind: text("kind", { enum: jobKinds }).notNull(),
    /** The hash of a file, the id of an item, or two ids: see `pairSubject`. */
    subject: text("subject").notNull(),
    /** Stands for all that goes in; with another key the job is to be done anew. */
    key: text("key").notNull(),
    state: text("state", { enum: jobStates }).notNull(),
    attempts: integer("attempts").notNull().default(0),
    refusal: text("refusal", { mode: "json" }).$type<Refusal>(),
    createdAt: createdAt(),
  },
  (table) => [uniqueIndex("jobs_subject").on(table.kind, table.subject), index("jobs_state").on(table.state)],
);
