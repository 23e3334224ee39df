/** Hits of a track taken from its drum stems where it has any: an isolated part is heard far better. */
import { withoutExtension } from "../formats/fileNames";
import type { Seconds } from "../units";
import { asColumns, asHits, type DrumEstimate, type DrumHit } from "./hits";
import { drumVoices, type DrumVoice } from "./voices";

/** A stem with what was heard in it and where it begins in its track. */
export interface DrumStem {
  /** What it is called: by the element that it is tied to, or by its file. */
  name: string;
  offsetSeconds: Seconds;
  estimate: DrumEstimate;
}

/** Words by which stems are known, and the voices that they hold. */
const words: readonly [RegExp, readonly DrumVoice[]][] = [
  [/\b((?<!bass ?)drums?|drum ?kit|beats?|breaks?|rhythm|kit)\b/i, drumVoices],
  [/\b(kicks?|bass ?drum|bd)\b/i, ["kick"]],
  [/\b(snares?|sn|sd)\b/i, ["snare"]],
  [/\b(claps?)\b/i, ["clap"]],
  [/\b(rims?|rim ?shots?|side ?sticks?)\b/i, ["rim"]],
  [/\b(hats?|hi-?hats?|hh)\b/i, ["hat", "openHat"]],
  [/\b(toms?)\b/i, ["tom"]],
  [/\b(cymbals?|crash(es)?|rides?)\b/i, ["cymbal"]],
  [/\b(perc|percussion|congas?|bongos?|shakers?|tambourines?|cowbells?)\b/i, ["perc"]],
];

/** The voices that a stem of this name holds; none where the name says nothing of drums. */
export function voicesOfStem(name: string): readonly DrumVoice[] {
  const plain = withoutExtension(name).replace(/[_]+/g, " ");
  const found = words.filter(([word]) => word.test(plain)).flatMap(([, voices]) => voices);
  return drumVoices.filter((voice) => found.includes(voice));
}

/** Strokes nearer than this in a stem of one voice are one stroke that was heard as two voices. */
const oneStroke: Seconds = 0.02;

function hitsOfStem({ name, offsetSeconds, estimate }: DrumStem): DrumHit[] {
  const voices = voicesOfStem(name);
  const placed = asHits(estimate).map((hit) => ({ ...hit, time: hit.time + offsetSeconds }));
  if (voices.length > 2) return placed.filter(({ voice }) => voices.includes(voice));
  // A stem of one drum holds nothing else, whatever its strokes sound like.
  const hits: DrumHit[] = [];
  for (const hit of placed) {
    const voice = voices.includes(hit.voice) ? hit.voice : voices[0]!;
    // Nothing else is there that could have been mistaken for it.
    const confidence = Math.sqrt(hit.confidence);
    const last = hits.at(-1);
    if (last && hit.time - last.time < oneStroke) {
      if (confidence > last.confidence) hits[hits.length - 1] = { ...hit, voice, confidence };
    } else hits.push({ ...hit, voice, confidence });
  }
  return hits;
}

/** What was heard of a track's drums with its stems, and by which stem each voice is known. */
export function withStems(
  own: DrumEstimate,
  stems: readonly DrumStem[],
): { estimate: DrumEstimate; sources: Partial<Record<DrumVoice, string>> } {
  // A stem of one voice knows it better than one of all.
  const known = [...stems]
    .filter(({ name }) => voicesOfStem(name).length > 0)
    .sort((a, b) => voicesOfStem(b.name).length - voicesOfStem(a.name).length);
  if (known.length === 0) return { estimate: own, sources: {} };
  const sources: Partial<Record<DrumVoice, string>> = {};
  for (const stem of known) for (const voice of voicesOfStem(stem.name)) sources[voice] = stem.name;
  const hits = [
    ...asHits(own).filter(({ voice }) => sources[voice] === undefined),
    ...known.flatMap((stem) => hitsOfStem(stem).filter(({ voice }) => sources[voice] === stem.name)),
  ];
  return { estimate: asColumns(hits, own.bassNotes), sources };
}
