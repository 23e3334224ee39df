/** Which element a stem belongs to, by what it is called and by what is heard in it. */
import type { TrackAnalysis } from "../analysis/result";
import { asHits, leastConfidence } from "../drums/hits";
import { nameWords } from "../formats/sortFiles";
import { voicesOfStem } from "../drums/stems";
import { partOfVoice, type LensPart } from "../lens/parts";
import { countedPlan } from "../plan";
import type { Fraction } from "../units";
import type { ElementRecord } from "./records";

/** What people call stems that hold one pitched part; common practice, no source. Drums have a list of their own. */
const pitchedWords = {
  bass: ["bass", "sub", "subbass"],
  music: ["chord", "chords", "pad", "pads", "keys", "piano", "organ", "guitar", "strings", "synth", "pluck"],
} as const satisfies Partial<Record<LensPart, readonly string[]>>;
/** Of what is pitched, words of an element by its own name. */
const leadWords = ["lead", "vocal", "vocals", "vox", "voice", "melody", "topline", "hook", "arp"];
const effectWords = ["fx", "effect", "effects", "riser", "sweep", "noise", "impact"];

/** Words of a name that say nothing of what it is. */
const joining = ["and", "or", "with", "the", "of"];

const singular = (word: string) => word.replace(/(?<=\w{3})s$/, "");

/** The only one of several that something holds for. */
const only = <T>(all: readonly T[], holds: (one: T) => boolean): T | null => {
  const own = all.filter(holds);
  return own.length === 1 ? own[0]! : null;
};

/** The parts that a stem of this name holds. */
function partsNamed(fileName: string, words: readonly string[]): LensPart[] {
  const drums = new Set(voicesOfStem(fileName).map((voice) => partOfVoice[voice]));
  const has = (list: readonly string[]) => words.some((word) => list.includes(word));
  // "Bass drum" is no bass.
  const isBass = has(pitchedWords.bass) && !(drums.has("kick") && words.includes("drum"));
  return [
    ...drums,
    ...(isBass ? (["bass"] as const) : []),
    ...(has(pitchedWords.music) ? (["music"] as const) : []),
  ];
}

function byName(fileName: string, elements: readonly ElementRecord[]): ElementRecord | null {
  const words = nameWords(fileName).filter((word) => !joining.includes(word));
  const parts = partsNamed(fileName, words);
  // Drums as a whole, or several parts in one file, are no one element.
  if (parts.length > 1) return null;
  const said = words.map(singular);
  const isBassDrum = parts[0] === "kick" && words.includes("bass");
  // The element whose own name says most of it.
  const shared = new Map(
    elements.map((element) => [
      element,
      nameWords(element.name).filter((word) => !joining.includes(word) && said.includes(singular(word)))
        .length,
    ]),
  );
  const most = Math.max(0, ...shared.values());
  if (most > 0 && !isBassDrum) return only(elements, (element) => shared.get(element) === most);
  const named = (list: readonly string[]) =>
    words.some((word) => list.includes(word))
      ? only(elements, ({ name }) => nameWords(name).some((word) => list.includes(word)))
      : null;
  const [part] = parts;
  return part ? only(elements, ({ lens }) => lens === part) : (named(leadWords) ?? named(effectWords));
}

/** Nearly all that is heard is of one part. */
const nearlyAll: Fraction = 0.85;
const fewest = 6;

/** The one part that is heard in a stem; null where several are, or too little. */
export function heardPart({
  drums,
  bass,
  plan,
}: Pick<TrackAnalysis, "drums" | "bass" | "plan">): LensPart | null {
  const counts = new Map<LensPart, number>();
  for (const { voice, confidence } of asHits(drums)) {
    if (confidence < leastConfidence) continue;
    const part = partOfVoice[voice];
    counts.set(part, (counts.get(part) ?? 0) + 1);
  }
  const hits = [...counts.values()].reduce((sum, count) => sum + count, 0);
  const chords = countedPlan(plan).chords.filter(({ chord }) => chord !== null).length;
  // A kick has a pitch, too: its strokes may be taken for notes.
  for (const [part, count] of counts)
    if (
      count >= fewest &&
      count >= nearlyAll * hits &&
      (part === "kick" || bass.length < count / 4) &&
      chords < fewest
    )
      return part;
  if (hits >= fewest) return null;
  if (bass.length >= fewest && chords < fewest) return "bass";
  return chords >= fewest && bass.length < fewest ? "music" : null;
}

/**
 * The element that a stem belongs to.
 *
 * @param analysis of the stem; null while it is not known.
 * @returns null where neither its name nor its sound tells.
 */
export function elementOfStem(
  fileName: string,
  analysis: Pick<TrackAnalysis, "drums" | "bass" | "plan"> | null,
  elements: readonly ElementRecord[],
): ElementRecord | null {
  const named = byName(fileName, elements);
  if (named || !analysis) return named;
  const part = heardPart(analysis);
  return part && only(elements, ({ lens }) => lens === part);
}
