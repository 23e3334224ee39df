import type { ElementAspect, MixAspect } from "@/core/match";

/** What aspects of whole mixes are called in front of people. */
export const aspectTitles: Record<MixAspect, string> = {
  tempo: "Tempo",
  harmony: "Harmony",
  form: "Form",
  pattern: "Drum pattern",
  timing: "Drum timing",
  swing: "Swing",
  accents: "Accents",
  bass: "Bass line",
  lowEnd: "Kick and bass",
  loudness: "Loudness",
  dynamics: "Dynamics",
  punch: "Punch",
  pumping: "Pumping",
  tone: "Tone",
  width: "Width",
  space: "Space",
};

/** What aspects of elements are called. */
export const elementAspectTitles: Record<ElementAspect, string> = {
  level: "Level",
  tone: "Tone",
  width: "Width and position",
  presence: "Where it plays",
  movement: "Movement",
  space: "Space",
  envelope: "Envelope",
  pattern: "Pattern",
  timing: "Timing",
  accents: "Accents",
  notes: "Notes",
  chords: "Chords",
};
