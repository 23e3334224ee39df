/** How the stems of a track add up to it, as it is stored. */
import { z } from "zod";
import type { Grid } from "../grid/grid";
import type { LiftedTrack, PartSpectrogram } from "../lens/lensMeasures";
import type { LensPart } from "../lens/parts";
import { decibelRange } from "../ranges";
import { stemSum, stemSumSchema } from "../stems/stemSum";
import type { Decibels, Seconds } from "../units";
import { barStarts } from "./lens";
import type { ElementRecord, StemRecord, TrackRecord } from "./records";
import { offsetOf, type StudyResults } from "./results";

export const storedStemSumSchema = stemSumSchema.extend({
  /** By stem: how much louder it is in the track than in its file; null where nothing of it is heard there. */
  gainsDb: z.record(z.string().max(64), decibelRange.nullable()),
});
export type StoredStemSum = z.infer<typeof storedStemSumSchema>;

/** The stems of a track that can be held against it: analysed, and lying where they belong. */
export const placedStems = (
  { stems }: Pick<TrackRecord, "stems">,
  analyses: StudyResults["analyses"],
): StemRecord[] => stems.filter((stem) => analyses.has(stem.file.hash) && offsetOf(stem) !== null);

/** Where a track has no bars, it is gone through in steps of so much. */
const withoutBars: Seconds = 2;

/**
 * @param rest what is left of the track when its stems are taken from it.
 * @param gainsDb of each stem, in order.
 * @param grid of the track; null where it has none.
 * @param lifted its parts; null where it was not taken apart.
 */
export function storedStemSum(
  stems: readonly StemRecord[],
  elements: readonly ElementRecord[],
  { rest, gainsDb }: { rest: PartSpectrogram; gainsDb: readonly (Decibels | null)[] },
  track: { bands: PartSpectrogram; durationSeconds: Seconds },
  grid: Grid | null,
  lifted: LiftedTrack | null,
): StoredStemSum {
  const steps = Math.max(1, Math.ceil(track.durationSeconds / withoutBars));
  const bars = grid ? barStarts(grid) : [];
  const starts = bars.length > 1 ? bars : Array.from({ length: steps + 1 }, (_, i) => withoutBars * i);
  const held = stems.flatMap(({ elementId }, i): LensPart[] => {
    const part = elements.find(({ id }) => id === elementId)?.lens;
    // Several elements are lifted out as one: the stem of one of them does not hold the others.
    return part && part !== "music" && gainsDb[i] !== null ? [part] : [];
  });
  return {
    ...stemSum(rest, track.bands, lifted, starts, held),
    gainsDb: Object.fromEntries(stems.map(({ id }, i) => [id, gainsDb[i] ?? null])),
  };
}

/** How much louder a stem is in its track than in its file: 0 while that is not known, null where it is hardly heard there. */
export function gainOf(sums: StudyResults["stemSums"], trackId: string, stemId: string): Decibels | null {
  const gain = sums.get(trackId)?.value.gainsDb[stemId];
  return gain === undefined ? 0 : gain;
}
