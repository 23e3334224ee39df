/** Shapes of what pages send; one schema a shape. */
import { z } from "zod";
import { meantDifferenceSchema } from "@/core/drums";
import { fastestTyped, gridCorrectionSchema, slowestTyped } from "@/core/grid/correction";
import { mixAspects } from "@/core/match";
import { coverageSpanSchema } from "@/core/study";
import { elementStates } from "@/server/schema";

const title = z.string().trim().min(1, "a study needs a name").max(120, "the name is too long");
const weight = z.number().min(0, "a weight cannot be negative").max(10, "a weight can be 10 at most");
const hertz = z
  .number()
  .min(10, "a frequency must be at least 10 Hz")
  .max(22000, "a frequency can be 22000 Hz at most");

export const newStudySchema = z.object({ title });

export const studyChangeSchema = z
  .object({
    title,
    aspectWeights: z.partialRecord(z.enum(mixAspects), weight),
    intended: z.object({
      bpm: z
        .number()
        .min(slowestTyped, `a tempo must be at least ${slowestTyped} BPM`)
        .max(fastestTyped, `a tempo can be ${fastestTyped} BPM at most`)
        .nullable(),
      semitones: z.number().int().min(-24, "24 semitones are the most").max(24, "24 semitones are the most"),
      drums: z.array(meantDifferenceSchema).max(100).optional(),
    }),
  })
  .partial();

/** Spans in the order of the version; no bar on either side is named twice. */
const coverage = z
  .array(coverageSpanSchema)
  .max(200)
  .refine((spans) => {
    const overlaps = (key: "referenceFirst" | "versionFirst") =>
      [...spans]
        .sort((a, b) => a[key] - b[key])
        .some((span, i, all) => i > 0 && all[i - 1]![key] + all[i - 1]!.bars > span[key]);
    return !overlaps("referenceFirst") && !overlaps("versionFirst");
  }, "a bar is named twice");

export const trackChangeSchema = z
  .object({
    note: z.string().trim().max(500, "the note is too long"),
    coverage: coverage.nullable(),
  })
  .partial();

export const correctionSchema = z.object({
  correction: gridCorrectionSchema,
  /** Whether the tempo was tapped and is to be sharpened by what is heard. */
  tapped: z.boolean().default(false),
});

export const stemChangeSchema = z
  .object({
    elementId: z.string().nullable(),
    offsetSeconds: z.number().min(-1200).max(1200).nullable(),
  })
  .partial();

const elementFields = z.object({
  name: z.string().trim().min(1, "an element needs a name").max(60, "the name is too long"),
  fromHz: hertz,
  toHz: hertz,
  state: z.enum(elementStates),
  note: z.string().trim().max(500, "the note is too long"),
  weight,
});

export const elementChangeSchema = elementFields.partial();

export const newElementSchema = elementFields
  .partial({ state: true, note: true, weight: true })
  .extend({ position: z.number().optional() })
  .refine((element) => element.fromHz < element.toHz, "the range must begin below where it ends");

export const elementOrderSchema = z.object({ order: z.array(z.string()).max(200) });
