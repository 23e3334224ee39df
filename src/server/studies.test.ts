/** Studies over a real database file, with the real worker: made, refused, changed, deleted, taken up again. */
import { readdir } from "node:fs/promises";
import { eq } from "drizzle-orm";
import { DELETE as cancelRoute, POST as againRoute } from "@/app/api/tracks/[trackId]/analysis/route";
import { DELETE as deleteTrackRoute, PATCH as changeTrackRoute } from "@/app/api/tracks/[trackId]/route";
import {
  DELETE as deleteElementRoute,
  PATCH as changeElementRoute,
} from "@/app/api/elements/[elementId]/route";
import { POST as addElementRoute, PUT as orderRoute } from "@/app/api/studies/[studyId]/elements/route";
import { DELETE as deleteStudyRoute, PATCH as changeStudyRoute } from "@/app/api/studies/[studyId]/route";
import { POST as emptyStudyRoute, PUT as newStudyRoute } from "@/app/api/studies/route";
import { analysisVersion } from "@/core/analysis/result";
import { compareInStudy } from "./comparing";
import { filesFolder, incomingFolder } from "./places";
import { resumeQueue } from "./queue";
import { analyses, files, jobs, studies } from "./schema";
import { pageRequest, pieceWav } from "./testing";
import { context, testServer, type Added } from "./testServer";

const { db, read, newStudy, addVersion, begin, allDone } = testServer();
const nothing = { bars: null, span: null };

describe("a study from its files", () => {
  it("is made, analysed and compared", async () => {
    const made = await newStudy(pieceWav({ seconds: 8 }), "Glass Ladder.wav");
    expect(made.status).toBe(201);
    const { studyId } = (await made.json()) as Added;
    const added = await addVersion(studyId, pieceWav({ seconds: 8, gainDb: -6 }), "&note=quieter");
    expect(((await added.json()) as Added).number).toBe(1);
    const found = await allDone(studyId);
    expect(found.study.title).toBe("Glass Ladder");
    expect(found.study.elements.map((e) => e.name)).toEqual([
      "Kick",
      "Bass",
      "Snare or clap",
      "Hats",
      "Percussion",
      "Chords",
      "Lead or vocal",
      "Effects",
    ]);
    expect(found.study.versions[0]!.note).toBe("quieter");
    expect(found.standings[0]!.aspects.loudness).toBeCloseTo(100 * 2 ** (-5.5 / 2), 0);
    expect(found.standings[0]!.aspects.tone).toBe(100);

    const whole = (await compareInStudy(db(), found, null, nothing))!;
    expect(whole.compared.match).toBeCloseTo(found.standings[0]!.match!, 6);
    expect(whole.linedUp).toBe(true);
    // Clicks at 120 BPM: a bar is two seconds.
    const part = (await compareInStudy(db(), found, 1, { ...nothing, bars: { first: 2, last: 3 } }))!;
    expect(part.spans.version![0]!.to - part.spans.version![0]!.from).toBeCloseTo(4, 1);
    expect(part.spans.version![0]!.from).toBeCloseTo(part.spans.reference![0]!.from, 1);
    expect(part.compared.mix.gainToReference).toBeCloseTo(6, 1);
  });

  it("recognises a file that is there already", async () => {
    const { studyId } = await begin({ seed: 2 });
    const wav = pieceWav({ seed: 3 });
    const first = (await (await addVersion(studyId, wav)).json()) as Added;
    const again = (await (await addVersion(studyId, wav)).json()) as Added;
    expect(again.trackId).toBe(first.trackId);
    expect(again.recognised).toBe("This file is already here as version 1. Nothing was added.");
    expect((await read(studyId)).study.versions).toHaveLength(1);
  });

  it("may hold its reference as a version too, which matches wholly", async () => {
    const wav = pieceWav({ seed: 4 });
    const { studyId } = (await (await newStudy(wav)).json()) as Added;
    await addVersion(studyId, wav);
    expect((await allDone(studyId)).standings[0]!.match).toBe(100);
  });

  it("numbers versions as they arrive, many at once", async () => {
    const { studyId } = await begin({ seed: 5 });
    await Promise.all([6, 7, 8].map((seed) => addVersion(studyId, pieceWav({ seed, seconds: 2 }))));
    expect((await read(studyId)).study.versions.map((v) => v.number)).toEqual([1, 2, 3]);
  });

  it("takes the names of files as words, never as paths", async () => {
    const made = await newStudy(pieceWav({ seed: 9 }), "../../../outside.wav");
    const { studyId } = (await made.json()) as Added;
    const { study } = await read(studyId);
    expect(study.reference!.fileName).toBe("../../../outside.wav");
    expect(await readdir(filesFolder())).toContain(study.reference!.file.hash);
  });
});

describe("bad input", () => {
  it.each([
    ["words", new TextEncoder().encode("Not a note of music in here, only letters."), 415, "not-audio"],
    ["nothing", new Uint8Array(0), 422, "no-samples"],
    ["half a second", pieceWav({ seconds: 0.5 }), 422, "too-short"],
  ])("%s: a sentence, a status, no study and no stray file", async (_name, bytes, status, code) => {
    const before = {
      studies: (await db().select().from(studies)).length,
      kept: (await readdir(filesFolder())).length,
    };
    const response = await newStudy(bytes as Uint8Array<ArrayBuffer>);
    expect(response.status).toBe(status);
    const { refusal } = (await response.json()) as { refusal: { code: string; sentence: string } };
    expect(refusal.code).toBe(code);
    expect(refusal.sentence.endsWith(".")).toBe(true);
    expect((await db().select().from(studies)).length).toBe(before.studies);
    expect((await readdir(filesFolder())).length).toBe(before.kept);
    expect(await readdir(incomingFolder())).toEqual([]);
  });

  it("a file over the limit is refused by its announced length", async () => {
    const request = pageRequest("PUT", "/api/studies?name=x.wav", pieceWav(), {
      "content-length": String(501 * 1048576),
    });
    const response = await newStudyRoute(request, undefined as never);
    expect(response.status).toBe(413);
  });

  it("an upload that breaks off leaves nothing", async () => {
    const wav = pieceWav({ seed: 10 });
    const request = pageRequest("PUT", "/api/studies?name=x.wav", wav.slice(0, 5000), {
      "content-length": String(wav.length),
    });
    const response = await newStudyRoute(request, undefined as never);
    expect(response.status).toBe(400);
    expect(await readdir(incomingFolder())).toEqual([]);
  });

  it("a bad version leaves the study as it was", async () => {
    const { studyId } = await begin({ seed: 11 });
    const response = await addVersion(
      studyId,
      new TextEncoder().encode("no music, only a long sentence here"),
    );
    expect(response.status).toBe(415);
    expect((await read(studyId)).study.versions).toEqual([]);
  });

  it("a version for a study that is gone leaves no file", async () => {
    const before = (await readdir(filesFolder())).length;
    expect((await addVersion("gone", pieceWav({ seed: 12 }))).status).toBe(404);
    expect((await readdir(filesFolder())).length).toBe(before);
  });
});

describe("who may change something", () => {
  it.each([
    ["a foreign page", { origin: "http://elsewhere.example" }],
    ["a foreign name for this server", { host: "elsewhere.example", origin: "http://elsewhere.example" }],
    ["a program without a page", { origin: "" }],
  ])("not %s", async (_name, headers) => {
    const request = pageRequest("POST", "/api/studies", { title: "Uninvited" }, headers);
    expect((await emptyStudyRoute(request, undefined as never)).status).toBe(403);
  });

  it("the application's own pages, with what they send checked", async () => {
    const good = await emptyStudyRoute(
      pageRequest("POST", "/api/studies", { title: "By hand" }),
      undefined as never,
    );
    expect(good.status).toBe(201);
    const bad = await emptyStudyRoute(
      pageRequest("POST", "/api/studies", { title: "  " }),
      undefined as never,
    );
    expect(bad.status).toBe(400);
  });
});

describe("the queue", () => {
  it("takes up after a restart what was running", async () => {
    const { studyId } = await begin({ seed: 20 });
    const { study } = await allDone(studyId);
    const { hash } = study.reference!.file;
    // As a server leaves it that goes down in the middle of an analysis.
    await db().delete(analyses).where(eq(analyses.fileHash, hash));
    await db().update(jobs).set({ state: "running" }).where(eq(jobs.fileHash, hash));
    await resumeQueue();
    expect((await allDone(studyId)).analyses.get(hash)).toBeDefined();
  });

  it("makes results of another version of the analysis anew", async () => {
    const { studyId } = await begin({ seed: 21 });
    const { study } = await allDone(studyId);
    const { hash } = study.reference!.file;
    await db()
      .update(analyses)
      .set({ analysisVersion: analysisVersion - 1 })
      .where(eq(analyses.fileHash, hash));
    expect((await read(studyId)).analyses.has(hash)).toBe(false);
    await resumeQueue();
    expect((await allDone(studyId)).analyses.get(hash)!.analysisVersion).toBe(analysisVersion);
  });

  it("cancels, and analyses again when asked", async () => {
    const { studyId, trackId } = await begin({ seed: 22, seconds: 60 });
    await cancelRoute(pageRequest("DELETE", "/api/tracks/x/analysis"), context({ trackId }));
    const cancelled = (await read(studyId)).study.reference!;
    expect(cancelled.job.state).toBe("cancelled");
    await againRoute(pageRequest("POST", "/api/tracks/x/analysis"), context({ trackId }));
    expect((await allDone(studyId)).study.reference!.job.state).toBe("done");
  });
});

describe("changing and deleting", () => {
  it("removes a study with its files, but not files that another study has", async () => {
    const shared = pieceWav({ seed: 30 });
    const one = (await (await newStudy(shared)).json()) as Added;
    const two = (await (await newStudy(shared)).json()) as Added;
    const hash = (await read(one.studyId)).study.reference!.file.hash;
    const remove = (studyId: string) =>
      deleteStudyRoute(pageRequest("DELETE", "/api/studies/x"), context({ studyId }));
    await remove(one.studyId);
    expect(await readdir(filesFolder())).toContain(hash);
    await remove(two.studyId);
    expect(await readdir(filesFolder())).not.toContain(hash);
    expect(await db().select().from(files).where(eq(files.hash, hash))).toEqual([]);
    expect((await remove(two.studyId)).status).toBe(404);
  });

  it("renames, weighs, notes, and deletes a version", async () => {
    const { studyId } = await begin({ seed: 31 });
    const { trackId } = (await (await addVersion(studyId, pieceWav({ seed: 32 }))).json()) as Added;
    await changeStudyRoute(
      pageRequest("PATCH", "/api/studies/x", {
        title: "Renamed",
        aspectWeights: { tempo: 5, harmony: 1, loudness: 0, dynamics: 1, tone: 1 },
      }),
      context({ studyId }),
    );
    await changeTrackRoute(
      pageRequest("PATCH", "/api/tracks/x", { note: "snare later" }),
      context({ trackId }),
    );
    const { study } = await read(studyId);
    expect(study.title).toBe("Renamed");
    expect(study.aspectWeights.tempo).toBe(5);
    expect(study.versions[0]!.note).toBe("snare later");
    await deleteTrackRoute(pageRequest("DELETE", "/api/tracks/x"), context({ trackId }));
    expect((await read(studyId)).study.versions).toEqual([]);
  });

  it("adds, changes, orders and removes elements", async () => {
    const { studyId } = await begin({ seed: 33 });
    const add = (body: object) => addElementRoute(pageRequest("POST", "/x", body), context({ studyId }));
    const { elementId } = (await (await add({ name: "Cowbell", fromHz: 500, toHz: 900 })).json()) as {
      elementId: string;
    };
    expect((await add({ name: "Backwards", fromHz: 900, toHz: 500 })).status).toBe(400);
    const change = (body: object) =>
      changeElementRoute(pageRequest("PATCH", "/x", body), context({ elementId }));
    expect((await change({ state: "done", weight: 2 })).status).toBe(200);
    expect((await change({ toHz: 100 })).status).toBe(400);
    expect((await change({ weight: -1 })).status).toBe(400);
    const names = async () => (await read(studyId)).study.elements.map((e) => e.name);
    await orderRoute(pageRequest("PUT", "/x", { order: [elementId] }), context({ studyId }));
    expect((await names())[0]).toBe("Cowbell");
    expect((await read(studyId)).study.elements[0]).toMatchObject({ state: "done", weight: 2 });
    await deleteElementRoute(pageRequest("DELETE", "/x"), context({ elementId }));
    expect(await names()).not.toContain("Cowbell");
  });
});
