/** Shapes of what pages send; one schema a shape. */
import { z } from "zod";
import { mixAspects } from "@/core/match";
import { elementStates } from "@/server/schema";

const title = z.string().trim().min(1, "a study needs a name").max(120, "the name is too long");
const weight = z.number().min(0, "a weight cannot be negative").max(10, "a weight can be 10 at most");
const hertz = z
  .number()
  .min(10, "a frequency must be at least 10 Hz")
  .max(22000, "a frequency can be 22000 Hz at most");

export const newStudySchema = z.object({ title });

export const studyChangeSchema = z
  .object({ title, aspectWeights: z.record(z.enum(mixAspects), weight) })
  .partial();

export const trackChangeSchema = z.object({ note: z.string().trim().max(500, "the note is too long") });

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
