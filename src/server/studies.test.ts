/** Studies over a real database file, with the real worker: made, refused, taken up again. */
import { readdir } from "node:fs/promises";
import { eq } from "drizzle-orm";
import { DELETE as cancelRoute, POST as againRoute } from "@/app/api/items/[itemId]/analysis/route";
import { GET as reportRoute } from "@/app/api/studies/[studyId]/report/route";
import { POST as emptyStudyRoute, PUT as newStudyRoute } from "@/app/api/studies/route";
import { GET as eventsRoute } from "@/app/api/events/route";
import { analysisVersion } from "@/core/analysis/result";
import { loudnessAspects } from "@/models/loudness";
import type { Report } from "@/models/report";
import { stereoAspects } from "@/models/stereo";
import { toneAspects } from "@/models/tone";
import { resumeQueue } from "./jobs/queue";
import { authorization } from "./password";
import { filesFolder, incomingFolder } from "./storage/paths";
import { analyses, jobs, studies } from "./storage/schema";
import { compareAspectsInStudy, compareInStudy } from "./study/compare";
import { listStudies } from "./study/summary";
import { pageRequest, pieceWav, until } from "./testing/helpers";
import { context, testServer, type Added } from "./testing/testServer";

const { db, read, newStudy, addItem, begin, beginVersion, allDone, idle } = testServer();
const nothing = { bars: null, span: null };

describe("a study from its files", () => {
  it("is made, analysed and compared", async () => {
    const made = await newStudy(pieceWav({ seconds: 8 }), "Glass Ladder.wav");
    expect(made.status).toBe(201);
    const { studyId } = (await made.json()) as Added;
    const added = await addItem(studyId, pieceWav({ seconds: 8, gainDb: -6 }), "&note=quieter");
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
    expect(found.scores[0]!.aspects.loudness).toBeCloseTo(100 * 2 ** (-5.5 / 2), 0);
    expect(found.scores[0]!.aspects.tone).toBe(100);

    const whole = (await compareInStudy(db(), found, null, nothing))!;
    expect(whole.compared.match).toBeCloseTo(found.scores[0]!.match!, 6);
    expect(whole.isAligned).toBe(true);
    // Clicks at 120 BPM: a bar is two seconds.
    const part = (await compareInStudy(db(), found, 1, { ...nothing, bars: { first: 2, last: 3 } }))!;
    // A view of some aspects is told the same, of the whole and of a selection.
    for (const aspects of [toneAspects, loudnessAspects, stereoAspects])
      for (const [selection, all] of [
        [nothing, whole],
        [{ ...nothing, bars: { first: 2, last: 3 } }, part],
      ] as const) {
        const own = (await compareAspectsInStudy(db(), found, 1, selection, aspects))!;
        expect(own.compared.mix.aspects).toEqual(
          all.compared.mix.aspects.filter(({ name }) => aspects.includes(name)),
        );
        expect(own.compared.mix.gainToReference).toBe(all.compared.mix.gainToReference);
        expect(own.measured).toEqual(all.measured);
      }
    expect(part.spans.version![0]!.to - part.spans.version![0]!.from).toBeCloseTo(4, 1);
    expect(part.spans.version![0]!.from).toBeCloseTo(part.spans.reference![0]!.from, 1);
    expect(part.compared.mix.gainToReference).toBeCloseTo(6, 1);
  });

  it("is reported as it is shown, in every format and in the parts that are asked for", async () => {
    const { studyId } = await begin({ seed: 21 });
    await beginVersion(studyId, pieceWav({ seed: 21, gainDb: -4 }));
    const found = await allDone(studyId);
    const get = (query: string) =>
      reportRoute(pageRequest("GET", `/api/studies/${studyId}/report?${query}`), context({ studyId }));
    const json = await get("format=json");
    expect(json.headers.get("content-disposition")).toMatch(/ report\.json"?$/);
    const report = (await json.json()) as Report;
    expect(report.match!.value).toBeCloseTo(found.scores[0]!.match!, 6);
    expect(report.chapters.map(({ part }) => part)).toEqual(
      expect.arrayContaining(["next", "aspects", "elements", "versions", "reference", "method"]),
    );
    const markdown = await (await get("format=markdown&parts=aspects")).text();
    expect(markdown.match(/^## .*$/gm)).toEqual(["## The mix, aspect by aspect"]);
    expect(markdown).toMatch(/\| Loudness \| integrated \| .* LUFS \| .* LUFS \| −4\.0 LU \|/);
    expect(await (await get("format=csv&version=1&bars=1-1")).text()).toMatch(/^"Study","/);
    for (const wrong of ["format=pdf", "format=json&parts=secrets", "format=json&version=-1", ""])
      expect((await get(wrong)).status).toBe(400);
    const gone = await reportRoute(
      pageRequest("GET", "/x?format=json"),
      context({ studyId: "0".repeat(16) }),
    );
    expect(gone.status).toBe(404);
  });

  it("recognises a file that is there already", async () => {
    const { studyId } = await begin({ seed: 2 });
    const wav = pieceWav({ seed: 3 });
    const first = (await (await addItem(studyId, wav)).json()) as Added;
    const again = (await (await addItem(studyId, wav)).json()) as Added;
    expect(again.itemId).toBe(first.itemId);
    expect(again.recognised).toBe("This file is already here as version 1. Nothing was added.");
    expect((await read(studyId)).study.versions).toHaveLength(1);
  });

  it("may hold its reference as a version too, which matches wholly", async () => {
    const wav = pieceWav({ seed: 4 });
    const { studyId } = (await (await newStudy(wav)).json()) as Added;
    await addItem(studyId, wav);
    expect((await allDone(studyId)).scores[0]!.match).toBe(100);
  });

  it("numbers versions as they arrive, many at once", async () => {
    const { studyId } = await begin({ seed: 5 });
    await Promise.all([6, 7, 8].map((seed) => addItem(studyId, pieceWav({ seed, seconds: 2 }))));
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
    const response = await newStudyRoute(request, context({}));
    expect(response.status).toBe(413);
  });

  it("an upload that breaks off leaves nothing", async () => {
    const wav = pieceWav({ seed: 10 });
    const request = pageRequest("PUT", "/api/studies?name=x.wav", wav.slice(0, 5000), {
      "content-length": String(wav.length),
    });
    const response = await newStudyRoute(request, context({}));
    expect(response.status).toBe(400);
    expect(await readdir(incomingFolder())).toEqual([]);
  });

  it("a bad version leaves the study as it was", async () => {
    const { studyId } = await begin({ seed: 11 });
    const response = await addItem(studyId, new TextEncoder().encode("no music, only a long sentence here"));
    expect(response.status).toBe(415);
    expect((await read(studyId)).study.versions).toEqual([]);
  });

  it("a version for a study that is gone leaves no file", async () => {
    const before = (await readdir(filesFolder())).length;
    expect((await addItem("gone", pieceWav({ seed: 12 }))).status).toBe(404);
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
    expect((await emptyStudyRoute(request, context({}))).status).toBe(403);
  });

  it("nobody without the password, where one is set, and then nobody reads or listens either", async () => {
    const { studyId } = await begin({ seed: 13 });
    const made = (headers: Record<string, string> = {}) =>
      emptyStudyRoute(pageRequest("POST", "/api/studies", { title: "Invited" }, headers), context({}));
    const events = (headers: Record<string, string> = {}) =>
      eventsRoute(pageRequest("GET", `/api/events?study=${studyId}`, undefined, headers), context({}));
    process.env.PLAIN_MIRROR_PASSWORD = "open";
    try {
      const refused = [await made(), await events(), await made({ authorization: authorization("opens") })];
      expect(refused.map(({ status }) => status)).toEqual([401, 401, 401]);
      expect(refused[0]!.headers.get("www-authenticate")).toMatch(/^Basic/);
      expect(await refused[0]!.json()).toMatchObject({ refusal: { code: "not-allowed" } });
      const header = { authorization: authorization("open") };
      expect((await made(header)).status).toBe(201);
      const heard = await events(header);
      expect(heard.status).toBe(200);
      await heard.body?.cancel();
    } finally {
      delete process.env.PLAIN_MIRROR_PASSWORD;
    }
  });

  it("the application's own pages, with what they send checked", async () => {
    const good = await emptyStudyRoute(
      pageRequest("POST", "/api/studies", { title: "By hand" }),
      context({}),
    );
    expect(good.status).toBe(201);
    const bad = await emptyStudyRoute(pageRequest("POST", "/api/studies", { title: "  " }), context({}));
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
    await db().update(jobs).set({ state: "running" }).where(eq(jobs.subject, hash));
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

  it("makes anew what is stored but cannot be right, and breaks no page over it", async () => {
    const { studyId } = await begin({ seed: 23 });
    const { study } = await allDone(studyId);
    const { hash } = study.reference!.file;
    const { error } = console;
    const logged: unknown[] = [];
    console.error = (...parts: unknown[]) => logged.push(parts);
    await db()
      .update(analyses)
      .set({ summary: { durationSeconds: 1e40 }, createdAt: 5 })
      .where(eq(analyses.fileHash, hash));
    expect((await read(studyId)).analyses.has(hash)).toBe(false);
    await resumeQueue();
    expect((await allDone(studyId)).analyses.get(hash)!.durationSeconds).toBeCloseTo(4, 2);
    console.error = error;
    expect(logged.join()).toContain(hash);
  });

  it("cancels, and analyses again when asked, also in quick succession", async () => {
    const { studyId, itemId } = await begin({ seed: 22, seconds: 20 });
    const cancel = () => cancelRoute(pageRequest("DELETE", "/x"), context({ itemId }));
    const again = () => againRoute(pageRequest("POST", "/x"), context({ itemId }));
    await cancel();
    expect((await read(studyId)).study.reference!.job.state).toBe("cancelled");
    for (let i = 0; i < 3; i++) {
      await again();
      await cancel();
    }
    await again();
    expect((await allDone(studyId)).study.reference!.job.state).toBe("done");
    expect((await cancelRoute(pageRequest("DELETE", "/x"), context({ itemId: "gone" }))).status).toBe(404);
  });

  it("does in turn what a file needs that is in two studies, once", async () => {
    const wav = pieceWav({ seed: 24, seconds: 6 });
    const [one, two] = (await Promise.all(
      [newStudy(wav), newStudy(wav)].map(async (made) => (await (await made).json()) as Added),
    )) as [Added, Added];
    await allDone(one.studyId);
    await allDone(two.studyId);
    const { hash } = (await read(one.studyId)).study.reference!.file;
    expect(await db().select().from(jobs).where(eq(jobs.subject, hash))).toHaveLength(1);
  });
});

describe("the list of studies", () => {
  it("says what is known of each, from what was written when it changed", async () => {
    const { studyId } = await begin({ seed: 42, seconds: 12 });
    await beginVersion(studyId, pieceWav({ seed: 42, seconds: 12, gainDb: -3 }));
    await allDone(studyId);
    await idle();
    const row = await until(async () => {
      const found = (await listStudies(db())).find(({ id }) => id === studyId);
      return found?.summary?.match !== null && !found?.summary?.pending && found;
    });
    expect(row.summary).toMatchObject({ versions: 1, referenceFile: "song.wav", referenceState: null });
    expect(row.summary!.bpm).toBeCloseTo(120, 1);
    expect(row.summary!.history).toHaveLength(1);
  });

  it("shows a study whose summary is damaged, and all others", async () => {
    const { studyId } = await begin({ seed: 43 });
    await allDone(studyId);
    await idle();
    await db()
      .update(studies)
      .set({ summary: { versions: "many" } })
      .where(eq(studies.id, studyId));
    const rows = await listStudies(db());
    expect(rows.find(({ id }) => id === studyId)!.summary).toBeNull();
    expect(rows.length).toBeGreaterThan(3);
  });
});

describe("who may ask", () => {
  it("nobody under a foreign name, not even for events", async () => {
    const foreign = { host: "elsewhere.example" };
    const asked = await eventsRoute(pageRequest("GET", "/api/events", undefined, foreign), context({}));
    expect(asked.status).toBe(403);
  });

  it("is told of a change as it happens", async () => {
    const leaving = new AbortController();
    const request = new Request(pageRequest("GET", "/api/events"), { signal: leaving.signal });
    request.headers.set("host", "localhost:3000");
    const response = await eventsRoute(request, context({}));
    const reader = response.body!.getReader();
    const { studyId } = await begin({ seed: 44 });
    let heard = "";
    while (!heard.includes(`"studyId":"${studyId}"`))
      heard += new TextDecoder().decode((await reader.read()).value);
    leaving.abort();
    expect(heard).toMatch(/"kind":"study"/);
  });
});
