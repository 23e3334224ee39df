/** What the Hits view is sent, which drums of both sides belong together, and how they differ in words. */
import { z } from "zod";
import { drumVoiceSchema, drumVoices, voiceNames, type DrumVoice } from "@/core/drums/voices";
import { analysisVersion } from "@/core/analysis/result";
import { pitchName } from "@/core/harmony/notes";
import { withoutOctave } from "@/core/hits/closeness";
import { beforeHit, hitMeasuresSchema, type HitMeasures } from "@/core/hits/hitMeasures";
import { fractionRange } from "@/core/ranges";
import { versionOf, type StudyResults, type TrackRecord } from "@/core/study";
import type { Cents, Hertz } from "@/core/units";
import { fixed, signed } from "./format";

/** Steps of an outline a second, and how many are drawn at most. */
export const outlineRate = 1000;
const longestOutline = 600;

export const hitsAnswerSchema = z.object({
  hits: z.array(
    z.object({
      /** Voice and number of the drum: "kick-1" is the kick that is struck most. */
      name: z.string(),
      voice: drumVoiceSchema,
      count: z.number(),
      /** Strokes that it is made of. */
      used: z.number(),
      clean: fractionRange,
      /** Seconds after the stroke that are known. */
      known: z.number(),
      measures: hitMeasuresSchema,
      /** Of each of its strokes: time, velocity, and whether it entered (1), was left out by hand (2), or neither. */
      strokes: z.array(z.tuple([z.number(), z.number(), z.number()])),
      /** Largest magnitude of every millisecond from the stroke on, its peak 1. */
      outline: z.array(z.number()),
    }),
  ),
});
export type HitsAnswer = z.infer<typeof hitsAnswerSchema>;
export type ShownHit = HitsAnswer["hits"][number];

export function outlineOf([left, right]: readonly [Float32Array, Float32Array], rate: Hertz): number[] {
  const first = Math.round(beforeHit * rate);
  const steps = Math.min(longestOutline, Math.floor(((left.length - first) / rate) * outlineRate));
  const outline = new Array<number>(Math.max(0, steps)).fill(0);
  let peak = 1e-9;
  for (let step = 0; step < steps; step++) {
    const end = first + Math.floor(((step + 1) * rate) / outlineRate);
    for (let i = first + Math.floor((step * rate) / outlineRate); i < end; i++)
      outline[step] = Math.max(outline[step]!, Math.abs(left[i]! + right[i]!) / 2);
    peak = Math.max(peak, outline[step]!);
  }
  return outline.map((own) => Math.round((1000 * own) / peak) / 1000);
}

/** The nearest note of equal temperament, A4 = 440 Hz. */
export function noteOf(hertz: Hertz): { midi: number; cents: Cents } {
  const exact = 69 + 12 * Math.log2(hertz / 440);
  const midi = Math.round(exact);
  return { midi, cents: Math.round(100 * (exact - midi)) };
}

export function pitchWords(hertz: Hertz | null): string {
  if (hertz === null) return "none";
  const { midi, cents } = noteOf(hertz);
  return `${fixed(hertz)} Hz, ${pitchName(midi)}${cents === 0 ? "" : ` ${signed(cents, 0)} ct`}`;
}

/** A drum of the reference and the one that plays its part in the version. */
export interface HitPair {
  /** Of the side that has it; the reference's where both have. */
  name: string;
  title: string;
  reference: ShownHit | null;
  version: ShownHit | null;
}

/** A drum that only one side has is shown where it is so much of its voice: rarer ones are mostly misheard. */
const leastAlone = 0.25;

/** Drums of one voice belong together in the order of how often they are struck. */
export function hitPairs(reference: readonly ShownHit[], version: readonly ShownHit[]): HitPair[] {
  return drumVoices.flatMap((voice) => {
    const of = (hits: readonly ShownHit[]) =>
      hits.filter((own) => own.voice === voice).sort((a, b) => b.count - a.count);
    const [ours, theirs] = [of(reference), of(version)];
    const strokes = (hits: readonly ShownHit[]) => hits.reduce((sum, { count }) => sum + count, 0);
    const isShown = (i: number) =>
      (i < ours.length && i < theirs.length) ||
      (ours[i] ?? theirs[i])!.count >= leastAlone * strokes(i < ours.length ? ours : theirs);
    const places = Array.from({ length: Math.max(ours.length, theirs.length) }, (_, i) => i).filter(isShown);
    return places.map((i) => ({
      name: (ours[i] ?? theirs[i])!.name,
      title: places.length === 1 ? voiceNames[voice] : `${voiceNames[voice]} ${i + 1}`,
      reference: ours[i] ?? null,
      version: theirs[i] ?? null,
    }));
  });
}

/**
 * Differences that are worth a word: more than such hits err by when they are heard out of a mix, which
 * for attacks is too much for any.
 */
const least = { semitones: 0.7, length: 1.25, click: 6, brightness: 1.25, position: 0.1 } as const;
/** The pitch of what falls all the way is told less exactly. */
const leastOfFalling = 1.5;

const times = (ratio: number): string => `${fixed(ratio)} times`;

/** How the version's drum differs, most plainly heard first. */
export function hitSentences(voice: DrumVoice, reference: HitMeasures, version: HitMeasures): string[] {
  const name = voiceNames[voice].toLowerCase();
  const sentences: string[] = [];
  const [a, b] = [reference.fundamentalHz, version.fundamentalHz];
  if (a !== null && b !== null) {
    const apart = withoutOctave(12 * Math.log2(b / a));
    if (Math.abs(apart) >= (voice === "kick" || voice === "tom" ? leastOfFalling : least.semitones))
      sentences.push(
        `Your ${name} is ${fixed(Math.abs(apart))} semitones ${apart > 0 ? "higher" : "lower"}: tune it ${apart > 0 ? "down" : "up"}.`,
      );
  }
  const [short, long] = [reference.decay.to20, version.decay.to20];
  if (short !== null && long !== null && short > 0 && long > 0) {
    const ratio = long / short;
    if (ratio >= least.length) sentences.push(`It rings ${times(ratio)} as long: shorten its decay.`);
    if (ratio <= 1 / least.length)
      sentences.push(`It is gone after ${fixed(100 * ratio, 0)} % of the time: let it ring longer.`);
  }
  if (reference.clickDb !== null && version.clickDb !== null) {
    const gap = version.clickDb - reference.clickDb;
    if (Math.abs(gap) >= least.click && voice === "kick")
      sentences.push(
        `Its click is ${fixed(Math.abs(gap))} dB ${gap > 0 ? "louder" : "softer"} against the body.`,
      );
  }
  if (reference.brightnessHz > 0 && version.brightnessHz > 0 && voice !== "kick") {
    const ratio = version.brightnessHz / reference.brightnessHz;
    if (ratio >= least.brightness || ratio <= 1 / least.brightness)
      sentences.push(
        `It is ${ratio > 1 ? "brighter" : "darker"}: centred at ${fixed(version.brightnessHz / 1000)} kHz against ${fixed(reference.brightnessHz / 1000)}.`,
      );
  }
  const moved = version.position - reference.position;
  if (Math.abs(moved) >= least.position)
    sentences.push(`It sits further ${moved > 0 ? "right" : "left"} than the reference's.`);
  if (reference.tail !== version.tail) {
    if (version.tail === "gated") sentences.push("Its tail is cut off, the reference's dies away.");
    else if (reference.tail === "gated") sentences.push("The reference's tail is cut off, yours dies away.");
    else if (version.tail === "room") sentences.push("It stands in more of a room than the reference's.");
    else if (reference.tail === "room") sentences.push("The reference's stands in a room, yours is dry.");
  }
  return sentences;
}

/** How much of a hit to believe. */
export const cleanWords = (clean: number): string =>
  clean >= 0.7 ? "clean" : clean >= 0.35 ? "fairly clean" : "covered by other sounds";

/** A track whose hits can be asked for. */
export interface HitsTrack {
  itemId: string;
  /** Changes with what the hits depend on. */
  key: string;
  /** Length of a beat, seconds; null where there is no grid. */
  beat: number | null;
}

export interface HitsModel {
  reference: HitsTrack | null;
  version: HitsTrack | null;
}

/** A short mark of a text (FNV-1a), to tell whether it is another. */
function markOf(text: string): string {
  let mark = 0x811c9dc5;
  for (let i = 0; i < text.length; i++) mark = Math.imul(mark ^ text.charCodeAt(i), 0x01000193);
  return (mark >>> 0).toString(36);
}

export function hitsModel(
  { study, analyses, grids }: Pick<StudyResults, "study" | "analyses" | "grids">,
  number: number | null,
): HitsModel {
  const track = (own: TrackRecord | null): HitsTrack | null => {
    if (!own || !analyses.has(own.file.hash)) return null;
    const grid = grids.get(own.id);
    const stems = own.stems.map(({ file, corrections }) => [file.hash, corrections]);
    return {
      itemId: own.id,
      key: `${own.file.hash.slice(0, 12)} ${analysisVersion} ${markOf(JSON.stringify([own.corrections, stems]))}`,
      beat: grid ? 60 / grid.bpm : null,
    };
  };
  return { reference: track(study.reference), version: track(versionOf(study, number)) };
}
