/** Stores and loads what follows from analyses and corrections: plans, alignments, comparisons. */
import { and, eq, inArray } from "drizzle-orm";
import { LRUCache } from "lru-cache";
import { z } from "zod";
import { envelopeMeasuresSchema } from "@/core/envelopes";
import { loudnessSchema } from "@/core/analysis/result";
import {
  storedComparisonSchema,
  storedStemSumSchema,
  type StoredAlignment,
  type StoredComparison,
  type StoredLens,
  type StoredStemSum,
} from "@/core/study";
import { coverageSpanSchema } from "@/core/study/document";
import { trackPlanSchema, type TrackPlan } from "@/core/plan";
import { lensParts, ofDrumParts, ofLensParts, type LensMeasures } from "@/core/lens";
import { toneInBarsSchema } from "@/core/lens/toneInBars";
import {
  barRange,
  bpmRange,
  crossPowerRange,
  decibelRange,
  fractionRange,
  hertzRange,
  mostBeats,
  powerRange,
} from "@/core/ranges";
import { twelfthCount, type Spectrum } from "@/core/tone";
import type { Database } from "./database";
import { alignments, comparisons, lenses, plans, stemSums } from "./schema";

const powers = z
  .array(powerRange)
  .length(twelfthCount)
  .transform((list) => Float32Array.from(list));

const crossPowers = z
  .array(crossPowerRange)
  .length(twelfthCount)
  .transform((list) => Float32Array.from(list));

const spectrumSchema = z.object({ mid: powers, side: powers, cross: crossPowers });

const measuresSchema = z.object({
  bpm: bpmRange.nullable(),
  loudness: loudnessSchema,
  spectrum: spectrumSchema,
  envelopes: envelopeMeasuresSchema,
});

const alignmentSchema = z.object({
  alignment: z
    .object({
      spans: z.array(coverageSpanSchema).max(mostBeats),
      reading: z.object({
        factor: z.number().min(0.1).max(10),
        shift: z.number().min(-10).max(10),
        firstBeat: z.number().min(-mostBeats).max(mostBeats),
      }),
      semitones: z.number().int().min(-12).max(12).nullable(),
      agreement: fractionRange,
      harmony: fractionRange.nullable(),
      related: fractionRange,
    })
    .nullable(),
  measures: z.object({ reference: measuresSchema, version: measuresSchema }),
});

/** Typed arrays become lists in the database, as exact as they need be. */
const listed = (powers: Float32Array): number[] =>
  Array.from(powers, (power) => Number(power.toPrecision(5)));
const listedSpectrum = ({ mid, side, cross }: Spectrum) => ({
  mid: listed(mid),
  side: listed(side),
  cross: listed(cross),
});

const storedAlignment = ({ alignment, measures }: StoredAlignment) => ({
  alignment,
  measures: Object.fromEntries(
    Object.entries(measures).map(([side, own]) => [side, { ...own, spectrum: listedSpectrum(own.spectrum) }]),
  ),
});

const partMeasuresSchema = z.object({
  freeDb: decibelRange.nullable(),
  spectrum: spectrumSchema,
  strokeMs: z.number().min(0).max(10_000).nullable(),
});
const lensMeasuresSchema = z.object(ofLensParts(() => partMeasuresSchema));
const partBarsSchema = z.object({
  reference: z.array(decibelRange).max(mostBeats),
  version: z.array(decibelRange).max(mostBeats),
});
const partFractionsSchema = z.object({
  reference: z.array(fractionRange).max(mostBeats),
  version: z.array(fractionRange).max(mostBeats),
});
const beatsSchema = z
  .string()
  .regex(/^[01]*$/)
  .max(mostBeats);
const partBeatsSchema = z.object({ reference: beatsSchema, version: beatsSchema });
const depthsSchema = z.array(decibelRange.nullable()).max(mostBeats);
const partDepthsSchema = z.object({ reference: depthsSchema, version: depthsSchema });
const storedLensSchema = z.object({
  reference: lensMeasuresSchema,
  version: lensMeasuresSchema,
  bars: z
    .object({
      parts: z.object(
        ofLensParts(() => z.object({ levels: partBarsSchema, own: partFractionsSchema.nullable() })),
      ),
      strokes: z.object(ofDrumParts(() => partBarsSchema)),
      beats: z.object(ofLensParts(() => partBeatsSchema)),
      depths: z.object(ofLensParts(() => partDepthsSchema)),
      coverings: z.array(
        z.object({
          part: z.enum(lensParts),
          by: z.enum(lensParts),
          fromHz: hertzRange,
          toHz: hertzRange,
          reference: decibelRange,
          version: decibelRange,
          bars: z.array(barRange).max(mostBeats),
        }),
      ),
    })
    .nullable(),
  tones: z.object(ofLensParts(() => toneInBarsSchema.nullable())).nullable(),
});

const storedLens = ({ reference, version, bars, tones }: StoredLens) => {
  const listedParts = (parts: LensMeasures) =>
    Object.fromEntries(
      Object.entries(parts).map(([part, own]) => [part, { ...own, spectrum: listedSpectrum(own.spectrum) }]),
    );
  return { reference: listedParts(reference), version: listedParts(version), bars, tones };
};

interface Kind<T> {
  table: typeof plans | typeof alignments | typeof comparisons | typeof lenses | typeof stemSums;
  /** Reads what is stored and checks its ranges. */
  read: (stored: unknown) => { success: true; data: T } | { success: false };
  write: (value: T) => unknown;
}

export const derivedKinds = {
  plan: {
    table: plans,
    read: (stored) => trackPlanSchema.safeParse(stored),
    write: (value) => value,
  } satisfies Kind<TrackPlan> as Kind<TrackPlan>,
  align: {
    table: alignments,
    read: (stored) => alignmentSchema.safeParse(stored),
    write: storedAlignment,
  } satisfies Kind<StoredAlignment> as Kind<StoredAlignment>,
  compare: {
    table: comparisons,
    read: (stored) => storedComparisonSchema.safeParse(stored),
    write: (value) => value,
  } satisfies Kind<StoredComparison> as Kind<StoredComparison>,
  lens: {
    table: lenses,
    read: (stored) => storedLensSchema.safeParse(stored),
    write: storedLens,
  } satisfies Kind<StoredLens> as Kind<StoredLens>,
  sumStems: {
    table: stemSums,
    read: (stored) => storedStemSumSchema.safeParse(stored),
    write: (value) => value,
  } satisfies Kind<StoredStemSum> as Kind<StoredStemSum>,
};

/** A stored result with the key that it was made under. */
export interface Keyed<T> {
  key: string;
  value: T;
}

const shared = globalThis as { plainMirrorDerived?: LRUCache<string, object> };
const cache = () => (shared.plainMirrorDerived ??= new LRUCache({ max: 300 }));

/** What is stored of some items, held against the reference or a version, by their ids; what cannot be read any more is left out and made anew. */
export async function loadDerived<T extends object>(
  db: Database,
  { table, read }: Kind<T>,
  itemIds: readonly string[],
  against = "",
): Promise<Map<string, Keyed<T>>> {
  const result = new Map<string, Keyed<T>>();
  if (itemIds.length === 0) return result;
  const stamps = await db
    .select({ itemId: table.itemId, key: table.key, createdAt: table.createdAt })
    .from(table)
    .where(and(inArray(table.itemId, [...itemIds]), eq(table.against, against)));
  const cacheKey = (own: (typeof stamps)[number]) => `${own.itemId}~${against} ${own.key} ${own.createdAt}`;
  for (const stamp of stamps) {
    let value = cache().get(cacheKey(stamp)) as T | undefined;
    if (!value) {
      const [row] = await db
        .select({ result: table.result })
        .from(table)
        .where(and(eq(table.itemId, stamp.itemId), eq(table.against, against)));
      const parsed = row && read(row.result);
      if (!parsed?.success) continue;
      value = parsed.data;
      cache().set(cacheKey(stamp), value);
    }
    result.set(stamp.itemId, { key: stamp.key, value });
  }
  return result;
}

/**
 * Replaces what is stored of an item.
 *
 * @returns false, and nothing is stored, where a number is outside its range.
 */
export async function storeDerived<T extends object>(
  db: Database,
  { table, read, write }: Kind<T>,
  itemId: string,
  key: string,
  value: T,
  against = "",
): Promise<boolean> {
  const result = write(value);
  if (!read(JSON.parse(JSON.stringify(result))).success) {
    console.error(`a result of ${itemId} is out of range`);
    return false;
  }
  const row = { itemId, against, key, result, createdAt: Date.now() };
  await db
    .insert(table)
    .values(row)
    .onConflictDoUpdate({ target: [table.itemId, table.against], set: row });
  return true;
}
