/** What the producer has said of what was to be done, and what came of it. */
import { mixAspects } from "@/core/match";
import { matchOf, type Mark, type StudyRecord, type VersionScores } from "@/core/study";
import type { Finding } from "./findings";

/** Two ranges are the same region where they share half of the narrower one. */
function isSameRange(a: { fromHz: number; toHz: number }, b: { fromHz: number; toHz: number }): boolean {
  const width = ({ fromHz, toHz }: typeof a) => Math.log2(toHz / Math.max(1, fromHz));
  const shared = Math.log2(Math.min(a.toHz, b.toHz) / Math.max(1, a.fromHz, b.fromHz));
  return shared >= 0.5 * Math.min(width(a), width(b));
}

/** Whether a mark is about a finding: by its key, or where the spectrum's regions have moved a little. */
const isAbout = (key: string, { place }: Mark, finding: Finding): boolean =>
  place.kind === "range" && finding.place.kind === "range"
    ? isSameRange(place, finding.place)
    : key === finding.key;

export interface SortedFindings {
  /** Still to be done. */
  open: Finding[];
  /** Set aside, with the key of the mark and what it says. */
  aside: { key: string; mark: Mark; finding: Finding }[];
}

/** What was done counts as done for the version that it was listed for: the next one shows what came of it. */
export function sortFindings(
  findings: readonly Finding[],
  marks: StudyRecord["marks"],
  version: number,
): SortedFindings {
  const sorted: SortedFindings = { open: [], aside: [] };
  for (const finding of findings) {
    const found = Object.entries(marks).find(
      ([key, own]) => isAbout(key, own, finding) && (own.mark !== "done" || own.version === version),
    );
    if (found) sorted.aside.push({ key: found[0], mark: found[1], finding });
    else sorted.open.push(finding);
  }
  return sorted;
}

/** What something that was done has brought. */
export interface Effect {
  title: string;
  /** Points that it was worth when it was done. */
  expected: number;
  /** Points of the match that came of it. */
  got: number;
  /** The version that it was listed for. */
  since: number;
}

/** The score that a place stands for; null where it has none. */
function scoreAt({ aspects, elements }: VersionScores, place: Mark["place"]): number | null {
  if (place.kind === "aspect") return aspects[place.aspect];
  if (place.kind === "range") return aspects.tone;
  if (place.kind === "element") return elements[place.elementId] ?? null;
  return null;
}

/** A version with one of its scores as it was in another. */
function withScore(own: VersionScores, place: Mark["place"], score: number): VersionScores {
  if (place.kind === "element") return { ...own, elements: { ...own.elements, [place.elementId]: score } };
  const aspect = place.kind === "aspect" ? place.aspect : "tone";
  return mixAspects.includes(aspect) ? { ...own, aspects: { ...own.aspects, [aspect]: score } } : own;
}

/** What was done for the version before the chosen one, and what of its points has come. */
export function effectsOf(
  chosen: VersionScores,
  scores: readonly VersionScores[],
  study: Pick<StudyRecord, "marks" | "elements" | "aspectWeights">,
): Effect[] {
  const before = scores.slice(0, scores.indexOf(chosen)).findLast(({ match }) => match !== null);
  if (!before) return [];
  return Object.values(study.marks).flatMap(({ mark, title, points, place, version }) => {
    if (mark !== "done" || points === null || version !== before.number) return [];
    const was = scoreAt(before, place);
    const [now, without] = [
      matchOf(chosen, study),
      was === null ? null : matchOf(withScore(chosen, place, was), study),
    ];
    return now === null || without === null
      ? []
      : [{ title, expected: points, got: now - without, since: version }];
  });
}
