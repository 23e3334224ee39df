/** The plan of a track: key, chords, sections, and what a producer has put right of them. */
import { z } from "zod";
import {
  harmonyEstimateSchema,
  keySchema,
  placedChordSchema,
  type HarmonyEstimate,
  type PlacedChord,
} from "../harmony/harmonyEstimate";
import type { Key } from "../harmony/keys";
import {
  formEstimateSchema,
  placedSectionSchema,
  presenceGroups,
  type FormEstimate,
} from "../sections/formEstimate";

/** Raise it whenever the same curves and grid can give another plan. */
export const planVersion = 1;

export const trackPlanSchema = z.object({
  harmony: harmonyEstimateSchema,
  /** Null where there is no grid. */
  form: formEstimateSchema.nullable(),
});

/** As detected. Positions are beats and bars of the grid that it was measured on. */
export interface TrackPlan {
  harmony: HarmonyEstimate;
  form: FormEstimate | null;
}

/** A section as it counts, with what was said by hand of who plays in it. */
export const countedSectionSchema = placedSectionSchema.extend({
  presence: z.partialRecord(z.enum(presenceGroups), z.boolean()).optional(),
});
export type CountedSection = z.infer<typeof countedSectionSchema>;

/** More than a chord a beat in twenty minutes of the fastest music. */
const mostItems = 5000;

const inOrder = <T>(items: readonly T[], start: (item: T) => number, end: (item: T) => number): boolean =>
  items.every((item, i) => end(item) > start(item) && (i === 0 || start(item) >= end(items[i - 1]!) - 1e-6));

/** What was put right of the harmony; what is missing is as measured. */
export const harmonyCorrectionSchema = z.object({
  key: keySchema.optional(),
  chords: z
    .array(placedChordSchema)
    .max(mostItems)
    .refine(
      (chords) =>
        inOrder(
          chords,
          ({ startBeat }) => startBeat,
          ({ endBeat }) => endBeat,
        ),
      "chords must follow one another",
    )
    .optional(),
});
export type HarmonyCorrection = z.infer<typeof harmonyCorrectionSchema>;

/** What was put right of the sections; what is missing is as measured. */
export const formCorrectionSchema = z.object({
  sections: z
    .array(countedSectionSchema)
    .max(mostItems)
    .refine(
      (sections) =>
        inOrder(
          sections,
          ({ firstBar }) => firstBar,
          ({ lastBar }) => lastBar + 1,
        ),
      "sections must follow one another",
    )
    .optional(),
});
export type FormCorrection = z.infer<typeof formCorrectionSchema>;

/** A plan as it counts: measured, with corrections over it. */
export interface CountedPlan {
  measured: TrackPlan;
  key: Key | null;
  chords: PlacedChord[];
  sections: CountedSection[];
}

export const countedPlan = (
  measured: TrackPlan,
  harmony: HarmonyCorrection = {},
  form: FormCorrection = {},
): CountedPlan => ({
  measured,
  key: harmony.key ?? measured.harmony.key?.options[0]?.key ?? null,
  chords: harmony.chords ?? measured.harmony.chords,
  sections: form.sections ?? measured.form?.sections ?? [],
});
