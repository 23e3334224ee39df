/** Drums as files: a MIDI part, and a table of their groove. */
import { withoutExtension } from "@/core/formats/fileNames";
import { placeHits, stepsPerBeat, swingOfDrums } from "@/core/drums";
import { drumMidi } from "@/core/formats/drumMidi";
import { grooveCsv } from "@/core/formats/grooveCsv";
import { barsOf, type BarRange } from "@/core/grid/grid";
import { refuse, success, type Outcome } from "@/core/outcome";
import type { SavedFile } from "../http";
import type { Database } from "../storage/database";
import { itemIsGone, readItem } from "../study/items";
import { needsGrid } from "./planFiles";

export const drumFormats = ["midi", "quantised", "groove"] as const;
export type DrumFormat = (typeof drumFormats)[number];

/** @param wanted bars of the track's own grid; all from bar 1 on when null. */
export async function exportDrums(
  db: Database,
  itemId: string,
  format: DrumFormat,
  wanted: BarRange | null,
): Promise<Outcome<SavedFile>> {
  const found = await readItem(db, itemId);
  if (!found) return itemIsGone();
  const { item, plan, drums, grid, swing } = found;
  if (!grid) return needsGrid();
  const all = barsOf(grid);
  const bars = {
    first: Math.max(wanted?.first ?? Math.max(1, all.first), all.first),
    last: Math.min(wanted?.last ?? all.last, all.last),
  };
  if (bars.last < bars.first) return refuse("bad-request", "This track has no such bars.");
  const placed = placeHits(drums.hits, grid, swingOfDrums(drums.hits, grid, swing));
  const title = withoutExtension(item.fileName);
  const span = wanted ? `, bars ${bars.first}-${bars.last}` : "";
  if (format === "groove") {
    const shape = { beatsPerBar: grid.beatsPerBar, stepsPerBeat: stepsPerBeat(grid.beatsPerBar) };
    return success({
      name: `${title} groove${span}.csv`,
      type: "text/csv; charset=utf-8",
      bytes: new TextEncoder().encode(grooveCsv(placed, bars, shape, 60 / grid.bpm)),
    });
  }
  const timing = format === "quantised" ? "quantised" : "as played";
  return success({
    name: `${title} drums${span}${format === "quantised" ? ", quantised" : ""}.mid`,
    type: "audio/midi",
    bytes: Uint8Array.from(drumMidi(placed, grid, { title, bars, timing, sections: plan.sections })),
  });
}
