/** Which file of several is what, guessed from their names and their sound: to be confirmed by a person. */
import { isAudioName, withoutExtension } from "./fileNames";
import { isPartOf, sketchPower, type SoundSketch } from "./soundSketch";

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

const has = (name: string, list: ReadonlySet<string>): boolean =>
  nameWords(name).some((word) => list.has(word));

/** Whether a name says by itself what the file is. */
export const saysItself = (name: string): boolean =>
  !isAudioName(name) || [referenceWords, versionWords, stemWords].some((list) => has(name, list));

/** A record is mastered: this much more power than any other file, and it is likelier to be one than a sketch of it. */
const mastered = 2;

/**
 * @param hasReference whether there is one already, so that none of the files must be it.
 * @param sketches how each file sounds, as far as that is known: it tells of those whose names say nothing.
 * @returns what each file is likely to be, in the order of the names; at most one is the reference.
 */
export function guessRoles(
  names: readonly string[],
  hasReference: boolean,
  sketches: readonly (SoundSketch | null)[] = [],
): FileRole[] {
  const isOpen = (i: number) => !saysItself(names[i]!);
  const isPart = (i: number) => {
    const own = sketches[i];
    return !!own && sketches.some((other, k) => k !== i && other && isPartOf(own, other));
  };
  const roles = names.map((name, i): FileRole => {
    if (!isAudioName(name)) return "leave out";
    if (has(name, referenceWords)) return "reference";
    if (has(name, versionWords)) return "version";
    return has(name, stemWords) || isPart(i) ? "stem" : "version";
  });
  const open = names.flatMap((_, i) => (roles[i] === "version" && isOpen(i) ? [i] : []));
  const byPower = open
    .flatMap((i) => (sketches[i] ? [{ i, power: sketchPower(sketches[i]) }] : []))
    .sort((a, b) => b.power - a.power);
  const loudest =
    byPower.length > 1 && byPower[0]!.power > mastered * byPower[1]!.power ? byPower[0]!.i : null;
  const named = roles.indexOf("reference");
  const any = roles.indexOf("version");
  const chosen = named >= 0 ? named : hasReference ? -1 : (loudest ?? open[0] ?? any);
  // Several that say so cannot all be it.
  return roles.map((role, i) => (i === chosen ? "reference" : role === "reference" ? "version" : role));
}

/** Places of names in the order that people count in: `mix 2` before `mix 10`. */
export function countingOrder(names: readonly string[]): number[] {
  const collator = new Intl.Collator("en", { numeric: true, sensitivity: "base" });
  // What follows a name would come between it and the same name with a number.
  const bare = names.map(withoutExtension);
  return names.map((_, i) => i).sort((a, b) => collator.compare(bare[a]!, bare[b]!) || a - b);
}
