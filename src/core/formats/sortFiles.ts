/** Which file of several is what, guessed from their names: to be confirmed by a person. */
import { isAudioName, withoutExtension } from "./fileNames";

export const fileRoles = ["reference", "version", "stem", "yardstick", "leave out"] as const;
export type FileRole = (typeof fileRoles)[number];

/** Words of a name, in lower case: digits stand apart from letters. */
export const nameWords = (name: string): string[] =>
  withoutExtension(name)
    .toLowerCase()
    .split(/[^\p{L}\p{N}]+|(?<=\p{L})(?=\p{N})|(?<=\p{N})(?=\p{L})/u)
    .filter(Boolean);

const referenceWords = new Set(["ref", "reference", "original", "target"]);
const versionWords = new Set([
  "v",
  "ver",
  "version",
  "mix",
  "render",
  "bounce",
  "take",
  "rebuild",
  "remake",
  "recreation",
  "cover",
  "draft",
  "wip",
  "try",
]);
const stemWords = new Set([
  "stem",
  "kick",
  "kicks",
  "bd",
  "snare",
  "clap",
  "hat",
  "hats",
  "hihat",
  "hh",
  "perc",
  "percussion",
  "drum",
  "drums",
  "bass",
  "sub",
  "lead",
  "vocal",
  "vocals",
  "vox",
  "pad",
  "pads",
  "chords",
  "keys",
  "piano",
  "guitar",
  "synth",
  "strings",
  "fx",
]);

/**
 * @param hasReference whether there is one already, so that none of the files must be it.
 * @returns what each file is likely to be, in the order of the names; at most one is the reference.
 */
export function guessRoles(names: readonly string[], hasReference: boolean): FileRole[] {
  const roles = names.map((name): FileRole => {
    if (!isAudioName(name)) return "leave out";
    const words = nameWords(name);
    if (words.some((word) => referenceWords.has(word))) return "reference";
    if (words.some((word) => versionWords.has(word))) return "version";
    return words.some((word) => stemWords.has(word)) ? "stem" : "version";
  });
  const named = roles.indexOf("reference");
  // Several that say so cannot all be it.
  const isOpen = (i: number) =>
    roles[i] === "version" && !nameWords(names[i]!).some((word) => versionWords.has(word));
  const first = roles.findIndex((_, i) => isOpen(i));
  const any = roles.findIndex((role) => role === "version");
  const chosen = named >= 0 ? named : hasReference ? -1 : first >= 0 ? first : any;
  return roles.map((role, i) => (i === chosen ? "reference" : role === "reference" ? "version" : role));
}

/** Places of names in the order that people count in: `mix 2` before `mix 10`. */
export function countingOrder(names: readonly string[]): number[] {
  const collator = new Intl.Collator("en", { numeric: true, sensitivity: "base" });
  return names.map((_, i) => i).sort((a, b) => collator.compare(names[a]!, names[b]!) || a - b);
}
