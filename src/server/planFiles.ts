/** Plans as files: written for other programs, and annotations read from them. */
import { eq } from "drizzle-orm";
import { chordChart, sectionsCsv } from "@/core/formats/chart";
import { readJams, writeJams } from "@/core/formats/jams";
import { planMidi } from "@/core/formats/planMidi";
import { planTimes } from "@/core/formats/planTimes";
import { refuse, success, type Outcome } from "@/core/outcome";
import { chordsOnGrid, formCorrectionSchema, harmonyCorrectionSchema, sectionsOnGrid } from "@/core/plan";
import { correctPlan } from "./corrections";
import type { Database } from "./database";
import { readStudy, type ReadStudy } from "./reading";
import { stems, tracks } from "./schema";
import { notFound } from "./studies";

export const planFormats = ["midi", "chart", "degrees", "csv", "jams"] as const;
export type PlanFormat = (typeof planFormats)[number];

/** A file for the browser to save. */
export interface PlanFile {
  name: string;
  type: string;
  bytes: Uint8Array<ArrayBuffer>;
}

export async function readPlace(db: Database, placeId: string) {
  const [stem] = await db.select({ trackId: stems.trackId }).from(stems).where(eq(stems.id, placeId));
  const trackId = stem?.trackId ?? placeId;
  const [track] = await db.select({ studyId: tracks.studyId }).from(tracks).where(eq(tracks.id, trackId));
  const read = track ? await readStudy(db, track.studyId) : null;
  return read ? placeIn(read, placeId) : null;
}

function placeIn(read: ReadStudy, placeId: string) {
  const { study, analyses, plans, ownGrids, drums } = read;
  const all = [...(study.reference ? [study.reference] : []), ...study.versions];
  const place = [...all, ...all.flatMap((track) => track.stems)].find(({ id }) => id === placeId);
  const analysis = place && analyses.get(place.file.hash);
  const plan = plans.get(placeId)?.counted;
  const own = drums.get(placeId)?.counted;
  if (!place || !analysis || !plan || !own) return null;
  return {
    study,
    place,
    plan,
    drums: own,
    grid: ownGrids.get(placeId) ?? null,
    swing: analysis.grid?.swing,
    seconds: analysis.durationSeconds,
  };
}

export const needsGrid = () =>
  refuse(
    "bad-request",
    "This track has no bars yet.",
    "Set its tempo and where bar 1 begins in the view Grid, then try again.",
  );

/** A plan in one of the formats. */
export async function exportPlan(
  db: Database,
  placeId: string,
  format: PlanFormat,
): Promise<Outcome<PlanFile>> {
  const found = await readPlace(db, placeId);
  if (!found) return notFound("track");
  const { study, place, plan, grid, seconds } = found;
  if (!grid && format !== "jams") return needsGrid();
  const title = place.fileName.replace(/\.[a-z0-9]{2,4}$/i, "");
  const times = planTimes(plan, grid, seconds);
  const text = (extension: string, type: string, content: string): PlanFile => ({
    name: `${title} ${extension}`,
    type: `${type}; charset=utf-8`,
    bytes: new TextEncoder().encode(content),
  });
  switch (format) {
    case "midi":
      return success({
        name: `${title} chords and sections.mid`,
        type: "audio/midi",
        bytes: Uint8Array.from(planMidi(plan, grid!, title)),
      });
    case "csv":
      return success(text("sections.csv", "text/csv", sectionsCsv(plan, times)));
    case "jams": {
      const about = { title: study.title, artist: place.file.claims.artist ?? "" };
      return success(text("plan.jams", "application/json", writeJams(times, about)));
    }
    default:
      return success(
        text(
          "chords.txt",
          "text/plain",
          chordChart(plan, grid!, { title }, { degrees: format === "degrees" }),
        ),
      );
  }
}

/** What was taken from annotations. */
export interface TakenAnnotations {
  taken: string;
  warnings: string[];
}

/** Letters of an annotation file. */
export const longestAnnotations = 5_000_000;

/** Lays the chords, key and sections of a JAMS file over a plan, as corrections that can be undone. */
export async function importAnnotations(
  db: Database,
  placeId: string,
  text: string,
): Promise<Outcome<TakenAnnotations>> {
  const found = await readPlace(db, placeId);
  if (!found) return notFound("track");
  const { place, grid } = found;
  if (text.length > longestAnnotations) {
    return refuse(
      "too-large",
      "This annotation file is over 5 MB.",
      "Export the annotations of one track only.",
    );
  }
  const read = readJams(text);
  if (!read.ok) return read;
  if (!grid) return needsGrid();
  const { key, chords, sections, warnings } = read.value;
  // All is tried before anything is kept: what could not be read again must never be stored.
  const harmony = harmonyCorrectionSchema.safeParse({
    ...place.harmonyCorrection,
    ...(key ? { key } : {}),
    ...(chords ? { chords: chordsOnGrid(chords, grid) } : {}),
  });
  const form = formCorrectionSchema.safeParse(sections ? { sections: sectionsOnGrid(sections, grid) } : {});
  if (!harmony.success || !form.success) {
    return refuse(
      "bad-request",
      "These annotations do not fit this track: they have too many chords or sections for one.",
      "Export the annotations of one track only.",
    );
  }
  const taken: string[] = [];
  if (key || chords) {
    await correctPlan(db, placeId, { subject: "harmony", correction: harmony.data });
    if (chords) taken.push(`${harmony.data.chords!.length} chords`);
    if (key) taken.push("the key");
  }
  if (sections) {
    await correctPlan(db, placeId, { subject: "form", correction: form.data });
    taken.push(`${form.data.sections!.length} sections`);
  }
  return success({ taken: taken.join(", "), warnings });
}
