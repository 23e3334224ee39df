/** What requests may say: read by the routes, and described by the interface's own description. */
import { z } from "zod";
import { listeningPartOf } from "@/core/formats/chunks";
import { lensParts } from "@/core/lens/parts";
import { patchSchema } from "@/core/edits/patch";
import { fastestTyped, slowestTyped } from "@/core/grid/correction";
import { titleSchema } from "@/core/study";
import { reportParts, type ReportPart } from "@/models/report";
import { reportFormats } from "@/models/reportFiles";
import { drumFormats } from "../exports/drumFiles";
import { planFormats } from "../exports/planFiles";
import { itemRoles } from "../storage/schema";

/** A new study without a file. */
export const newStudySchema = z.object({ title: titleSchema });

/** How a file is called that a request brings; a name that ends in `.zip` is an archive of a study. */
export const uploadSchema = z.object({
  name: z.string().max(200).optional(),
  note: z.string().max(500).optional(),
});

/** What a file becomes in a study. */
export const addedItemSchema = z.object({
  role: z.enum(itemRoles),
  /** The track that a stem belongs to. */
  parent: z.string().max(64).optional(),
});

/** Edits of a study, each a patch of its document. */
export const editsSchema = z.object({
  edits: z
    .array(z.object({ label: z.string().trim().min(1).max(200), patch: patchSchema }))
    .min(1)
    .max(200),
});

/** Which edit is undone or redone: that of an id, else the newest. */
export const turnSchema = z.object({ id: z.number().int().min(1).nullable() });

const isPart = (name: string): name is ReportPart => reportParts.some((own) => own === name);

export const reportSchema = z.object({
  format: z.enum(reportFormats),
  version: z.coerce.number().int().positive().max(1e6).optional(),
  /** Bars of the reference, as 5-8. */
  bars: z.string().max(20).optional(),
  /** With commas between them. */
  parts: z
    .string()
    .max(200)
    .transform((list) => list.split(","))
    .pipe(z.array(z.string().refine(isPart)))
    .optional(),
});

/** Whose tracks are taken into a yardstick. */
export const takenTracksSchema = z.object({
  from: z.string().regex(/^[A-Za-z0-9]{1,64}$/, "this is no study"),
  what: z.enum(["reference", "yardstick"]),
});

export const planFileSchema = z.object({ format: z.enum(planFormats) });

export const drumFileSchema = z.object({
  format: z.enum(drumFormats),
  /** Bars of the track's own grid, as 5-8. */
  bars: z.string().max(20).optional(),
});

export const tempoSchema = z.object({ near: z.coerce.number().min(slowestTyped).max(fastestTyped) });

/** The drum that a candidate is to stand in for, and how it is tuned and shaped for it. */
export const placeSchema = z.object({
  track: z.string().min(1).max(64),
  hit: z.string().min(1).max(40),
  semitones: z.coerce.number().min(-24).max(24).default(0),
  decay: z.coerce.number().min(0.1).max(4).default(1),
});

/** A candidate's sound, as it is or for a drum, with another one laid over it. */
export const soundSchema = placeSchema.partial({ track: true, hit: true }).extend({
  layer: z.string().min(1).max(64).optional(),
  offset: z.coerce.number().min(-50).max(50).default(0),
  inverted: z.enum(["yes", "no"]).default("no"),
  gain: z.coerce.number().min(-60).max(24).default(0),
});

/** What the lens lifts out of a track, or all the rest, from the file's beginning or from bar 1. */
export const lensFileSchema = z.object({
  part: z.enum(lensParts),
  rest: z.enum(["yes", "no"]).default("no"),
  from: z.enum(["start", "bar1"]).default("start"),
});

/** A piece of a file's decoded samples. */
export const chunkSchema = z.object({
  chunk: z.coerce.number().int().min(0).max(100_000),
  part: z
    .string()
    .default("whole")
    .transform((name, context) => {
      const part = listeningPartOf(name);
      if (part === null) context.addIssue("There is no such part.");
      return part ?? z.NEVER;
    }),
});
