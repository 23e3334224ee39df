/** Measures of the whole mix as people read them: what they are called, each side's value, the gap. */
import { keyName } from "@/core/harmony/keys";
import { measureRules, type ComparedMeasure } from "@/core/match";
import { fixed, signed } from "./format";
import type { SideNumbers } from "./overview";

/** What a measure is called where its aspect stands beside it. */
export const measureTitles: Partial<Record<ComparedMeasure["name"], string>> = {
  transposition: "transposition",
  chords: "key, chords in common",
  sections: "bars recreated",
  drumHits: "hits in common",
  hitTiming: "steps, on average",
  swing: "first of two notes",
  accents: "steps, on average",
  bassNotes: "notes in common",
  bassLength: "length of the notes",
  bassEvenness: "spread of their levels",
  noteTiming: "notes, in the middle",
  kickLength: "length of the kick",
  kickToBass: "kick to bass",
  integratedLoudness: "integrated",
  loudnessRange: "loudness range",
  peakToLoudness: "peak to loudness",
  attack: "attack of the hits",
  sustain: "sustain of the hits",
  pumping: "dip at the kicks",
  tone: "slope, average gap",
  width: "side to mid, average gap",
  reverberance: "level in the gaps",
  elementLevel: "level",
  elementTone: "tone",
  elementWidth: "side to mid",
  elementBalance: "left to right",
  toneMovement: "tone from bar to bar",
  levelMovement: "level from bar to bar",
  elementSpace: "level in the gaps",
  strokeLength: "length of the strokes",
  presence: "bars played in",
};

const valueUnit: Record<ComparedMeasure["name"], string> = {
  tempo: "BPM",
  transposition: "semitones",
  chords: "%",
  sections: "%",
  drumHits: "%",
  hitTiming: "ms",
  swing: "%",
  accents: "dB",
  bassNotes: "%",
  bassLength: "octaves",
  bassEvenness: "dB",
  noteTiming: "ms",
  kickLength: "beats",
  kickToBass: "dB",
  integratedLoudness: "LUFS",
  loudnessRange: "LU",
  peakToLoudness: "LU",
  attack: "dB",
  sustain: "dB",
  pumping: "dB",
  reverberance: "dB",
  tone: "dB",
  width: "dB",
  elementLevel: "dB",
  elementTone: "dB",
  elementWidth: "dB",
  elementBalance: "dB",
  toneMovement: "dB",
  levelMovement: "dB",
  elementSpace: "dB",
  strokeLength: "ms",
  presence: "%",
};

/** What is typical of a measure that is held against the style; empty where it is no range. */
export function typicalRangeWords({ name, typical }: ComparedMeasure): string {
  if (typeof typical !== "object") return "";
  const [low, high] = [fixed(typical.low), fixed(typical.high)];
  return `${low === high ? low : `${low} to ${high}`} ${valueUnit[name]}`;
}

/** What one side measures; empty where the measure belongs to neither side alone. */
export function valueWords(
  measure: ComparedMeasure,
  side: "reference" | "version",
  numbers: Record<"reference" | "version", SideNumbers>,
): string {
  if (measure.typical && side === "reference") return typicalRangeWords(measure);
  if (measure.typical && measure.name === "width")
    return measure.version === null ? "–" : `${fixed(measure.version)} ${valueUnit.width}`;
  if (measure.name === "tone") {
    const slope = numbers[side].slopeDbPerOctave;
    return slope === null ? "–" : `${fixed(slope)} dB/oct`;
  }
  if (measure.name === "transposition") {
    return signed(measure[side], 0);
  }
  if (measure.name === "chords") {
    const { key } = numbers[side];
    return key ? keyName(key) : "–";
  }
  // What both have in common belongs to neither side.
  if (
    measureRules[measure.name].isShare ||
    measure.name === "hitTiming" ||
    measure.name === "noteTiming" ||
    measure.name === "accents" ||
    measure.name === "bassNotes" ||
    measure.name === "bassLength" ||
    measure.name === "pumping" ||
    measure.name === "width" ||
    measure.name === "reverberance"
  )
    return "";
  if (measure[side] === null) return "–";
  return `${fixed(measure[side], measure.name === "tempo" || measure.name === "kickLength" ? 2 : 1)} ${valueUnit[measure.name]}`;
}

/** How far the version is off. */
export function mixGapWords(measure: Pick<ComparedMeasure, "name" | "gap">): string {
  const { unit } = measureRules[measure.name];
  if (measure.gap === null) return "–";
  if (measure.name === "transposition") return `${signed(measure.gap, 0)} semitones`;
  if (measureRules[measure.name].isShare || measure.name === "bassNotes")
    return `${signed(measure.gap, 0)} %`;
  if (unit === "octaves") return `×${fixed(2 ** measure.gap, 2)}`;
  return measure.name === "tone" ||
    measure.name === "elementTone" ||
    measure.name === "width" ||
    measure.name === "hitTiming" ||
    measure.name === "accents"
    ? `${fixed(measure.gap)} ${unit}`
    : `${signed(measure.gap, unit === "%" ? 2 : 1)} ${unit}`;
}
