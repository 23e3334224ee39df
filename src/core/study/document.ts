/**
 * The part of a study that people edit, as one plain value: the log of edits keeps patches of it,
 * pages show it with what is still on its way, and the server checks it as a whole.
 */
import { z } from "zod";
import { intendedDifferenceSchema } from "../drums/compareDrums";
import { limits } from "../formats/limits";
import { drumCorrectionSchema } from "../drums/correction";
import { equaliserCorrectionSchema } from "../equaliser/keptMoves";
import { fastestTyped, gridCorrectionSchema, slowestTyped } from "../grid/correction";
import { lensParts } from "../lens/parts";
import { presenceCorrectionSchema } from "../lens/presenceCorrection";
import { hitCorrectionSchema } from "../hits/correction";
import { bassCorrectionSchema } from "../lowEnd/correction";
import { mixAspects, styleAspects } from "../match";
import { formCorrectionSchema, harmonyCorrectionSchema } from "../plan/trackPlan";
import { barRange, mostBeats } from "../ranges";
import {
  noCorrections,
  type CandidateRecord,
  type ElementRecord,
  type FileRecord,
  type StemRecord,
  type StudyRecord,
  type TrackRecord,
  type YardstickRecord,
} from "./records";

export const elementStates = ["not started", "in work", "close enough", "done", "left out"] as const;

export const titleSchema = z.string().trim().min(1, "a study needs a name").max(120, "the name is too long");
/** What an element may be at most. */
export const elementLimits = { nameLength: 60, noteLength: 500, weight: 10 } as const;
const weight = z
  .number()
  .min(0, "a weight cannot be negative")
  .max(elementLimits.weight, `a weight can be ${elementLimits.weight} at most`);
const hertz = z
  .number()
  .min(10, "a frequency must be at least 10 Hz")
  .max(22000, "a frequency can be 22000 Hz at most");
const target = z
  .number()
  .min(1, "a target must be at least 1")
  .max(100, "100 is the most that can be reached");
const note = z.string().trim().max(elementLimits.noteLength, "the note is too long");

export const elementSchema = z
  .object({
    name: z
      .string()
      .trim()
      .min(1, "an element needs a name")
      .max(elementLimits.nameLength, "the name is too long"),
    lens: z.enum(lensParts).nullable().default(null),
    fromHz: hertz,
    toHz: hertz,
    state: z.enum(elementStates),
    note,
    weight,
    // Archives and edits of before do not have these.
    target: target.nullable().default(null),
    hidden: z.boolean().default(false),
  })
  .refine((element) => element.fromHz < element.toHz, "the range must begin below where it ends");

const id = z.string().min(1).max(64);

export const coverageSpanSchema = z.object({
  referenceFirst: barRange,
  versionFirst: barRange,
  bars: z.number().int().min(1, "a span needs at least one bar").max(mostBeats),
});

/** Spans in the order of the version; no bar on either side is named twice. */
export const coverageSchema = z
  .array(coverageSpanSchema)
  .max(200)
  .refine((spans) => {
    const overlaps = (key: "referenceFirst" | "versionFirst") =>
      [...spans]
        .sort((a, b) => a[key] - b[key])
        .some((span, i, all) => i > 0 && all[i - 1]![key] + all[i - 1]!.bars > span[key]);
    return !overlaps("referenceFirst") && !overlaps("versionFirst");
  }, "a bar is named twice");

export const intendedSchema = z.object({
  bpm: z
    .number()
    .min(slowestTyped, `a tempo must be at least ${slowestTyped} BPM`)
    .max(fastestTyped, `a tempo can be ${fastestTyped} BPM at most`)
    .nullable(),
  semitones: z.number().int().min(-24, "24 semitones are the most").max(24, "24 semitones are the most"),
  drums: z.array(intendedDifferenceSchema).max(100).readonly().optional(),
});

/** Corrections of what was measured of an item. */
export const correctionSchemas = {
  grid: gridCorrectionSchema,
  harmony: harmonyCorrectionSchema,
  form: formCorrectionSchema,
  drums: drumCorrectionSchema,
  /** Of a version: the moves kept in place of those that are suggested. */
  equaliser: equaliserCorrectionSchema,
  /** Which strokes make a typical hit. */
  hits: hitCorrectionSchema,
  bass: bassCorrectionSchema,
  /** Where parts play, in place of what was heard. */
  presence: presenceCorrectionSchema.default({}),
} as const;

/** What can be edited of an audio item; fields that its role does not have are null or empty. */
export const itemEditsSchema = z.object({
  ...correctionSchemas,
  note,
  /** The element that a stem is tied to. */
  elementId: id.nullable(),
  /** Where the producer says that a stem begins in its track. */
  offsetSeconds: z.number().min(-1200).max(1200).nullable(),
  /** Coverage that the producer has set in place of what is found. */
  coverage: coverageSchema.nullable(),
  /** The drum that a candidate was chosen for. */
  chosenFor: z.string().min(1).max(40).nullable(),
  /** Of a version: marked as one to come back to. */
  starred: z.boolean(),
  /** Of a version: where it was put among the others. */
  place: z.number().min(-1e6).max(1e6).nullable().default(null),
  removed: z.boolean(),
});
export type ItemEdits = z.infer<typeof itemEditsSchema>;

export const markKinds = ["done", "not now", "intended"] as const;

/** Where something that is to be done shows: an aspect of the mix, a range of its spectrum, an element, or its peaks. */
export const placeSchema = z.union([
  z.object({ kind: z.literal("aspect"), aspect: z.enum(mixAspects) }),
  z.object({
    kind: z.literal("range"),
    fromHz: z.number().min(0).max(1e5),
    toHz: z.number().min(0).max(1e5),
  }),
  z.object({ kind: z.literal("element"), elementId: id }),
  z.object({ kind: z.literal("peak") }),
]);

/** What the producer says of something that was to be done. */
export const markSchema = z.object({
  mark: z.enum(markKinds),
  /** As it was listed. */
  title: z.string().min(1).max(200),
  /** Points of the match that it was worth; null for warnings. */
  points: z.number().min(0).max(100).nullable(),
  place: placeSchema,
  /** Number of the version that it was listed for. */
  version: z.number().int().min(1).max(1e6),
});
export type Mark = z.infer<typeof markSchema>;

export const studyEditsSchema = z.object({
  title: titleSchema,
  aspectWeights: z.record(z.enum(mixAspects), weight),
  intended: intendedSchema,
  target: target.nullable(),
  /** By the key of what was listed. */
  marks: z
    .record(z.string().min(1).max(120), markSchema)
    .refine((marks) => Object.keys(marks).length <= 500, "too much is set aside"),
  /** Aspects in which versions are held against the yardstick instead of the reference. */
  styleAspects: z
    .array(z.enum(styleAspects))
    .max(styleAspects.length)
    .refine((own) => new Set(own).size === own.length, "an aspect is named twice")
    // Archives of before do not have it.
    .default([]),
  /** Whether it may be watched is asked when it is looked into: it can change under way. */
  folder: z.string().trim().min(1, "a folder needs a path").max(1000, "the path is too long").nullable(),
  removed: z.boolean(),
});

export const studyDocumentSchema = z
  .object({
    study: studyEditsSchema,
    /** By id; which of them are shown, and in which order, says `elementOrder`. */
    elements: z.record(id, elementSchema),
    elementOrder: z.array(id).max(200),
    /** By id. */
    items: z.record(id, itemEditsSchema),
  })
  .refine(
    ({ elements, elementOrder }) =>
      new Set(elementOrder).size === elementOrder.length &&
      elementOrder.every((own) => Object.hasOwn(elements, own)),
    "an element is named twice or not known",
  )
  .refine(({ elements }) => Object.keys(elements).length <= 1000, "a study holds at most 1000 elements");

export type StudyDocument = z.infer<typeof studyDocumentSchema>;

/** Whether a candidate is analysed like a track, to see whether it is a loop. */
export const mayBeLoop = ({ durationSeconds }: Pick<FileRecord, "durationSeconds">): boolean =>
  durationSeconds >= limits.shortestLoopSeconds;

/** Anything with a file in a study. */
export type ItemRecord = TrackRecord | StemRecord | CandidateRecord | YardstickRecord;

export const editsOfItem = (item: ItemRecord): ItemEdits => ({
  ...("corrections" in item ? item.corrections : noCorrections),
  note: "note" in item ? item.note : "",
  elementId: "elementId" in item ? item.elementId : null,
  offsetSeconds: "offsetSeconds" in item ? item.offsetSeconds : null,
  coverage: "coverage" in item ? item.coverage : null,
  chosenFor: "chosenFor" in item ? item.chosenFor : null,
  starred: "starred" in item && item.starred,
  place: "place" in item ? item.place : null,
  removed: false,
});

const placeOf = ({ number, place }: Pick<TrackRecord, "number" | "place">): number => place ?? number;

/** Versions as the producer has put them: by their numbers where nothing was said. */
export const inOrder = <T extends Pick<TrackRecord, "number" | "place">>(versions: readonly T[]): T[] =>
  [...versions].sort((a, b) => placeOf(a) - placeOf(b) || a.number - b.number);

/**
 * The place that puts a version before the one ahead of it, or behind the one after it.
 *
 * @param versions in their order.
 * @returns null at the end, where it cannot go further.
 */
export function movedPlace(
  versions: readonly Pick<TrackRecord, "id" | "number" | "place">[],
  id: string,
  by: -1 | 1,
): number | null {
  const at = versions.findIndex((own) => own.id === id);
  const passed = at < 0 ? undefined : versions[at + by];
  if (!passed) return null;
  const beyond = versions[at + 2 * by];
  return beyond ? (placeOf(passed) + placeOf(beyond)) / 2 : placeOf(passed) + by;
}

/** Tracks of a study, the reference first. */
export const tracksOf = (study: Pick<StudyRecord, "reference" | "versions">): TrackRecord[] => [
  ...(study.reference ? [study.reference] : []),
  ...study.versions,
];

/** Tracks and stems of a study. */
export const itemsOf = (study: Pick<StudyRecord, "reference" | "versions">): (TrackRecord | StemRecord)[] =>
  tracksOf(study).flatMap((track) => [track, ...track.stems]);

/** What can be edited of a study as it stands. */
export function documentOf(study: StudyRecord): StudyDocument {
  const { title, aspectWeights, intended, marks, target, styleAspects: inStyle, folder } = study;
  return {
    study: {
      title,
      aspectWeights,
      intended: { ...intended, drums: [...(intended.drums ?? [])] },
      marks,
      target,
      styleAspects: inStyle,
      folder,
      removed: false,
    },
    elements: Object.fromEntries(study.elements.map(({ id: own, ...element }) => [own, element])),
    elementOrder: study.elements.map(({ id: own }) => own),
    items: Object.fromEntries(
      [...itemsOf(study), ...study.candidates, ...study.yardstick].map((item) => [
        item.id,
        editsOfItem(item),
      ]),
    ),
  };
}

/** A study with a changed document; items that the document removes are left out. */
export function withDocument(study: StudyRecord, document: StudyDocument): StudyRecord {
  const isKept = ({ id: own }: { id: string }) => document.items[own]?.removed !== true;
  const correctionsOf = ({ grid, harmony, form, drums, equaliser, hits, bass, presence }: ItemEdits) => ({
    grid,
    harmony,
    form,
    drums,
    equaliser,
    hits,
    bass,
    presence,
  });
  const stem = (own: StemRecord): StemRecord => {
    const edits = document.items[own.id];
    return edits
      ? {
          ...own,
          corrections: correctionsOf(edits),
          elementId: edits.elementId,
          offsetSeconds: edits.offsetSeconds,
        }
      : own;
  };
  const track = (own: TrackRecord): TrackRecord => {
    const edits = document.items[own.id];
    const stems = own.stems.filter(isKept).map(stem);
    return edits
      ? {
          ...own,
          corrections: correctionsOf(edits),
          note: edits.note,
          coverage: edits.coverage,
          starred: edits.starred,
          place: edits.place,
          stems,
        }
      : { ...own, stems };
  };
  return {
    ...study,
    title: document.study.title,
    aspectWeights: document.study.aspectWeights,
    intended: document.study.intended,
    marks: document.study.marks,
    target: document.study.target,
    styleAspects: document.study.styleAspects,
    folder: document.study.folder,
    elements: document.elementOrder.flatMap((own): ElementRecord[] => {
      const element = document.elements[own];
      return element ? [{ id: own, ...element }] : [];
    }),
    reference: study.reference && isKept(study.reference) ? track(study.reference) : null,
    versions: inOrder(study.versions.filter(isKept).map(track)),
    yardstick: study.yardstick.filter(isKept),
    candidates: study.candidates
      .filter(isKept)
      .map((own) => ({ ...own, chosenFor: document.items[own.id]?.chosenFor ?? null })),
  };
}
