/** Plans as files: written for other programs, and annotations read from them. */
import { withoutExtension } from "@/core/formats/fileNames";
import { chordChart, sectionsCsv } from "@/core/formats/chart";
import { readJams, writeJams } from "@/core/formats/jams";
import { planMidi } from "@/core/formats/planMidi";
import { planTimes } from "@/core/formats/planTimes";
import { trackMidi } from "@/core/formats/trackMidi";
import { placeHits, swingOfDrums } from "@/core/drums";
import { barsOf } from "@/core/grid/grid";
import { refuse, success, type Outcome } from "@/core/outcome";
import { chordsOnGrid, sectionsOnGrid } from "@/core/plan";
import { diff } from "@/core/edits/patch";
import type { SavedFile } from "../http";
import type { Database } from "../storage/database";
import { applyEdits, type AppliedEdit } from "../study/edit";
import { itemIsGone, readItem } from "../study/items";

export const planFormats = ["track", "midi", "chart", "degrees", "csv", "jams"] as const;
export type PlanFormat = (typeof planFormats)[number];

export const needsGrid = () =>
  refuse(
    "bad-request",
    "This track has no bars yet.",
    "Set its tempo and bar 1 in the Grid view, then try again.",
  );

/** A plan in one of the formats. */
export async function exportPlan(
  db: Database,
  itemId: string,
  format: PlanFormat,
): Promise<Outcome<SavedFile>> {
  const found = await readItem(db, itemId);
  if (!found) return itemIsGone();
  const { study, item, plan, grid, seconds } = found;
  if (!grid && format !== "jams") return needsGrid();
  const title = withoutExtension(item.fileName);
  const times = planTimes(plan, grid, seconds);
  const text = (extension: string, type: string, content: string): SavedFile => ({
    name: `${title} ${extension}`,
    type: `${type}; charset=utf-8`,
    bytes: new TextEncoder().encode(content),
  });
  switch (format) {
    case "track":
      return success({
        name: `${title}.mid`,
        type: "audio/midi",
        bytes: Uint8Array.from(
          trackMidi({
            title,
            plan,
            grid: grid!,
            drums: placeHits(found.drums.hits, grid!, swingOfDrums(found.drums.hits, grid!, found.swing)),
            bass: found.bass,
            bars: barsOf(grid!),
          }),
        ),
      });
    case "midi":
      return success({
        name: `${title} chords and sections.mid`,
        type: "audio/midi",
        bytes: Uint8Array.from(planMidi(plan, grid!, title)),
      });
    case "csv":
      return success(text("sections.csv", "text/csv", sectionsCsv(plan, times)));
    case "jams": {
      const about = { title: study.title, artist: item.file.tags.artist ?? "" };
      return success(text("plan.jams", "application/json", writeJams(times, about)));
    }
    default:
      return success(
        text(
          format === "degrees" ? "degrees.txt" : "chords.txt",
          "text/plain",
          chordChart(plan, grid!, { title }, { degrees: format === "degrees" }),
        ),
      );
  }
}

/** What was taken from annotations. */
export interface TakenAnnotations {
  studyId: string;
  taken: string;
  warnings: string[];
  /** By which it can be undone. */
  edit: AppliedEdit | null;
}

/** Bytes of an annotation file. */
export const longestAnnotations = 5 * 1024 * 1024;

/** Lays the chords, key and sections of a JAMS file over a plan, as one edit. */
export async function importAnnotations(
  db: Database,
  itemId: string,
  text: string,
): Promise<Outcome<TakenAnnotations>> {
  const found = await readItem(db, itemId);
  if (!found) return itemIsGone();
  const { study, item, grid } = found;
  const read = readJams(text);
  if (!read.ok) return read;
  if (!grid) return needsGrid();
  const { key, chords, sections, warnings } = read.value;
  const { harmony, form } = item.corrections;
  const nextHarmony = {
    ...harmony,
    ...(key ? { key } : {}),
    ...(chords ? { chords: chordsOnGrid(chords, grid) } : {}),
  };
  const nextForm = sections ? { sections: sectionsOnGrid(sections, grid) } : form;
  const taken = [
    ...(chords ? [`${nextHarmony.chords?.length ?? 0} chords`] : []),
    ...(key ? ["the key"] : []),
    ...(sections ? [`${nextForm.sections?.length ?? 0} sections`] : []),
  ].join(", ");
  const patch = [
    ...diff(harmony, nextHarmony, ["items", itemId, "harmony"]),
    ...diff(form, nextForm, ["items", itemId, "form"]),
  ];
  const applied = await applyEdits(db, study.id, [{ label: `Imported ${taken}`, patch }]);
  if (!applied.ok) return applied;
  return success({ studyId: study.id, taken, warnings, edit: applied.value[0] ?? null });
}
