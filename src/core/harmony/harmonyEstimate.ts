import { z } from "zod";
import { barRange, beatRange, beatsPerBarRange, fractionRange } from "../ranges";
import { chordQualityNames, type ChordQuality } from "./chords";

const pitchClass = z.number().int().min(0).max(11);

export const keySchema = z.object({ tonic: pitchClass, mode: z.enum(["major", "minor"]) });

export const chordSchema = z
  .object({
    root: pitchClass,
    quality: z.enum(chordQualityNames as [ChordQuality, ...ChordQuality[]]),
    bass: pitchClass,
  })
  .nullable();

/** A chord with its place in beats from bar 1 beat 1; null is no chord. */
export const placedChordSchema = z.object({
  startBeat: beatRange,
  endBeat: beatRange,
  chord: chordSchema,
  /** Probability 0–1 that it is this chord; 1 where the producer said so. */
  confidence: fractionRange,
});

export const keyChoiceSchema = z.object({
  options: z.array(z.object({ key: keySchema, confidence: fractionRange })),
  opinions: z.object({ notes: keySchema.nullable(), chords: keySchema.nullable() }),
});

export const harmonyEstimateSchema = z.object({
  /** Null where nothing is pitched. */
  key: keyChoiceSchema.nullable(),
  /** One after the other without gaps, in beats of the grid; empty where there is no grid. */
  chords: z.array(placedChordSchema),
  /** How strongly each pitch class sounds in each bar of the grid, the strongest 1; twelve values a bar. */
  bars: z.object({
    firstBar: barRange,
    beatsPerBar: beatsPerBarRange,
    chroma: z.array(z.array(fractionRange).length(12)),
  }),
});

export type PlacedChord = z.infer<typeof placedChordSchema>;

/** The chord that sounds at a beat; null where none does. */
export const chordAt = (chords: readonly PlacedChord[], beat: number): PlacedChord["chord"] =>
  chords.find(({ startBeat, endBeat }) => beat >= startBeat && beat < endBeat)?.chord ?? null;

/** Key and chords of a track as measured. */
export type HarmonyEstimate = z.infer<typeof harmonyEstimateSchema>;
