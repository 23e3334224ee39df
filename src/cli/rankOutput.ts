/** What `rank` prints. */
import { z } from "zod";
import { drumVoiceSchema } from "@/core/drums";
import type { DrumVoice } from "@/core/drums/voices";
import { closenessRules, type Ranked } from "@/core/hits";

export const rankOutputSchema = z.object({
  voice: drumVoiceSchema,
  /** Best first. */
  candidates: z.array(
    z.object({
      file: z.string(),
      score: z.number(),
      /** Correlation of the waveforms: near 1 it is the same recording. */
      likeness: z.number(),
      aspects: z.array(z.object({ name: z.string(), score: z.number(), gap: z.number(), unit: z.string() })),
      suggestion: z.object({ semitones: z.number(), decay: z.number(), score: z.number() }).nullable(),
    }),
  ),
});

const rounded = (value: number, places: number): number => Math.round(value * 10 ** places) / 10 ** places;

export const rankOutput = (
  voice: DrumVoice,
  ranked: readonly ({ file: string } & Ranked)[],
): z.infer<typeof rankOutputSchema> => ({
  voice,
  candidates: ranked.map(({ file, closeness, likeness, suggestion }) => ({
    file,
    score: rounded(closeness.score, 1),
    likeness: rounded(likeness, 3),
    aspects: closeness.aspects.map(({ name, score, gap }) => ({
      name,
      score: rounded(score, 1),
      gap: rounded(gap, 2),
      unit: closenessRules[name].unit,
    })),
    suggestion: suggestion && { ...suggestion, score: rounded(suggestion.score, 1) },
  })),
});
