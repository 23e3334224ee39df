/**
 * Whether an equaliser is the wrong cure for a gap. A filter changes every moment alike, so that one
 * side follows from the other by the average gap alone; what does not follow is a level that changes
 * from section to section, or something that one side plays and the other does not.
 */
import { z } from "zod";
import { decibelRange, fractionRange, hertzRange } from "../ranges";
import type { OnsetRanges } from "../grid/onsetRanges";
import { onsetRanges } from "../grid/onsetRanges";
import { averageSpectrum, bands, wholeOf, type FractionalOctaveSpectrogram } from "../tone";
import type { Decibels, Fraction, Seconds, Span } from "../units";

const { floor, log10, max, min, round, sqrt } = Math;

/** A passage of both sides that answers itself, about two bars long. */
export interface AnsweringSpan {
  reference: Span;
  version: Span;
  /** Which section of the reference it lies in; any number. */
  section: number;
}

export interface ToneSide {
  bands: FractionalOctaveSpectrogram;
  onsets: OnsetRanges;
}

/** A section by its place in the reference, and how far the version lies from what a filter explains. */
const sectionGapSchema = z.object({ section: z.number().int().min(-1).max(10_000), gapDb: decibelRange });

export const wrongCureSchema = z.object({
  fromHz: hertzRange,
  toHz: hertzRange,
  /** The gap changes from section to section, from bar to bar, or what strikes there differs. */
  kind: z.enum(["sections", "bars", "strokes"]),
  /** How far single passages lie from what a filter would do, root-mean-square; for strokes 0. */
  spreadDb: decibelRange,
  /** Of sections: where the version is highest and lowest beside what a filter explains. */
  most: sectionGapSchema.nullable(),
  least: sectionGapSchema.nullable(),
  /** Of strokes: how alike onsets in the range are on both sides. */
  likeness: fractionRange.nullable(),
});
/** Why a gap in a range cannot be mended by filters. */
export type WrongCure = z.infer<typeof wrongCureSchema>;

/** Octave bands in which gaps are followed over time, in twelfths of the bands of a spectrum. */
const octaveStarts = [6, 18, 30, 42, 54, 66, 78, 90, 102] as const;
const octaveTwelfths = 12;
export const octaveCount = octaveStarts.length;
const octaveHz = octaveStarts.map((first) => ({
  low: bands(12)[first]!.low,
  high: bands(12)[first + octaveTwelfths - 1]!.high,
}));

/** Passages in which a band is this far below its loudest one on both sides say nothing of it. */
const audible: Decibels = 24;

/** Octaves this far below the loudest one on both sides are not heard. */
const audibleOctave: Decibels = 40;

/** What each passage lies above (+) or below what a filter alone would make of the reference. */
export interface GapOverTime {
  /** `passages × octaveCount`, dB; NaN where nothing can be said. */
  beside: Float64Array;
  passages: readonly AnsweringSpan[];
}

/** Follows the gap of both sides in octave bands over the passages that answer each other. */
export function gapOverTime(
  reference: ToneSide["bands"],
  version: ToneSide["bands"],
  passages: readonly AnsweringSpan[],
): GapOverTime {
  const spectra = (map: ToneSide["bands"], side: "reference" | "version") =>
    passages.map((passage) => wholeOf(averageSpectrum(map, [passage[side]])));
  const ours = spectra(reference, "reference");
  const theirs = spectra(version, "version");
  const total = (all: readonly Float32Array[], b: number) => all.reduce((sum, own) => sum + own[b]!, 0);
  const ratio = Float64Array.from(bands(12), (_, b) => {
    const own = total(ours, b);
    return own > 0 ? total(theirs, b) / own : 0;
  });
  const beside = new Float64Array(passages.length * octaveCount).fill(NaN);
  const inOctave = (all: readonly Float32Array[], first: number) => {
    let sum = 0;
    for (let b = first; b < first + octaveTwelfths; b++) sum += total(all, b);
    return sum;
  };
  const isHeard = (all: readonly Float32Array[], first: number) =>
    inOctave(all, first) >
    octaveStarts.reduce((most, own) => max(most, inOctave(all, own)), 0) / 10 ** (audibleOctave / 10);
  octaveStarts.forEach((first, o) => {
    if (!isHeard(ours, first) && !isHeard(theirs, first)) return;
    const sums = passages.map((_, u) => {
      let own = 0;
      let expected = 0;
      let other = 0;
      for (let b = first; b < first + octaveTwelfths; b++) {
        own += ours[u]![b]!;
        expected += ours[u]![b]! * ratio[b]!;
        other += theirs[u]![b]!;
      }
      return { own, expected, other };
    });
    const floorOf = (key: "expected" | "other") =>
      sums.reduce((most, sum) => max(most, sum[key]), 0) / 10 ** (audible / 10);
    const expectedFloor = max(floorOf("expected"), 1e-14);
    const otherFloor = max(floorOf("other"), 1e-14);
    sums.forEach(({ expected, other }, u) => {
      if (expected < expectedFloor && other < otherFloor) return;
      beside[u * octaveCount + o] = 10 * log10(max(other, otherFloor) / max(expected, expectedFloor));
    });
  });
  return { beside, passages };
}

/** How alike what strikes is in each range of onsets, −1 to 1; null where too little strikes. */
export function strokeLikeness(
  reference: OnsetRanges,
  version: OnsetRanges,
  passages: readonly AnsweringSpan[],
): (number | null)[] {
  return onsetRanges.map((_, r) => {
    const a: number[] = [];
    const b: number[] = [];
    for (const passage of passages) {
      const count = floor((passage.reference.to - passage.reference.from) / strokeStep);
      for (let i = 0; i < count; i++) {
        a.push(heardAt(reference, r, passage.reference, i / count, 1 / count));
        b.push(heardAt(version, r, passage.version, i / count, 1 / count));
      }
    }
    return hasStrokes(a) || hasStrokes(b) ? correlation(a, b) : null;
  });
}

/** The strongest onsets of a range in which something strikes stand this far above its mean. */
const leastContrast = 2.2;

/** Whether something strikes at all; else the curve is how a held sound wavers. */
function hasStrokes(steps: readonly number[]): boolean {
  const sorted = Float64Array.from(steps).sort();
  const mean = sorted.reduce((sum, own) => sum + own, 0) / (sorted.length || 1);
  return mean > 0 && sorted[floor(0.96 * sorted.length)]! > leastContrast * mean;
}

/** Both sides are held against each other in steps of this, a little longer than grids are off. */
const strokeStep: Seconds = 0.045;

/** A single onset that is stronger than this, as where a track begins, counts no more than others. */
const mostStrength = 25;

/** The strongest onset in a step of a passage and a little beside it, on a scale on which weak ones count too. */
function heardAt(
  { framesPerSecond, ranges }: OnsetRanges,
  r: number,
  { from, to }: Span,
  at: Fraction,
  share: Fraction,
): number {
  const curve = ranges[r]!;
  const first = round((from + (to - from) * (at - share / 2)) * framesPerSecond);
  const last = round((from + (to - from) * (at + 1.5 * share)) * framesPerSecond);
  let most = 0;
  for (let i = max(0, first); i <= min(curve.length - 1, last); i++) most = max(most, curve[i]!);
  return sqrt(min(most, mostStrength));
}

function correlation(a: readonly number[], b: readonly number[]): number | null {
  if (a.length < 40) return null;
  const mean = (own: readonly number[]) => own.reduce((sum, x) => sum + x, 0) / own.length;
  const [ma, mb] = [mean(a), mean(b)];
  let ab = 0;
  let aa = 0;
  let bb = 0;
  for (let i = 0; i < a.length; i++) {
    ab += (a[i]! - ma) * (b[i]! - mb);
    aa += (a[i]! - ma) ** 2;
    bb += (b[i]! - mb) ** 2;
  }
  return aa > 0 && bb > 0 ? ab / sqrt(aa * bb) : null;
}

/** Sections whose gaps differ by so much need a level or an arrangement, not a filter. */
export const sectionsApart: Decibels = 1;
/** Passages that scatter by so much do too. */
export const passagesApart: Decibels = 0.9;
/** Onsets less alike than this are not the same strokes. */
export const strokesAlike: Fraction = 0.88;
/** A section is judged by so many passages at least, the whole by so many. */
const leastPassages = 2;

interface OctaveFinding {
  octave: number;
  kind: "sections" | "bars";
  spreadDb: Decibels;
  most: WrongCure["most"];
  least: WrongCure["least"];
}

function octaveFinding({ beside, passages }: GapOverTime, octave: number): OctaveFinding | null {
  const values = passages.flatMap(({ section }, u) => {
    const db = beside[u * octaveCount + octave]!;
    return Number.isNaN(db) ? [] : [{ section, db }];
  });
  if (values.length < 2 * leastPassages) return null;
  const spreadDb = sqrt(values.reduce((sum, { db }) => sum + db * db, 0) / values.length);
  const bySection = [...new Set(values.map(({ section }) => section))].flatMap((section) => {
    const own = values.filter((value) => value.section === section);
    if (own.length < leastPassages) return [];
    return [{ section, gapDb: own.reduce((sum, { db }) => sum + db, 0) / own.length }];
  });
  const [least, most] = [bySection.at(0), bySection.at(0)];
  const lowest = bySection.reduce((a, b) => (b.gapDb < a!.gapDb ? b : a), least);
  const highest = bySection.reduce((a, b) => (b.gapDb > a!.gapDb ? b : a), most);
  if (lowest && highest && highest.gapDb - lowest.gapDb >= sectionsApart)
    return { octave, kind: "sections", spreadDb, most: highest, least: lowest };
  if (spreadDb >= passagesApart) return { octave, kind: "bars", spreadDb, most: null, least: null };
  return null;
}

/** Where filters cannot mend the gap, from low to high, the strokes last. */
export function wrongCures(
  reference: ToneSide,
  version: ToneSide,
  passages: readonly AnsweringSpan[],
): WrongCure[] {
  const overTime = gapOverTime(reference.bands, version.bands, passages);
  const merged: WrongCure[] = [];
  let last: OctaveFinding | null = null;
  for (let octave = 0; octave < octaveCount; octave++) {
    const own = octaveFinding(overTime, octave);
    const before = merged.at(-1);
    if (
      own &&
      before &&
      last?.octave === octave - 1 &&
      last.kind === own.kind &&
      last.most?.section === own.most?.section &&
      last.least?.section === own.least?.section
    ) {
      before.toHz = octaveHz[octave]!.high;
      if (own.spreadDb > before.spreadDb)
        Object.assign(before, { spreadDb: own.spreadDb, most: own.most, least: own.least });
    } else if (own) {
      const { kind, spreadDb, most, least } = own;
      merged.push({
        fromHz: octaveHz[octave]!.low,
        toHz: octaveHz[octave]!.high,
        kind,
        spreadDb,
        most,
        least,
        likeness: null,
      });
    }
    last = own;
  }
  const alike = strokeLikeness(reference.onsets, version.onsets, passages);
  const strokes = onsetRanges.flatMap(({ from, to }, r): WrongCure[] => {
    const likeness = alike[r]!;
    return likeness === null || likeness >= strokesAlike
      ? []
      : [
          {
            fromHz: from,
            toHz: to,
            kind: "strokes",
            spreadDb: 0,
            most: null,
            least: null,
            likeness: max(0, likeness),
          },
        ];
  });
  return [...merged, ...strokes];
}

/** Passages of about two bars out of spans that answer each other one by one. */
export function passagesOf(
  spans: readonly { reference: Span; version: Span; section: number }[],
  seconds: Seconds,
): AnsweringSpan[] {
  return spans.flatMap(({ reference, version, section }) => {
    const count = max(1, round((reference.to - reference.from) / seconds));
    const part = ({ from, to }: Span, i: number): Span => ({
      from: from + ((to - from) * i) / count,
      to: from + ((to - from) * (i + 1)) / count,
    });
    return Array.from({ length: count }, (_, i) => ({
      reference: part(reference, i),
      version: part(version, i),
      section,
    }));
  });
}
