/** Studies over a real database file, with the real worker: made, refused, changed, deleted, taken up again. */
import { readdir } from "node:fs/promises";
import { eq } from "drizzle-orm";
import { DELETE as cancelRoute, POST as againRoute } from "@/app/api/items/[itemId]/analysis/route";
import { GET as changesRoute } from "@/app/api/studies/[studyId]/edits/route";
import { DELETE as removeForGoodRoute } from "@/app/api/studies/[studyId]/route";
import { POST as emptyStudyRoute, PUT as newStudyRoute } from "@/app/api/studies/route";
import { GET as eventsRoute } from "@/app/api/events/route";
import { analysisVersion } from "@/core/analysis/result";
import { resumeQueue } from "./jobs/queue";
import { clearAway, keptDays } from "./storage/sweep";
import { filesFolder, incomingFolder } from "./storage/paths";
import { analyses, files, jobs, studies } from "./storage/schema";
import { compareInStudy } from "./study/compare";
import type { LoggedEdit } from "./study/edit";
import { listRemovedStudies, listStudies } from "./study/summary";
import { pageRequest, pieceWav, until } from "./testing/helpers";
import { context, testServer, type Added } from "./testing/testServer";

const { db, read, newStudy, addItem, begin, beginVersion, allDone, edit, editItem, send, undo, redo, idle } =
  testServer();
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
    expect(part.spans.version![0]!.to - part.spans.version![0]!.from).toBeCloseTo(4, 1);
    expect(part.spans.version![0]!.from).toBeCloseTo(part.spans.reference![0]!.from, 1);
    expect(part.compared.mix.gainToReference).toBeCloseTo(6, 1);
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
    const { studyId, itemId } = await begin({ seed: 22, seconds: 60 });
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

describe("editing", () => {
  it("changes everything through one log, and takes it back and does it again in order", async () => {
    const { studyId } = await begin({ seed: 31 });
    const { itemId } = await beginVersion(studyId, pieceWav({ seed: 32 }));
    expect((await edit(studyId, (d) => ({ ...d, study: { ...d.study, title: "Renamed" } }))).status).toBe(
      200,
    );
    await editItem(studyId, itemId, { note: "  snare later " });
    await edit(studyId, (d) => ({
      ...d,
      study: { ...d.study, aspectWeights: { ...d.study.aspectWeights, tempo: 5 } },
    }));
    const now = async () => {
      const { study } = await read(studyId);
      return [study.title, study.versions[0]?.note, study.aspectWeights.tempo];
    };
    expect(await now()).toEqual(["Renamed", "snare later", 5]);
    await undo(studyId);
    await undo(studyId);
    expect(await now()).toEqual(["Renamed", "", 2]);
    await redo(studyId);
    expect(await now()).toEqual(["Renamed", "snare later", 2]);
    // Something new: what was undone before cannot be done again.
    await editItem(studyId, itemId, { note: "snare earlier" });
    expect((await redo(studyId)).status).toBe(404);
    expect((await undo("gone")).status).toBe(404);
  });

  it("undoes what is named, not only the newest, and says where that is not possible", async () => {
    const { studyId } = await begin({ seed: 34 });
    const rename = async (title: string) =>
      (await (await edit(studyId, (d) => ({ ...d, study: { ...d.study, title } }))).json()) as {
        id: number;
      }[];
    const [first] = await rename("One");
    await edit(studyId, (d) => ({ ...d, study: { ...d.study, intended: { bpm: 99, semitones: 0 } } }));
    await undo(studyId, first!.id);
    const { study } = await read(studyId);
    expect([study.title, study.intended.bpm]).toEqual(["song", 99]);
    const [second] = await rename("Two");
    await rename("Three");
    const refused = await undo(studyId, second!.id);
    expect(refused.status).toBe(409);
    expect(((await refused.json()) as { refusal: { sentence: string } }).refusal.sentence).toMatch(
      /later change/,
    );
    expect((await undo(studyId, first!.id)).status).toBe(409);
    const logged = (await (
      await changesRoute(pageRequest("GET", "/x"), context({ studyId }))
    ).json()) as LoggedEdit[];
    expect(logged.map(({ undone }) => undone)).toEqual([false, false, false, true]);
  });

  it("counts ten edits that arrive together as ten, each on the one before", async () => {
    const { studyId, itemId } = await begin({ seed: 35 });
    const patch = (from: number | undefined, to: number) => [
      { path: ["items", itemId, "grid", "nudgeSeconds"], ...(from === undefined ? {} : { from }), to },
    ];
    const steps = Array.from({ length: 10 }, (_, i) => ({
      label: "+5 ms",
      patch: patch(i === 0 ? undefined : i * 0.005, (i + 1) * 0.005),
    }));
    await Promise.all(steps.map((step) => send(studyId, [step])));
    expect((await read(studyId)).study.reference!.corrections.grid.nudgeSeconds).toBeCloseTo(0.05, 9);
    for (let i = 0; i < 10; i++) await undo(studyId);
    expect((await read(studyId)).study.reference!.corrections.grid).toEqual({});
  });

  it("orders, removes and brings back elements under the same identity", async () => {
    const { studyId } = await begin({ seed: 33 });
    const order = async () => (await read(studyId)).study.elements.map(({ name }) => name);
    const before = await order();
    await edit(studyId, (d) => ({ ...d, elementOrder: [...d.elementOrder].reverse() }));
    expect(await order()).toEqual([...before].reverse());
    const [gone] = (await read(studyId)).study.elements;
    await edit(studyId, (d) => ({ ...d, elementOrder: d.elementOrder.slice(1) }));
    expect(await order()).not.toContain(gone!.name);
    await undo(studyId);
    expect((await read(studyId)).study.elements[0]).toEqual(gone);
    const cowbell = { name: "Cowbell", fromHz: 500, toHz: 900, state: "done" as const, note: "", weight: 2 };
    const add = (element: object) =>
      edit(studyId, (d) => ({
        ...d,
        elements: { ...d.elements, c0: element as typeof cowbell },
        elementOrder: [...d.elementOrder, "c0"],
      }));
    expect((await add({ ...cowbell, toHz: 100 })).status).toBe(400);
    expect((await add(cowbell)).status).toBe(200);
    await undo(studyId);
    expect(await order()).not.toContain("Cowbell");
    await redo(studyId);
    expect((await read(studyId)).study.elements.at(-1)).toEqual({ id: "c0", ...cowbell });
  });

  it("keeps the numbers of versions: none is given twice", async () => {
    const { studyId } = await begin({ seed: 36 });
    const one = await beginVersion(studyId, pieceWav({ seed: 37 }));
    await editItem(studyId, one.itemId, { removed: true });
    expect((await read(studyId)).study.versions).toEqual([]);
    const two = await beginVersion(studyId, pieceWav({ seed: 38 }));
    expect([one.number, two.number]).toEqual([1, 2]);
    await undo(studyId);
    await undo(studyId);
    expect((await read(studyId)).study.versions.map(({ number }) => number)).toEqual([1]);
  });

  it("takes an upload back and brings it again, the reference too", async () => {
    const { studyId } = await begin({ seed: 39 });
    const first = (await read(studyId)).study.reference!.id;
    const { PUT } = await import("@/app/api/studies/[studyId]/items/route");
    const replaced = (await (
      await PUT(
        pageRequest("PUT", "/x?role=reference&name=new.wav", pieceWav({ seed: 40 })),
        context({ studyId }),
      )
    ).json()) as Added;
    const reference = async () => (await read(studyId)).study.reference!.id;
    expect(await reference()).toBe(replaced.itemId);
    await undo(studyId);
    expect(await reference()).toBe(first);
    await redo(studyId);
    expect(await reference()).toBe(replaced.itemId);
  });
});

describe("deleting", () => {
  const remove = (studyId: string, removed = true) =>
    send(studyId, [
      { label: "Deleted", patch: [{ path: ["study", "removed"], from: !removed, to: removed }] },
    ]);
  const forGood = (studyId: string) => removeForGoodRoute(pageRequest("DELETE", "/x"), context({ studyId }));

  it("can be taken back; for good it removes the files, but not those that another study has", async () => {
    const shared = pieceWav({ seed: 30 });
    const one = (await (await newStudy(shared)).json()) as Added;
    const two = (await (await newStudy(shared)).json()) as Added;
    const hash = (await read(one.studyId)).study.reference!.file.hash;
    expect((await forGood(one.studyId)).status).toBe(404);
    await remove(one.studyId);
    expect(await read(one.studyId)).toBeNull();
    expect((await listStudies(db())).map(({ id }) => id)).not.toContain(one.studyId);
    expect((await listRemovedStudies(db())).map(({ id }) => id)).toContain(one.studyId);
    await undo(one.studyId);
    expect((await read(one.studyId)).study.id).toBe(one.studyId);
    await remove(one.studyId);
    expect((await forGood(one.studyId)).status).toBe(200);
    expect(await readdir(filesFolder())).toContain(hash);
    await remove(two.studyId);
    await forGood(two.studyId);
    expect(await readdir(filesFolder())).not.toContain(hash);
    expect(await db().select().from(files).where(eq(files.hash, hash))).toEqual([]);
    expect(await db().select().from(jobs).where(eq(jobs.subject, hash))).toEqual([]);
    await idle();
  });

  it("is for good after some days", async () => {
    const { studyId } = await begin({ seed: 41 });
    await remove(studyId);
    await clearAway(db(), Date.now() + (keptDays - 1) * 86_400_000);
    expect(await db().select().from(studies).where(eq(studies.id, studyId))).toHaveLength(1);
    await clearAway(db(), Date.now() + (keptDays + 1) * 86_400_000);
    expect(await db().select().from(studies).where(eq(studies.id, studyId))).toEqual([]);
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
