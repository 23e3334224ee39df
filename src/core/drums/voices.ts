/** The voices that drum hits are told apart by. */
import { z } from "zod";

/** All voices, in the order in which they are listed: from the lowest to the highest, then the rest. */
export const drumVoices = [
  "kick",
  "snare",
  "clap",
  "rim",
  "hat",
  "openHat",
  "tom",
  "cymbal",
  "perc",
] as const;

/** Where each voice stands in `drumVoices`. */
export const voiceIndex = Object.fromEntries(drumVoices.map((voice, i) => [voice, i])) as Record<
  DrumVoice,
  number
>;

export const drumVoiceSchema = z.enum(drumVoices);
export type DrumVoice = z.infer<typeof drumVoiceSchema>;

/** How each voice is called on screen and in sentences. */
export const voiceNames: Record<DrumVoice, string> = {
  kick: "Kick",
  snare: "Snare",
  clap: "Clap",
  rim: "Rim",
  hat: "Closed hat",
  openHat: "Open hat",
  tom: "Toms",
  cymbal: "Cymbals",
  perc: "Percussion",
};

/** Voices that play the back-beat. */
export const backVoices: readonly DrumVoice[] = ["snare", "clap", "rim"];

/** Items of each voice that has any, in the order of the voices. */
export function byVoice<T>(items: readonly T[], voiceOf: (item: T) => DrumVoice): [DrumVoice, T[]][] {
  const groups: T[][] = drumVoices.map(() => []);
  for (const item of items) groups[voiceIndex[voiceOf(item)]]!.push(item);
  return drumVoices.flatMap((voice, i): [DrumVoice, T[]][] =>
    groups[i]!.length > 0 ? [[voice, groups[i]!]] : [],
  );
}
