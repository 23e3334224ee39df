/** Elements that have stems on both sides, held against each other by these: nothing else sounds in them. */
import { z } from "zod";
import type { CoverageSpan } from "../align/coverage";
import type { BarRange, Grid } from "../grid/grid";
import { comparePresence, playedBars, type PartInBars } from "../lens/answeredBars";
import { barSpectra } from "../lens/barSpectra";
import type { PartMeasures } from "../lens/lensMeasures";
import { levelInBars } from "../lens/levelInBars";
import { compareMovement } from "../lens/movement";
import { barLevels, levelsPerSecond, silence } from "../lens/presence";
import { compareSpace, gapDepths, type PartDepths } from "../lens/space";
import { toneInBars, toneInBarsSchema, type ToneInBars } from "../lens/toneInBars";
import type { StemPair } from "../match";
import { averageSpectrum, twelfthCount, type FractionalOctaveSpectrogram, type Spectrum } from "../tone";
import { decibelRange, mostBeats } from "../ranges";
import { decibelsToPower, powerToDecibels, type Decibels, type Seconds, type Span } from "../units";
import { barStarts, beatStarts } from "./lens";
import type { SpanPair } from "./spans";

const { ceil, max, min, round } = Math;

/** What a stem sounds like over time, and where it begins in its track. */
export interface StemSound {
  elementId: string;
  offsetSeconds: Seconds;
  /** By which it is louder in its track than in its file. */
  gainDb: Decibels;
  bands: FractionalOctaveSpectrogram;
  /** Mean squares, ten a second. */
  levels: Float32Array;
}

/** A spectrum as it is stored, as exact as it need be. */
const powersSchema = z.array(z.number().min(-1e6).max(1e6)).length(twelfthCount);
const spectrumSchema = z.object({ mid: powersSchema, side: powersSchema, cross: powersSchema });
const levelsSchema = z.array(decibelRange).max(mostBeats);
const depthsSchema = z.array(decibelRange.nullable()).max(mostBeats);

export const storedStemPairSchema = z.object({
  reference: spectrumSchema,
  version: spectrumSchema,
  levels: z.object({ reference: levelsSchema, version: levelsSchema }),
  depths: z.object({ reference: depthsSchema, version: depthsSchema }),
  tone: toneInBarsSchema.nullable(),
});

/** What is stored of an element with stems on both sides. */
export interface StoredStemPair {
  reference: StoredSpectrum;
  version: StoredSpectrum;
  /** Its levels in the bars of both sides. */
  levels: PartInBars["levels"];
  /** How far it falls within the beats of these bars. */
  depths: PartDepths;
  tone: ToneInBars | null;
}

type StoredSpectrum = z.infer<typeof spectrumSchema>;

type SetBarsOfSides = NonNullable<PartInBars["set"]>;

/** A stem stands as free as anything can. */
export const whollyFree: Decibels = 60;

const noPowers = new Float32Array(twelfthCount);
const silent: Spectrum = { mid: noPowers, side: noPowers, cross: noPowers };

/** Sum of powers of stems, each as loud as it is in its track. */
function summed(stems: readonly StemSound[], all: readonly Float32Array[]): Float32Array {
  const sum = new Float32Array(all[0]!.length);
  for (const [k, own] of all.entries()) {
    const gain = decibelsToPower(stems[k]!.gainDb);
    for (let i = 0; i < sum.length; i++) sum[i]! += gain * own[i]!;
  }
  return sum;
}

/** Spectrum over some spans of the track, of all stems of an element together: their powers add up. */
function spectrumOf(stems: readonly StemSound[], spans: readonly Span[] | null): StoredSpectrum {
  const all = stems.map(({ bands, offsetSeconds }) => {
    const own = spans?.flatMap(({ from, to }): Span[] => {
      const [begin, end] = [max(0, from - offsetSeconds), min(bands.durationSeconds, to - offsetSeconds)];
      return end > begin ? [{ from: begin, to: end }] : [];
    });
    return own?.length === 0 ? silent : averageSpectrum(bands, own ?? null);
  });
  const of = (name: keyof Spectrum) =>
    Array.from(
      summed(
        stems,
        all.map((own) => own[name]),
      ),
      (power) => Number(power.toPrecision(5)),
    );
  return { mid: of("mid"), side: of("side"), cross: of("cross") };
}

/** Powers by band in the bars of the track, of all stems of an element together; none outside of the file. */
function spectraOfBars(stems: readonly StemSound[], starts: readonly Seconds[]): Float32Array {
  const all = stems.map(({ bands, offsetSeconds }) => {
    const own = starts.map((start) => start - offsetSeconds);
    const spectra = barSpectra(bands, own);
    own.slice(1).forEach((end, bar) => {
      if (end <= 0 || own[bar]! >= bands.durationSeconds)
        spectra.fill(0, bar * twelfthCount, (bar + 1) * twelfthCount);
    });
    return spectra;
  });
  return summed(stems, all);
}

/** Levels in the bars of the track, of all stems of an element together. */
function levelsOf(stems: readonly StemSound[], starts: readonly Seconds[]): Decibels[] {
  const all = stems.map(({ levels, offsetSeconds }) =>
    barLevels(
      levels,
      starts.map((start) => start - offsetSeconds),
    ),
  );
  return starts.slice(1).map((_, bar) => {
    const power = all.reduce((sum, own, k) => sum + decibelsToPower(own[bar]! + stems[k]!.gainDb), 0);
    return max(silence, round(10 * powerToDecibels(power)) / 10);
  });
}

/** How far all stems of an element together fall within the beats of the bars of the track. */
function depthsOf(stems: readonly StemSound[], grid: Grid): PartDepths["reference"] {
  const beats = beatStarts(grid);
  const sum = new Float32Array(max(0, ceil((beats.at(-1) ?? 0) * levelsPerSecond)));
  for (const { levels, offsetSeconds, gainDb } of stems) {
    const later = round(offsetSeconds * levelsPerSecond);
    const gain = decibelsToPower(gainDb);
    for (let k = max(0, later); k < min(sum.length, levels.length + later); k++)
      sum[k]! += gain * levels[k - later]!;
  }
  return gapDepths(sum, beats, grid.beatsPerBar);
}

const inBars = (levels: PartInBars["levels"], set?: PartInBars["set"]): PartInBars => ({
  levels,
  // All of it is its own.
  own: { reference: levels.reference.map(() => 1), version: levels.version.map(() => 1) },
  ...(set && { set }),
});

/**
 * @param spans over which the stems are measured; null for the whole.
 * @param chosen bars of the reference that count; null for all.
 * @returns by element, those that have stems on both sides.
 */
export function measuredStems(
  sides: readonly [reference: readonly StemSound[], version: readonly StemSound[]],
  grids: { reference: Grid; version: Grid },
  coverage: readonly CoverageSpan[],
  spans: SpanPair,
  chosen: BarRange | null = null,
): Record<string, StoredStemPair> {
  const ids = new Set(sides[0].map(({ elementId }) => elementId));
  const both = [...ids].filter((id) => sides[1].some(({ elementId }) => elementId === id));
  return Object.fromEntries(
    both.map((id) => {
      const [ours, theirs] = sides.map((all) => all.filter(({ elementId }) => elementId === id)) as [
        StemSound[],
        StemSound[],
      ];
      const starts = [barStarts(grids.reference), barStarts(grids.version)] as const;
      const spectra = [spectraOfBars(ours, starts[0]), spectraOfBars(theirs, starts[1])] as const;
      const levels = { reference: levelsOf(ours, starts[0]), version: levelsOf(theirs, starts[1]) };
      const whole = new Float32Array(twelfthCount).fill(1);
      return [
        id,
        {
          reference: spectrumOf(ours, spans.reference),
          version: spectrumOf(theirs, spans.version),
          levels,
          depths: {
            reference: depthsOf(ours, grids.reference),
            version: depthsOf(theirs, grids.version),
          },
          tone: toneInBars(spectra, [whole, whole], playedBars(inBars(levels), coverage, chosen, whollyFree)),
        },
      ];
    }),
  );
}

/** What tells in which bars an element with stems plays. */
export const stemInBars = ({ levels }: StoredStemPair, set: SetBarsOfSides): PartInBars =>
  inBars(levels, set);

/**
 * What is compared of an element by its stems.
 *
 * @param chosen bars of the reference that count; null for all.
 */
export function countedStems(
  stored: StoredStemPair,
  coverage: readonly CoverageSpan[],
  chosen: BarRange | null,
  set: SetBarsOfSides,
): StemPair {
  const part = stemInBars(stored, set);
  const measures = ({ mid, side, cross }: StoredSpectrum): PartMeasures => ({
    freeDb: whollyFree,
    spectrum: { mid: Float32Array.from(mid), side: Float32Array.from(side), cross: Float32Array.from(cross) },
    strokeMs: null,
  });
  return {
    reference: measures(stored.reference),
    version: measures(stored.version),
    bars:
      coverage.length === 0
        ? null
        : {
            presence: comparePresence(part, coverage, chosen, whollyFree),
            level: levelInBars(part, null, coverage, chosen, whollyFree),
            tone: stored.tone,
            movement: compareMovement(part, stored.tone, coverage, chosen, whollyFree),
            space: compareSpace(stored.depths, part, coverage, chosen, whollyFree),
            coverings: [],
          },
  };
}
