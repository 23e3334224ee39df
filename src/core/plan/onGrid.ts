/** Annotations in seconds brought to the beats and bars of a grid. */
import { barsOf, beatAt, type Grid } from "../grid/grid";
import type { Chord } from "../harmony/chords";
import type { PlacedChord } from "../harmony/harmonyEstimate";
import { letterAt } from "../sections/letters";
import type { Seconds } from "../units";
import type { CountedSection } from "./trackPlan";

const { max, min, round } = Math;

/** Chords begin on the nearest beats; what lies between them is no chord; none is shorter than a beat or goes on after the last. */
export function chordsOnGrid(
  chords: readonly { start: Seconds; end: Seconds; chord: Chord | null }[],
  grid: Grid,
): PlacedChord[] {
  const placed: PlacedChord[] = [];
  const lastBeat = grid.beats.length - 1 - grid.barOne;
  let reached = -Infinity;
  for (const { start, end, chord } of chords) {
    const from = max(reached, round(beatAt(grid, start)));
    const to = min(lastBeat, round(beatAt(grid, end)));
    if (to <= from) continue;
    if (reached > -Infinity && from > reached) {
      placed.push({ startBeat: reached, endBeat: from, chord: null, confidence: 1 });
    }
    placed.push({ startBeat: from, endBeat: to, chord, confidence: 1 });
    reached = to;
  }
  return placed;
}

/** Sections begin on the nearest bars; those of the same name get the same letter. */
export function sectionsOnGrid(
  sections: readonly { start: Seconds; end: Seconds; name: string }[],
  grid: Grid,
): CountedSection[] {
  const letters = new Map<string, string>();
  const material = (name: string) =>
    name
      .trim()
      .toLowerCase()
      .replace(/[\s_-]*\d+$/, "");
  const { last } = barsOf(grid);
  const bar = (seconds: Seconds) => round(beatAt(grid, seconds) / grid.beatsPerBar) + 1;
  const placed: CountedSection[] = [];
  for (const { start, end, name } of sections) {
    const firstBar = max(bar(start), (placed.at(-1)?.lastBar ?? -Infinity) + 1);
    const lastBar = min(last, bar(end) - 1);
    if (lastBar < firstBar) continue;
    const key = material(name);
    if (!letters.has(key)) letters.set(key, letterAt(letters.size));
    placed.push({ firstBar, lastBar, name: name.trim() || "section", letter: letters.get(key)! });
  }
  return placed;
}
