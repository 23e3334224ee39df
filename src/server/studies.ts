/** Studies, their tracks and elements: everything that changes them. */
import { and, asc, desc, eq, inArray, max } from "drizzle-orm";
import type { CoverageSpan } from "@/core/align/coverage";
import {
  defaultAspectWeights,
  defaultElementWeight,
  type IntendedChanges,
  type MixAspect,
} from "@/core/match";
import { refuse, success, type Outcome } from "@/core/outcome";
import type { Database } from "./database";
import { newId } from "./identifier";
import { forgetUnusedFiles, takeIn } from "./intake";
import { requestAnalysis } from "./queue";
import {
  elements,
  gridCorrections,
  linedUp,
  planCorrections,
  plans,
  stems,
  studies,
  tracks,
  type ElementState,
} from "./schema";

/** What a new study tracks until the producer changes it: usual ranges, common practice, no source. */
const proposedElements: readonly [name: string, fromHz: number, toHz: number][] = [
  ["Kick", 40, 110],
  ["Bass", 50, 250],
  ["Snare or clap", 150, 4000],
  ["Hats", 6000, 16000],
  ["Percussion", 300, 6000],
  ["Chords", 200, 2500],
  ["Lead or vocal", 300, 5000],
  ["Effects", 2500, 16000],
];

export const notFound = (what: string) =>
  refuse("not-found", `This ${what} is not here any more.`, "Go back to the list of studies.");

/** Makes an empty study with the proposed elements. */
export async function createStudy(db: Database, title: string): Promise<string> {
  const id = newId();
  await db.batch([
    db.insert(studies).values({ id, title, aspectWeights: defaultAspectWeights }),
    db.insert(elements).values(
      proposedElements.map(([name, fromHz, toHz], position) => ({
        id: newId(),
        studyId: id,
        name,
        fromHz,
        toHz,
        weight: defaultElementWeight,
        position,
      })),
    ),
  ]);
  return id;
}

export async function changeStudy(
  db: Database,
  id: string,
  change: { title?: string; aspectWeights?: Partial<Record<MixAspect, number>>; intended?: IntendedChanges },
): Promise<Outcome<null>> {
  const changed = await db
    .update(studies)
    .set(change)
    .where(eq(studies.id, id))
    .returning({ id: studies.id });
  return changed.length > 0 ? success(null) : notFound("study");
}

export async function deleteStudy(db: Database, id: string): Promise<Outcome<null>> {
  const [study] = await db.select({ id: studies.id }).from(studies).where(eq(studies.id, id));
  if (!study) return notFound("study");
  const own = await db.select({ id: tracks.id }).from(tracks).where(eq(tracks.studyId, id));
  await dropTracks(
    db,
    own.map((track) => track.id),
  );
  await db.batch([
    db.delete(elements).where(eq(elements.studyId, id)),
    db.delete(studies).where(eq(studies.id, id)),
  ]);
  await forgetUnusedFiles(db);
  return success(null);
}

/** A file on its way in. */
export interface Upload {
  body: ReadableStream<Uint8Array> | null;
  /** Length that the sender announced, where it did. */
  bytes: number | null;
  fileName: string;
  note: string;
}

/** What an upload became. */
export interface AddedTrack {
  studyId: string;
  trackId: string;
  number: number;
  /** Set where the same file was there already: no new version was made. */
  recognised?: string;
}

const titleFrom = (fileName: string): string =>
  fileName
    .replace(/\.[a-z0-9]{2,4}$/i, "")
    .replace(/[_]+/g, " ")
    .trim()
    .slice(0, 120) || "Untitled study";

/** Makes a study around an uploaded reference; no study is left where the file is refused. */
export async function createStudyFrom(db: Database, upload: Upload): Promise<Outcome<AddedTrack>> {
  const added = await takeIn<AddedTrack>(db, upload.body, upload.bytes, async (file) => {
    const studyId = await createStudy(db, file.claims.title ?? titleFrom(upload.fileName));
    const trackId = newId();
    await db.insert(tracks).values({
      id: trackId,
      studyId,
      role: "reference",
      number: 0,
      fileHash: file.hash,
      fileName: upload.fileName,
      note: upload.note,
    });
    await requestAnalysis(file.hash);
    return success({ studyId, trackId, number: 0 });
  });
  return added;
}

/** Adds an uploaded file to a study as its reference (replacing the old one) or as a new version. */
export async function addTrack(
  db: Database,
  studyId: string,
  role: "reference" | "version",
  upload: Upload,
): Promise<Outcome<AddedTrack>> {
  const [study] = await db.select().from(studies).where(eq(studies.id, studyId));
  if (!study) return notFound("study");
  const outcome = await takeIn<AddedTrack>(db, upload.body, upload.bytes, async (file) => {
    const present = await db
      .select()
      .from(tracks)
      .where(and(eq(tracks.studyId, studyId), eq(tracks.role, role), eq(tracks.fileHash, file.hash)));
    const same = present[0];
    if (same) {
      await requestAnalysis(file.hash);
      const place = same.number === 0 ? "the reference" : `version ${same.number}`;
      return success({
        studyId,
        trackId: same.id,
        number: same.number,
        recognised: `This file is already here as ${place}. Nothing was added.`,
      });
    }
    const id = newId();
    let number = 0;
    if (role === "reference") {
      const old = await db
        .select({ id: tracks.id })
        .from(tracks)
        .where(and(eq(tracks.studyId, studyId), eq(tracks.number, 0)));
      await dropTracks(
        db,
        old.map((track) => track.id),
      );
    } else {
      const [last] = await db
        .select({ number: max(tracks.number) })
        .from(tracks)
        .where(eq(tracks.studyId, studyId));
      number = (last?.number ?? 0) + 1;
    }
    await db.insert(tracks).values({
      id,
      studyId,
      role,
      number,
      fileHash: file.hash,
      fileName: upload.fileName,
      note: upload.note,
    });
    await requestAnalysis(file.hash);
    return success({ studyId, trackId: id, number });
  });
  // A replaced reference may have left its file without a study.
  if (outcome.ok && role === "reference") await forgetUnusedFiles(db);
  return outcome;
}

export async function changeTrack(
  db: Database,
  id: string,
  change: { note?: string; coverage?: CoverageSpan[] | null },
): Promise<Outcome<null>> {
  const changed = await db.update(tracks).set(change).where(eq(tracks.id, id)).returning({ id: tracks.id });
  return changed.length > 0 ? success(null) : notFound("version");
}

export async function deleteTrack(db: Database, id: string): Promise<Outcome<null>> {
  if (!(await dropTracks(db, [id]))) return notFound("version");
  await forgetUnusedFiles(db);
  return success(null);
}

/** Removes tracks with all that hangs on them; their files are left for `forgetUnusedFiles`. */
async function dropTracks(db: Database, ids: readonly string[]): Promise<boolean> {
  if (ids.length === 0) return false;
  const places = [
    ...ids,
    ...(
      await db
        .select({ id: stems.id })
        .from(stems)
        .where(inArray(stems.trackId, [...ids]))
    ).map((s) => s.id),
  ];
  await db.batch([
    db.delete(gridCorrections).where(inArray(gridCorrections.placeId, places)),
    db.delete(planCorrections).where(inArray(planCorrections.placeId, places)),
    db.delete(plans).where(inArray(plans.placeId, places)),
    db.delete(linedUp).where(inArray(linedUp.trackId, [...ids])),
    db.delete(stems).where(inArray(stems.trackId, [...ids])),
  ]);
  const gone = await db
    .delete(tracks)
    .where(inArray(tracks.id, [...ids]))
    .returning({ id: tracks.id });
  return gone.length > 0;
}

/** Adds an uploaded file to a track as an isolated part of it. */
export async function addStem(db: Database, trackId: string, upload: Upload): Promise<Outcome<AddedTrack>> {
  const [track] = await db.select().from(tracks).where(eq(tracks.id, trackId));
  if (!track) return notFound("track");
  return takeIn<AddedTrack>(db, upload.body, upload.bytes, async (file) => {
    const present = await db
      .select()
      .from(stems)
      .where(and(eq(stems.trackId, trackId), eq(stems.fileHash, file.hash)));
    const added = { studyId: track.studyId, number: track.number };
    if (present[0]) {
      return success({
        ...added,
        trackId: present[0].id,
        recognised: "This file is already here as a stem. Nothing was added.",
      });
    }
    const id = newId();
    await db.insert(stems).values({ id, trackId, fileHash: file.hash, fileName: upload.fileName });
    await requestAnalysis(file.hash);
    return success({ ...added, trackId: id });
  });
}

export async function changeStem(
  db: Database,
  id: string,
  change: { elementId?: string | null; offsetSeconds?: number | null },
): Promise<Outcome<null>> {
  const changed = await db.update(stems).set(change).where(eq(stems.id, id)).returning({ id: stems.id });
  return changed.length > 0 ? success(null) : notFound("stem");
}

export async function removeStem(db: Database, id: string): Promise<Outcome<null>> {
  const gone = await db.delete(stems).where(eq(stems.id, id)).returning({ id: stems.id });
  if (gone.length === 0) return notFound("stem");
  await db.batch([
    db.delete(gridCorrections).where(eq(gridCorrections.placeId, id)),
    db.delete(planCorrections).where(eq(planCorrections.placeId, id)),
    db.delete(plans).where(eq(plans.placeId, id)),
  ]);
  await forgetUnusedFiles(db);
  return success(null);
}

export interface ElementFields {
  name: string;
  fromHz: number;
  toHz: number;
  state: ElementState;
  note: string;
  weight: number;
}

/** Adds an element at the end, or at a position given (as when a removal is undone). */
export async function addElement(
  db: Database,
  studyId: string,
  fields: Partial<ElementFields> & Pick<ElementFields, "name" | "fromHz" | "toHz"> & { position?: number },
): Promise<Outcome<string>> {
  const [study] = await db.select({ id: studies.id }).from(studies).where(eq(studies.id, studyId));
  if (!study) return notFound("study");
  const [last] = await db
    .select()
    .from(elements)
    .where(eq(elements.studyId, studyId))
    .orderBy(desc(elements.position))
    .limit(1);
  const id = newId();
  await db.insert(elements).values({
    weight: defaultElementWeight,
    position: (last?.position ?? -1) + 1,
    ...fields,
    id,
    studyId,
  });
  return success(id);
}

export async function changeElement(
  db: Database,
  id: string,
  change: Partial<ElementFields>,
): Promise<Outcome<null>> {
  const [element] = await db.select().from(elements).where(eq(elements.id, id));
  if (!element) return notFound("element");
  const next = { ...element, ...change };
  if (next.fromHz >= next.toHz) {
    return refuse(
      "bad-request",
      "The range must begin below where it ends.",
      "Give a lower start or a higher end.",
    );
  }
  await db.update(elements).set(change).where(eq(elements.id, id));
  return success(null);
}

export async function removeElement(db: Database, id: string): Promise<Outcome<null>> {
  const gone = await db.delete(elements).where(eq(elements.id, id)).returning({ id: elements.id });
  return gone.length > 0 ? success(null) : notFound("element");
}

/** Puts the elements of a study in a new order; elements not named keep their order at the end. */
export async function orderElements(
  db: Database,
  studyId: string,
  order: readonly string[],
): Promise<Outcome<null>> {
  const present = await db
    .select({ id: elements.id })
    .from(elements)
    .where(eq(elements.studyId, studyId))
    .orderBy(asc(elements.position));
  const rest = present.map(({ id }) => id).filter((id) => !order.includes(id));
  for (const [position, id] of [...order, ...rest].entries()) {
    await db
      .update(elements)
      .set({ position })
      .where(and(eq(elements.id, id), eq(elements.studyId, studyId)));
  }
  return success(null);
}
