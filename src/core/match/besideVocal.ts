/** How loud elements are beside the vocal: what a listener follows, and what the others are mixed under. */
import { nameWords } from "../formats/sortFiles";
import type { Decibels } from "../units";
import type { ComparedElement } from "./compareElements";

/** Words by which an element is known to be sung or spoken; common practice, no source. */
const vocalWords = ["vocal", "vocals", "vox", "voice", "voices", "singer", "choir", "rap"];

export interface BesideVocal {
  /** What the vocal is called. */
  vocal: string;
  /** Level over that of the vocal on both sides, and version less reference. */
  reference: Decibels;
  version: Decibels;
  gap: Decibels;
}

const levelOf = ({ aspects }: ComparedElement) => {
  const [level] = aspects.find(({ name }) => name === "level")?.measures ?? [];
  return level && level.reference !== null && level.version !== null
    ? { reference: level.reference, version: level.version }
    : null;
};

/**
 * @param elements with what they are compared in; those that are left out do not count as the vocal.
 * @returns for each; null where it is the vocal itself, there is none, or a level is not known.
 */
export function besideVocal(
  elements: readonly { element: { id: string; name: string; state: string }; compared: ComparedElement }[],
): Record<string, BesideVocal | null> {
  const vocal = elements.find(
    ({ element: { name, state } }) =>
      state !== "left out" && nameWords(name).some((word) => vocalWords.includes(word)),
  );
  const its = vocal && levelOf(vocal.compared);
  return Object.fromEntries(
    elements.map(({ element: { id }, compared }) => {
      const own = levelOf(compared);
      if (!vocal || !its || !own || id === vocal.element.id) return [id, null];
      const [reference, version] = [own.reference - its.reference, own.version - its.version];
      return [id, { vocal: vocal.element.name, reference, version, gap: version - reference }];
    }),
  );
}
