/** Sounds that are offered for a drum, as the Hits view is sent them, and why each lies where it does. */
import { z } from "zod";
import { closenessAspects, closenessRules, type ClosenessAspect } from "@/core/hits/closeness";
import { voicesOfStem } from "@/core/drums/stems";
import type { Lack } from "@/core/hits/lacks";
import { hitMeasuresSchema } from "@/core/hits/hitMeasures";
import { percentRange } from "@/core/ranges";
import type { CandidateRecord } from "@/core/study";
import { barWords } from "./coverage";
import { fixed, frequency, signed } from "./format";

const aspectSchema = z.object({
  name: z.enum(closenessAspects),
  score: percentRange,
  /** The candidate's value less that of the reference. */
  gap: z.number(),
});

const placeSchema = z.object({
  score: percentRange,
  at: z.object({ first: z.number(), last: z.number() }),
});

export const loopAnswerSchema = z.object({
  bars: z.number(),
  bpm: z.number(),
  isCut: z.boolean(),
  stretch: z.number(),
  shift: z.object({ semitones: z.number(), otherWay: z.number().nullable() }).nullable(),
  drums: placeSchema.nullable(),
  chords: placeSchema.nullable(),
});
export type LoopAnswer = z.infer<typeof loopAnswerSchema>;

export const candidatesAnswerSchema = z.object({
  /** Best first. */
  oneShots: z.array(
    z.object({
      id: z.string(),
      score: percentRange,
      /** Correlation of the waveforms: near 1 it is the same recording. */
      likeness: z.number(),
      aspects: z.array(aspectSchema),
      suggestion: z.object({ semitones: z.number(), decay: z.number(), score: percentRange }).nullable(),
      measures: hitMeasuresSchema,
      outline: z.array(z.number()),
    }),
  ),
  /** Those that are loops, nearest first. */
  loops: z.array(loopAnswerSchema.extend({ id: z.string() })),
  /** Those that could not be read, with the reason. */
  refused: z.array(z.object({ id: z.string(), sentence: z.string() })),
  /** Those that are still being analysed. */
  waiting: z.array(z.string()),
});
export type CandidatesAnswer = z.infer<typeof candidatesAnswerSchema>;
export const layersAnswerSchema = z.object({
  /** Sounds laid over it, best first. */
  layers: z.array(
    z.object({
      id: z.string(),
      score: percentRange,
      offsetMs: z.number(),
      inverted: z.boolean(),
      gainDb: z.number(),
    }),
  ),
});
export type LayersAnswer = z.infer<typeof layersAnswerSchema>;
export type ShownLayer = LayersAnswer["layers"][number];

export type ShownCandidate = CandidatesAnswer["oneShots"][number];

/** The sounds in use for the drums that an element's name speaks of. */
export function soundsInUse(
  candidates: readonly Pick<CandidateRecord, "fileName" | "chosenFor">[],
  elementName: string,
): { fileName: string; hit: string }[] {
  const voices: readonly string[] = voicesOfStem(elementName);
  return candidates.flatMap(({ fileName, chosenFor }) =>
    chosenFor !== null && voices.includes(chosenFor.split("-")[0]!) ? [{ fileName, hit: chosenFor }] : [],
  );
}

/** From this waveform likeness on a candidate that scores so is the sound itself. */
const sameLikeness = 0.97;
const sameScore = 97;
/** Aspects that score better need no word. */
const wellMatched = 80;
const mostReasons = 3;

const times = (octaves: number): string => `${fixed(2 ** octaves, 1)}×`;

function reasonFor(name: ClosenessAspect, gap: number): string {
  const more = gap > 0;
  switch (name) {
    case "pitch":
      return `${fixed(Math.abs(gap))} st ${more ? "higher" : "lower"}`;
    case "glide":
      return more ? "falls less in pitch" : "falls further in pitch";
    case "length":
      return more ? `rings ${times(gap)} as long` : `rings only ${times(gap)} as long`;
    case "envelope":
      return "decays differ by band";
    case "attack":
      return more ? "softer attack" : "sharper attack";
    case "tone":
      return `tone ${fixed(gap)} dB off on average`;
    case "texture":
      return more ? "more click" : "less click";
  }
}

/** Why a candidate is not nearer: what costs most first. */
export function reasonsOf({
  score,
  likeness,
  aspects,
}: Pick<ShownCandidate, "score" | "likeness" | "aspects">): string {
  if (likeness >= sameLikeness && score >= sameScore) return "the same recording, as it seems";
  const words = aspects
    .map((own) => ({ ...own, cost: closenessRules[own.name].weight * (100 - own.score) }))
    .filter((own) => own.score < wellMatched)
    .sort((a, b) => b.cost - a.cost)
    .slice(0, mostReasons)
    .map(({ name, gap }) => reasonFor(name, gap));
  return words.length > 0 ? words.join(", ") : "nothing plainly differs";
}

export function suggestionWords({ semitones, decay }: { semitones: number; decay: number }): string {
  const parts = [
    ...(semitones === 0 ? [] : [`${signed(semitones)} st`]),
    ...(decay === 1 ? [] : [`decay ×${fixed(decay, 2)}`]),
  ];
  return parts.join(", ");
}

/** A part of a drum's range, as producers name it; common practice, no source. */
function partOf(fromHz: number, toHz: number): string {
  const centre = Math.sqrt(fromHz * toHz);
  if (centre < 60) return "low end";
  if (centre < 180) return "body";
  if (centre < 600) return "low mids";
  if (centre < 2000) return "mids";
  return centre < 6000 ? "attack" : "top";
}

/** What a sound lacks, as "top above 5 kHz, 12 dB". */
export const lackWords = ({ fromHz, toHz, gapDb }: Lack): string =>
  `${partOf(fromHz, toHz)} ${toHz > 12_000 ? `above ${frequency(fromHz)}` : fromHz < 40 ? `below ${frequency(toHz)}` : `${frequency(fromHz)} – ${frequency(toHz)}`}, ${fixed(gapDb, 0)} dB`;

export const layerWords = ({ offsetMs, inverted, gainDb }: ShownLayer): string =>
  [
    offsetMs === 0 ? "no offset" : `${fixed(Math.abs(offsetMs), 2)} ms ${offsetMs > 0 ? "later" : "earlier"}`,
    ...(inverted ? ["inverted"] : []),
    `${signed(gainDb, 0)} dB`,
  ].join(", ");

/** What would make a loop fit, and where. */
export function loopWords({ bars, bpm, isCut, stretch, shift, drums, chords }: LoopAnswer): string[] {
  const words = [
    `${bars} ${bars === 1 ? "bar" : "bars"} at ${fixed(bpm, isCut ? 2 : 1)} BPM${isCut ? "" : ", not cut to whole bars"}`,
  ];
  const percent = 100 * (stretch - 1);
  if (Math.abs(percent) >= 0.05)
    words.push(`${fixed(Math.abs(percent))} % ${percent > 0 ? "faster" : "slower"} to be in time`);
  else words.push("in time as it is");
  if (shift && chords)
    words.push(shift.semitones === 0 ? "in key as it is" : `${signed(shift.semitones, 0)} st to be in key`);
  if (drums) words.push(`drums nearest in ${barWords(drums.at)} (${fixed(drums.score, 0)} of 100)`);
  if (chords) words.push(`chords nearest in ${barWords(chords.at)} (${fixed(chords.score, 0)} % the same)`);
  return words;
}
