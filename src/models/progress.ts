/** What each version changed, by measurement, and which is the best so far. */
import type { MixAspect } from "@/core/match";
import {
  leastChange,
  type Cause,
  type StudyRecord,
  type TrackRecord,
  type VersionScores,
} from "@/core/study";
import { aspectTitles } from "./aspectTitles";
import { rangeInWords } from "./findings";
import { points, signed } from "./format";
import { measureTitles, mixGapWords } from "./measureWords";

/** A score that moved. */
export interface ScoreChange {
  name: string;
  /** Points; above 0 it is closer than before. */
  by: number;
  /** What it moved with, as `causeWords` says; empty where that cannot be said. */
  cause: string;
}

/** What moved between two versions, the largest change first; elements that are left out do not count. */
export function changesBetween(
  before: VersionScores,
  after: VersionScores,
  { elements }: Pick<StudyRecord, "elements">,
): ScoreChange[] {
  const change = (
    key: string,
    name: string,
    was: number | null | undefined,
    is: number | null | undefined,
  ): ScoreChange[] =>
    was === null || was === undefined || is === null || is === undefined
      ? []
      : [{ name, by: is - was, cause: after.causes[key] ? causeWords(after.causes[key]) : "" }];
  return [
    ...Object.entries(after.aspects).flatMap(([name, score]) =>
      change(name, aspectTitles[name as MixAspect].toLowerCase(), before.aspects[name as MixAspect], score),
    ),
    ...elements.flatMap(({ id, name }) =>
      change(id, name.toLowerCase(), before.elements[id], after.elements[id]),
    ),
  ]
    .filter(({ by }) => Math.abs(by) >= leastChange)
    .sort((a, b) => Math.abs(b.by) - Math.abs(a.by));
}

/** `bass +12 (level −4.1 → −0.5 dB), hats −6`: the largest first, the causes of the first few. */
export const changeWords = (changes: readonly ScoreChange[], most = 4, explained = 0): string =>
  changes
    .slice(0, most)
    .map(({ name, by, cause }, i) => {
      const moved = `${name} ${by > 0 ? "+" : "−"}${Math.round(Math.abs(by))}`;
      return i < explained && cause !== "" ? `${moved} (${cause})` : moved;
    })
    .join(", ");

/** Two gaps with the unit that they share said once: `+3.9 → +1.2 LU`. */
function fromTo(was: string, is: string): string {
  const unit = / [^ ]+$/.exec(is)?.[0] ?? "";
  return `${unit !== "" && was.endsWith(unit) ? was.slice(0, -unit.length) : was} → ${is}`;
}

/** What a score moved with, as gaps to the reference before and after: `level −4.1 → −0.5 dB`. */
export function causeWords(cause: Cause): string {
  if (cause.kind === "range") {
    const where = rangeInWords({ ...cause, centre: Math.sqrt(cause.fromHz * cause.toHz) });
    return `${where} ${fromTo(`${signed(cause.was)} dB`, `${signed(cause.is)} dB`)}`;
  }
  const { name } = cause;
  const [was, is] = [cause.was, cause.is].map((gap) => mixGapWords({ name, gap })) as [string, string];
  // Beside the table's values the title says first what each side's is; only the gap is told here.
  return `${measureTitles[name]?.split(", ").at(-1) ?? "gap"} ${fromTo(was, is)}`;
}

/** Of each version but the first what it changed against the one before, by track id. */
export function changesByVersion(
  scores: readonly VersionScores[],
  study: Pick<StudyRecord, "elements">,
): Map<string, ScoreChange[]> {
  const known = scores.filter(({ match }) => match !== null);
  return new Map(known.slice(1).map((own, i) => [own.trackId, changesBetween(known[i]!, own, study)]));
}

/** The version with the highest score of each kind; the newest of equals. Null where none has one. */
export function bestVersion(
  scores: readonly VersionScores[],
  scoreOf: (scores: VersionScores) => number | null | undefined,
): VersionScores | null {
  let best: VersionScores | null = null;
  for (const own of scores) {
    const score = scoreOf(own);
    if (score === null || score === undefined) continue;
    if (!best || score >= scoreOf(best)! - 1e-9) best = own;
  }
  return best;
}

/** What a version that has just arrived brought, against the one before it that has a match. */
export function arrivalWords(
  { id, number }: Pick<TrackRecord, "id" | "number">,
  scores: readonly VersionScores[],
  study: Pick<StudyRecord, "elements">,
): string {
  const added = `Added as version ${number}.`;
  const index = scores.findIndex(({ trackId }) => trackId === id);
  const own = scores[index];
  if (!own || own.match === null) return added;
  const before = scores.slice(0, index).findLast(({ match }) => match !== null);
  if (!before) return `${added} Match ${points(own.match)}.`;
  const by = Math.round(own.match) - Math.round(before.match!);
  const moved = changeWords(changesBetween(before, own, study), 4, 1);
  const against = by === 0 ? `as version ${before.number}` : `${signed(by, 0)} on version ${before.number}`;
  return `${added} Match ${points(own.match)}, ${against}${moved ? `: ${moved}` : ""}.`;
}

/** How far a target is: of the chosen version, and of the best where that is another one. */
export function targetWords(
  target: number,
  scores: readonly VersionScores[],
  best: VersionScores | null,
  chosenId: string | undefined,
): string {
  const own = scores.find(({ trackId }) => trackId === chosenId) ?? best;
  if (!own || own.match === null || !best) return "";
  const toGo = ({ match, number }: VersionScores) => {
    const left = Math.ceil(target - match!);
    return left <= 0 ? `version ${number} has reached it` : `version ${number} has ${left} to go`;
  };
  return own.trackId === best.trackId ? `${toGo(own)}.` : `${toGo(own)}; ${toGo(best)}.`;
}
