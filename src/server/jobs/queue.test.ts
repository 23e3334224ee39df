/** The queue under trouble: what fails, dies, is asked for again or is told too often. */
import { rename } from "node:fs/promises";
import { and, eq } from "drizzle-orm";
import { POST as againRoute } from "@/app/api/items/[itemId]/analysis/route";
import { originalPath } from "../storage/paths";
import { summaryOf } from "@/core/study";
import { jobs, studies } from "../storage/schema";
import { pageRequest, pieceWav, until } from "../testing/helpers";
import { context, testServer } from "../testing/testServer";
import { analysisPool } from "./processes";
import { studyChanged } from "./queue";
import { listen, revisionOf, type News } from "./progress";

const { db, read, begin, beginVersion, allDone, edit, idle } = testServer();
const jobOf = async (subject: string) =>
  (
    await db()
      .select()
      .from(jobs)
      .where(and(eq(jobs.kind, "analyse"), eq(jobs.subject, subject)))
  )[0]!;
describe("a job that fails", () => {
  it("keeps its sentence, is not tried by reading, and is done when it is asked for again", async () => {
    const { studyId, itemId } = await begin({ seed: 901, seconds: 12 });
    const { hash } = (await read(studyId)).study.reference!.file;
    // The original goes before the analysis begins, or while it reads.
    await rename(originalPath(hash), `${originalPath(hash)}-away`);
    await until(async () => ["failed", "done"].includes((await jobOf(hash)).state));
    let job = await jobOf(hash);
    if (job.state === "done") {
      await againRoute(pageRequest("POST", "/x"), context({ itemId }));
      await until(async () => (await jobOf(hash)).state === "failed");
      job = await jobOf(hash);
    }
    expect(job.refusal!.sentence).toBe("The original of this file is missing from the data folder.");
    const { attempts } = job;
    for (let i = 0; i < 5; i++) await read(studyId);
    await idle();
    expect((await jobOf(hash)).attempts).toBe(attempts);
    expect((await read(studyId)).study.reference!.job).toMatchObject({ state: "failed" });
    await rename(`${originalPath(hash)}-away`, originalPath(hash));
    await againRoute(pageRequest("POST", "/x"), context({ itemId }));
    await until(async () => (await jobOf(hash)).state === "done");
  });

  it("does not keep others from being done", async () => {
    const one = await begin({ seed: 902 });
    const two = await begin({ seed: 903 });
    const { hash } = (await read(one.studyId)).study.reference!.file;
    await db().update(jobs).set({ state: "failed" }).where(eq(jobs.subject, hash));
    await allDone(two.studyId);
  });
});

describe("a decoding process that dies", () => {
  it("is replaced; the file it had is refused with a sentence, and the next is analysed", async () => {
    const { studyId } = await begin({ seed: 904, seconds: 20 });
    const { hash } = (await read(studyId)).study.reference!.file;
    await until(async () => (await jobOf(hash)).state === "running" && analysisPool().pids.length > 0);
    for (const pid of analysisPool().pids) process.kill(pid, "SIGKILL");
    await until(async () => ["failed", "done"].includes((await jobOf(hash)).state));
    const job = await jobOf(hash);
    // It may have been through just before.
    if (job.state === "failed") expect(job.refusal!.sentence).toMatch(/^This file can't be read/);
    const next = await begin({ seed: 905 });
    await allDone(next.studyId);
  });
});

describe("pages", () => {
  const heardDuring = async (studyId: string, act: () => Promise<unknown>): Promise<News[]> => {
    const heard: News[] = [];
    const leave = listen((news) => {
      if (news.kind === "study" && news.studyId === studyId) heard.push(news);
    });
    await act();
    await idle();
    await new Promise((resolve) => setTimeout(resolve, 300));
    leave();
    return heard;
  };

  it("are told a few times at most of one edit, whatever follows from it", async () => {
    const { studyId, itemId } = await begin({ seed: 906, seconds: 6 });
    for (let i = 0; i < 3; i++) await beginVersion(studyId, pieceWav({ seed: 907 + i, seconds: 6 }));
    await allDone(studyId);
    await idle();
    const begun = Date.now();
    const heard = await heardDuring(studyId, async () => {
      await edit(studyId, (d) => ({
        ...d,
        items: { ...d.items, [itemId]: { ...d.items[itemId]!, grid: { bpm: 100 } } },
      }));
      await until(async () => {
        const { alignments, comparisons } = await read(studyId);
        return [...alignments.values(), ...comparisons.values()].every(({ current }) => current);
      });
    });
    expect(heard.length).toBeGreaterThan(0);
    // Twice where nothing holds it up; now and then once or twice more on a busy machine, and once
    // more for every three seconds that the work takes.
    expect(heard.length).toBeLessThanOrEqual(4 + Math.floor((Date.now() - begun) / 3000));
    // The last word is what stands.
    expect(heard.at(-1)).toMatchObject({ revision: revisionOf(studyId) });
  });

  it("are told once of an edit from which no work follows", async () => {
    const { studyId } = await begin({ seed: 911 });
    await allDone(studyId);
    await idle();
    const heard = await heardDuring(studyId, () =>
      edit(studyId, (d) => ({ ...d, study: { ...d.study, title: "Renamed" } })),
    );
    expect(heard).toHaveLength(1);
  });
});

describe("what follows from changes of a study", () => {
  it("is done one after the other, and once for all that come meanwhile", async () => {
    const { studyId } = await begin({ seed: 910 });
    await allDone(studyId);
    await idle();
    const ended: string[] = [];
    const first = studyChanged(studyId).then(() => ended.push("first"));
    await until(async () => true);
    await db().update(studies).set({ summary: null }).where(eq(studies.id, studyId));
    const meanwhile = Array.from({ length: 5 }, () => studyChanged(studyId));
    expect(new Set(meanwhile).size).toBe(1);
    await Promise.all([first, ...meanwhile.map((own) => own.then(() => ended.push("meanwhile")))]);
    expect(ended).toEqual(["first", ...meanwhile.map(() => "meanwhile")]);
    const [row] = await db().select().from(studies).where(eq(studies.id, studyId));
    expect(row!.summary).toEqual(summaryOf(await read(studyId)));
  });
});
