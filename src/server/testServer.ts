/** A server under test: a data folder and a database of its own, the real worker, and what most tests do first. */
import { PUT as addTrackRoute } from "@/app/api/studies/[studyId]/tracks/route";
import { PUT as newStudyRoute } from "@/app/api/studies/route";
import { database, type Database } from "./database";
import { destroyQueue } from "./queue";
import { readStudy, type ReadStudy } from "./reading";
import { freshDataFolder, pageRequest, pieceWav, until } from "./testing";

/** What adding a file answers. */
export interface Added {
  studyId: string;
  trackId: string;
  number: number;
  recognised?: string;
}

/** The context that Next.js hands to a route. */
export const context = <T>(params: T) => ({ params: Promise.resolve(params) });
type Wav = Uint8Array<ArrayBuffer>;

/** Begins the server before the tests of a file and ends it after them. */
export function testServer() {
  let db: Database;
  let cleanUp: () => Promise<void>;
  beforeAll(async () => {
    cleanUp = await freshDataFolder();
    db = await database();
  });
  afterAll(async () => {
    await destroyQueue();
    await cleanUp();
  });
  const read = async (studyId: string): Promise<ReadStudy> => (await readStudy(db, studyId))!;
  const newStudy = (wav: Wav, name = "song.wav") =>
    newStudyRoute(
      pageRequest("PUT", `/api/studies?name=${encodeURIComponent(name)}`, wav),
      undefined as never,
    );
  const addVersion = (studyId: string, wav: Wav, query = "") =>
    addTrackRoute(
      pageRequest("PUT", `/api/studies/${studyId}/tracks?role=version&name=v.wav${query}`, wav),
      context({ studyId }),
    );
  const added = async (response: Promise<Response>) => (await (await response).json()) as Added;
  return {
    db: () => db,
    read,
    newStudy,
    addVersion,
    /** A study with its reference, of a made-up piece or of given samples. */
    begin: (of: Parameters<typeof pieceWav>[0] | Wav = {}) =>
      added(newStudy(of instanceof Uint8Array ? of : pieceWav(of))),
    /** A version of a study. */
    beginVersion: (studyId: string, wav: Wav) => added(addVersion(studyId, wav)),
    /** The study once everything in it is analysed and lined up. */
    allDone: (studyId: string, seconds = 20) =>
      until(async () => {
        const found = await read(studyId);
        const tracks = [found.study.reference!, ...found.study.versions];
        return (
          tracks.every((t) => t.job.state === "done" && found.analyses.has(t.file.hash)) &&
          tracks.every(({ id }) => found.plans.get(id)?.current) &&
          found.study.versions.every((v) => found.linedUp.get(v.id)?.current) &&
          found
        );
      }, seconds),
  };
}
