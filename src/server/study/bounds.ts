/** What an edit may say is bounded by the track that it is about, never by what the request claims. */
import { barsOf, type Grid } from "@/core/grid/grid";
import { refuse, type Outcome } from "@/core/outcome";
import type { ItemEdits, StemRecord, TrackRecord } from "@/core/study";
import type { Seconds } from "@/core/units";

/** What bounds an item's edits. */
export interface ItemBounds {
  item: TrackRecord | StemRecord;
  /** The grid as it counts with the edit; null where there is none yet. */
  grid: Grid | null;
  /** The grid of the reference; null where there is none yet. */
  referenceGrid: Grid | null;
}

/** More strokes than anything that is played or programmed. */
const mostHitsPerSecond = 60;
/** What may lie a little outside: a pick-up bar, a last note that rings on. */
const slackBars = 2;
const slackSeconds: Seconds = 2;

/** Without a grid: the bars that the fastest tempo that can be typed would give. */
const mostBarsIn = (seconds: Seconds) => Math.ceil((seconds / 60) * 400) + slackBars;

/** Why edits of an item do not fit the track they are of; null where they do. */
export function misfit(edits: ItemEdits, { item, grid, referenceGrid }: ItemBounds): Outcome<never> | null {
  const { durationSeconds } = item.file;
  const outside = (what: string) =>
    refuse("bad-request", `This can't be saved: ${what} lies outside the track.`, "Stay within its bars.");
  const most = mostBarsIn(durationSeconds);
  const bars = grid ? barsOf(grid) : { first: -most, last: most };
  const first = bars.first - slackBars;
  const last = bars.last + slackBars;
  const beatsPerBar = grid?.beatsPerBar ?? 1;

  const { barOneAt } = edits.grid;
  if (barOneAt !== undefined && barOneAt > durationSeconds + slackSeconds) return outside("bar 1");
  const sections = edits.form.sections ?? [];
  if (sections.some(({ firstBar, lastBar }) => firstBar < first || lastBar > last))
    return outside("a section");
  const chords = edits.harmony.chords ?? [];
  if (
    chords.some(
      ({ startBeat, endBeat }) => startBeat < (first - 1) * beatsPerBar || endBeat > last * beatsPerBar,
    )
  )
    return outside("a chord");

  const { added = [], removed = [], imported } = edits.drums;
  const mostHits = 200 + mostHitsPerSecond * durationSeconds;
  if (added.length > mostHits || removed.length > mostHits || (imported?.hits.length ?? 0) > mostHits) {
    return refuse(
      "bad-request",
      "This can't be saved: these are more hits than a track of this length can have.",
    );
  }
  if (
    [...added, ...removed].some(({ time }) => time < -slackSeconds || time > durationSeconds + slackSeconds)
  )
    return outside("a hit");
  const { added: notes = [] } = edits.bass;
  if (notes.some(({ start, end }) => start < -slackSeconds || end > durationSeconds + slackSeconds))
    return outside("a bass note");
  if (imported && (imported.firstBar < first || imported.firstBar > last)) return outside("the pattern");

  const { offsetSeconds } = edits;
  if (offsetSeconds !== null && Math.abs(offsetSeconds) > durationSeconds + 1200) return outside("the stem");

  for (const { referenceFirst, versionFirst, bars: count } of edits.coverage ?? []) {
    const reference = referenceGrid ? barsOf(referenceGrid) : { first: -most, last: most };
    if (
      versionFirst < first ||
      versionFirst + count - 1 > last ||
      referenceFirst < reference.first - slackBars ||
      referenceFirst + count - 1 > reference.last + slackBars
    )
      return outside("a recreated passage");
  }
  return null;
}
