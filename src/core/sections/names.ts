/** Suggested names of sections from how full they are and where they stand. */

const { max } = Math;

/** What a name is suggested from. */
export interface SectionTraits {
  letter: string;
  bars: number;
  /** Mean K-weighted level, LUFS. */
  loudness: number;
  /** Probability that drums and bass play. */
  drums: number;
  bass: number;
  /** Whether something rises towards its end. */
  rises: boolean;
}

/** Names that are suggested and offered. */
export const sectionNames = [
  "intro",
  "verse",
  "build",
  "chorus",
  "drop",
  "break",
  "bridge",
  "outro",
] as const;

/** Louder by so much counts as much as one more group of elements that plays: dB. */
const loudnessWorth = 4;

const fullness = ({ loudness, drums, bass }: SectionTraits, loudest: number): number =>
  max(-4, (loudness - loudest) / loudnessWorth) + drums + bass;

/** A section this much less full than the fullest is a quiet one. */
const quietBelow = 1.1;
const longestEdge = 16;
const longestBuild = 8;

/** One name a section, numbered where it comes again: `verse`, `chorus`, `verse 2`. */
export function suggestedNames(sections: readonly SectionTraits[]): string[] {
  if (sections.length === 0) return [];
  const loudest = max(...sections.map(({ loudness }) => loudness));
  const full = sections.map((section) => fullness(section, loudest));
  const fullest = max(...full);
  const byLetter = new Map<string, number[]>();
  sections.forEach(({ letter }, i) => byLetter.set(letter, [...(byLetter.get(letter) ?? []), i]));
  const isQuiet = (i: number) => full[i]! < fullest - quietBelow;
  const last = sections.length - 1;

  const names: (string | null)[] = sections.map(() => null);
  if (last > 0) {
    const next = full[1]!;
    if (sections[0]!.bars <= longestEdge && (isQuiet(0) || full[0]! < next - 0.3)) names[0] = "intro";
    const before = full[last - 1]!;
    if (sections[last]!.bars <= longestEdge && (isQuiet(last) || full[last]! < before - 0.3))
      names[last] = "outro";
  }
  // The fullest material is the chorus; between equals the one that comes again, then the later one.
  const middle = sections.flatMap((_, i) => (names[i] === null && !isQuiet(i) ? [i] : []));
  const letters = [...new Set(middle.map((i) => sections[i]!.letter))];
  const mean = (letter: string) => {
    const own = middle.filter((i) => sections[i]!.letter === letter);
    return own.reduce((sum, i) => sum + full[i]!, 0) / own.length;
  };
  const chorus =
    letters.length > 1
      ? letters.reduce((best, letter) =>
          mean(letter) + 0.05 * (byLetter.get(letter)!.length - byLetter.get(best)!.length) >= mean(best)
            ? letter
            : best,
        )
      : null;
  const isLate = (i: number) => chorus !== null && i > 0.6 * last;
  sections.forEach((section, i) => {
    if (names[i] !== null) return;
    if (section.letter === chorus) names[i] = "chorus";
    else if (isQuiet(i)) {
      const rises = section.bars <= longestBuild && section.rises;
      const leads = sections[i + 1]?.letter === chorus && chorus !== null;
      names[i] = rises && leads ? "build" : "break";
    } else if (isLate(i) && byLetter.get(section.letter)!.length === 1 && letters.length > 2) {
      // Late and heard only once: the last word, or a bridge before it.
      names[i] = i === last ? "outro" : "bridge";
    } else names[i] = "verse";
  });
  const counts = new Map<string, number>();
  return names.map((name) => {
    const count = (counts.get(name!) ?? 0) + 1;
    counts.set(name!, count);
    return count === 1 ? name! : `${name} ${count}`;
  });
}
