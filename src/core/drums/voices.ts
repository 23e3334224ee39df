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
