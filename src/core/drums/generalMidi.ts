/** The percussion map of General MIDI (General MIDI System Level 1, 1991; shaker and above from General MIDI 2). */
import type { DrumVoice } from "./voices";

const voices: Partial<Record<number, DrumVoice>> = {
  35: "kick",
  36: "kick",
  37: "rim",
  38: "snare",
  39: "clap",
  40: "snare",
  41: "tom",
  42: "hat",
  43: "tom",
  44: "hat",
  45: "tom",
  46: "openHat",
  47: "tom",
  48: "tom",
  49: "cymbal",
  50: "tom",
  51: "cymbal",
  52: "cymbal",
  53: "cymbal",
  55: "cymbal",
  57: "cymbal",
  59: "cymbal",
};

const firstNote = 35;
const lastNote = 82;

/** The voice of a note on the drum channel; null outside the map. All that is no drum of the kit is percussion. */
export const voiceOfNote = (note: number): DrumVoice | null =>
  voices[note] ?? (note >= firstNote && note <= lastNote ? "perc" : null);

/** The note that each voice is written as. */
export const noteOfVoice: Record<DrumVoice, number> = {
  kick: 36,
  snare: 38,
  clap: 39,
  rim: 37,
  hat: 42,
  openHat: 46,
  tom: 45,
  cymbal: 49,
  perc: 63,
};
