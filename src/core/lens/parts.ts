/** What a mix is taken apart into. */
import type { DrumVoice } from "../drums/voices";

export const drumParts = ["kick", "snare", "hats", "percussion"] as const;
export type DrumPart = (typeof drumParts)[number];

/** Parts of a mix that add up to it; "music" is all that is neither struck nor bass. */
export const lensParts = [...drumParts, "bass", "music"] as const;
export type LensPart = (typeof lensParts)[number];

export const ofLensParts = <T>(of: (part: LensPart) => T): Record<LensPart, T> =>
  Object.fromEntries(lensParts.map((part) => [part, of(part)])) as Record<LensPart, T>;
export const ofDrumParts = <T>(of: (part: DrumPart) => T): Record<DrumPart, T> =>
  Object.fromEntries(drumParts.map((part) => [part, of(part)])) as Record<DrumPart, T>;

export const partOfVoice: Record<DrumVoice, DrumPart> = {
  kick: "kick",
  snare: "snare",
  clap: "snare",
  rim: "snare",
  hat: "hats",
  openHat: "hats",
  tom: "percussion",
  cymbal: "percussion",
  perc: "percussion",
};
