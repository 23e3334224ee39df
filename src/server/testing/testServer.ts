/** A server under test: a data folder and a database of its own, real processes and threads, and what most tests do first. */
import { POST as editsRoute } from "@/app/api/studies/[studyId]/edits/route";
import { PUT as addItemRoute } from "@/app/api/studies/[studyId]/items/route";
import { POST as redoRoute } from "@/app/api/studies/[studyId]/redo/route";
import { POST as undoRoute } from "@/app/api/studies/[studyId]/undo/route";
import { PUT as newStudyRoute } from "@/app/api/studies/route";
import { diff } from "@/core/edits/patch";
import {
  documentOf,
  itemsOf,
  tracksOf,
  type ItemEdits,
  type StudyDocument,
  type StudyResults,
} from "@/core/study";
import { isIdle } from "../jobs/queue";
import { start, stop } from "../start";
import { database, type Database } from "../storage/database";
import { readStudy } from "../study/read";
import { freshDataFolder, pageRequest, pieceWav, until } from "./helpers";

/** What adding a file answers. */
export interface Added {
  studyId: string;
  itemId: string;
  number: number | null;
  recognised?: string;
}

/** The context that Next.js hands to a route. */
export const context = (params: Record<string, string>) => ({ params: Promise.resolve(params) });
type Wav = Uint8Array<ArrayBuffer>;

/** Begins the server before the tests of a file and ends it after them. */
export function testServer() {
  let db: Database;
  let cleanUp: () => Promise<void>;
  beforeAll(async () => {
    cleanUp = await freshDataFolder();
    await start();
    db = await database();
  });
  afterAll(async () => {
    await stop();
    await cleanUp();
  });
  const read = async (studyId: string): Promise<StudyResults> => (await readStudy(db, studyId))!;
  const newStudy = (wav: Wav, name = "song.wav") =>
    newStudyRoute(pageRequest("PUT", `/api/studies?name=${encodeURIComponent(name)}`, wav), context({}));
  const addItem = (studyId: string, wav: Wav, query = "") =>
    addItemRoute(
      pageRequest("PUT", `/api/studies/${studyId}/items?role=version&name=v.wav${query}`, wav),
      context({ studyId }),
    );
  const addStem = (studyId: string, parent: string, wav: Wav, name = "stem.wav") =>
    addItemRoute(
      pageRequest("PUT", `/api/studies/${studyId}/items?role=stem&parent=${parent}&name=${name}`, wav),
      context({ studyId }),
    );
  const added = async (response: Promise<Response>) => {
    const answer = await response;
    if (!answer.ok) throw new Error(`not taken: ${await answer.text()}`);
    return (await answer.json()) as Added;
  };
  const send = (studyId: string, edits: { label: string; patch: unknown }[]) =>
    editsRoute(pageRequest("POST", "/x", { edits }), context({ studyId }));
  const edit = async (studyId: string, change: (document: StudyDocument) => StudyDocument) => {
    const before = documentOf((await read(studyId)).study);
    return send(studyId, [{ label: "Edited", patch: diff(before, change(before)) }]);
  };
  return {
    db: () => db,
    read,
    newStudy,
    addItem,
    addStem,
    /** A study with its reference, of a made-up piece or of given samples. */
    begin: (of: Parameters<typeof pieceWav>[0] | Wav = {}) =>
      added(newStudy(of instanceof Uint8Array ? of : pieceWav(of))),
    /** A version of a study. */
    beginVersion: (studyId: string, wav: Wav) => added(addItem(studyId, wav)),
    /** Sends edits as they stand. */
    send,
    /** Changes the document of a study, as a page does. */
    edit,
    editItem: (studyId: string, itemId: string, change: object | ((item: ItemEdits) => object)) =>
      edit(studyId, (document) => {
        const item = document.items[itemId]!;
        const next = typeof change === "function" ? (change as (item: ItemEdits) => object)(item) : change;
        return { ...document, items: { ...document.items, [itemId]: { ...item, ...next } } };
      }),
    undo: (studyId: string, id: number | null = null) =>
      undoRoute(pageRequest("POST", "/x", { id }), context({ studyId })),
    redo: (studyId: string, id: number | null = null) =>
      redoRoute(pageRequest("POST", "/x", { id }), context({ studyId })),
    /** The study once everything in it is analysed, aligned and compared. */
    allDone: (studyId: string, seconds = 30) =>
      until(async () => {
        const found = await read(studyId);
        const isDone =
          itemsOf(found.study).every(({ id, job }) => job.state === "done" && found.plans.get(id)?.current) &&
          found.study.versions.every(
            ({ id }) => found.alignments.get(id)?.current && found.comparisons.get(id)?.current,
          ) &&
          tracksOf(found.study).every(({ stems }) => stems.every((stem) => stem.measuredOffset !== null));
        return isDone && found;
      }, seconds),
    /** Waits until no work is left in any study. */
    idle: (seconds = 30) => until(isIdle, seconds),
  };
}
