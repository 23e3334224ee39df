/** The routes over a real database file, with the real worker. */
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
import { PUT as addTrackRoute } from "@/app/api/studies/[studyId]/tracks/route";
import { POST as emptyStudyRoute, PUT as newStudyRoute } from "@/app/api/studies/route";
import { GET as energiesRoute } from "@/app/api/files/[hash]/energies/route";
import { GET as onsetsRoute } from "@/app/api/files/[hash]/onsets/route";
import { GET as pieceRoute } from "@/app/api/files/[hash]/pieces/[piece]/route";
import { DELETE as undoRoute, POST as correctRoute } from "@/app/api/grids/[placeId]/route";
import { DELETE as removeStemRoute, PATCH as changeStemRoute } from "@/app/api/stems/[stemId]/route";
import { PUT as addStemRoute } from "@/app/api/tracks/[trackId]/stems/route";
import { GET as overviewRoute } from "@/app/api/files/[hash]/overview/route";
import { analysisVersion } from "@/core/analysis/result";
import { samplesPerBlock } from "@/core/audio/overview";
import { foldToStereo } from "@/core/audio/signal";
import { framesPerPiece, unpackFrames } from "@/core/formats/pieces";
import { compareInStudy } from "./comparing";
import { database, type Database } from "./database";
import { filesFolder, incomingFolder, listeningFolder } from "./places";
import { destroyQueue, resumeQueue } from "./queue";
import { readStudy } from "./reading";
import { analyses, files, gridCorrections, jobs, linedUp, stems, studies } from "./schema";
import { writeWav } from "@/core/formats/wav";
import { whiteNoise } from "@/core/testing/signals";
import { freshDataFolder, pageRequest, pieceWav, until } from "./testing";

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

const context = <T>(params: T) => ({ params: Promise.resolve(params) });
const newStudy = (wav: Uint8Array<ArrayBuffer>, name = "reference.wav") =>
  newStudyRoute(pageRequest("PUT", `/api/studies?name=${encodeURIComponent(name)}`, wav), undefined as never);
const addVersion = (studyId: string, wav: Uint8Array<ArrayBuffer>, query = "") =>
  addTrackRoute(
    pageRequest("PUT", `/api/studies/${studyId}/tracks?role=version&name=v.wav${query}`, wav),
    context({ studyId }),
  );
const read = async (studyId: string) => (await readStudy(db, studyId))!;
const allDone = (studyId: string) =>
  until(async () => {
    const found = await read(studyId);
    const tracks = [found.study.reference!, ...found.study.versions];
    return (
      tracks.every((t) => t.job.state === "done" && found.analyses.has(t.file.hash)) &&
      found.study.versions.every((v) => found.linedUp.get(v.id)?.current) &&
      found
    );
  });
const nothing = { bars: null, span: null };
type Added = { studyId: string; trackId: string; number: number; recognised?: string };
const begin = async (options: Parameters<typeof pieceWav>[0] = {}) =>
  (await (await newStudy(pieceWav(options))).json()) as Added;

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

    const whole = (await compareInStudy(db, found, null, nothing))!;
    expect(whole.compared.match).toBeCloseTo(found.standings[0]!.match!, 6);
    expect(whole.linedUp).toBe(true);
    // Clicks at 120 BPM: a bar is two seconds.
    const part = (await compareInStudy(db, found, 1, { ...nothing, bars: { first: 2, last: 3 } }))!;
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
      studies: (await db.select().from(studies)).length,
      kept: (await readdir(filesFolder())).length,
    };
    const response = await newStudy(bytes as Uint8Array<ArrayBuffer>);
    expect(response.status).toBe(status);
    const { refusal } = (await response.json()) as { refusal: { code: string; sentence: string } };
    expect(refusal.code).toBe(code);
    expect(refusal.sentence.endsWith(".")).toBe(true);
    expect((await db.select().from(studies)).length).toBe(before.studies);
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
    await db.delete(analyses).where(eq(analyses.fileHash, hash));
    await db.update(jobs).set({ state: "running" }).where(eq(jobs.fileHash, hash));
    await resumeQueue();
    expect((await allDone(studyId)).analyses.get(hash)).toBeDefined();
  });

  it("makes results of another version of the analysis anew", async () => {
    const { studyId } = await begin({ seed: 21 });
    const { study } = await allDone(studyId);
    const { hash } = study.reference!.file;
    await db
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
    expect(await db.select().from(files).where(eq(files.hash, hash))).toEqual([]);
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

describe("the grid", () => {
  const correct = (placeId: string, body: object) =>
    correctRoute(pageRequest("POST", "/x", body), context({ placeId }));
  const undo = (placeId: string) => undoRoute(pageRequest("DELETE", "/x"), context({ placeId }));
  const gridOf = async (studyId: string, trackId: string) => (await read(studyId)).grids.get(trackId)!;

  it("is corrected, step by step undone, and the measurement stays", async () => {
    const { studyId, trackId } = await begin({ seed: 50, seconds: 12 });
    const { analyses: before } = await allDone(studyId);
    const measured = await gridOf(studyId, trackId);
    expect(measured.bpm).toBeCloseTo(120, 1);
    expect((await correct(trackId, { correction: { bpm: 60 } })).status).toBe(200);
    expect((await gridOf(studyId, trackId)).bpm).toBe(60);
    await correct(trackId, { correction: { bpm: 60, nudgeSeconds: 0.01 } });
    const nudged = await gridOf(studyId, trackId);
    await undo(trackId);
    const back = await gridOf(studyId, trackId);
    expect(nudged.beats[0]! - back.beats[0]!).toBeCloseTo(0.01, 6);
    await undo(trackId);
    expect(await gridOf(studyId, trackId)).toEqual(measured);
    expect((await undo(trackId)).status).toBe(404);
    expect((await read(studyId)).analyses).toEqual(before);
    expect((await correct(trackId, { correction: { bpm: 5 } })).status).toBe(400);
    expect((await correct("gone", { correction: {} })).status).toBe(404);
  });

  it("takes a tapped tempo as a hint and sharpens it", async () => {
    const { studyId, trackId } = await begin({ seed: 51, seconds: 20 });
    await allDone(studyId);
    await correct(trackId, { correction: { bpm: 121.7 }, tapped: true });
    expect((await gridOf(studyId, trackId)).bpm).toBeCloseTo(120, 0);
  });

  it("of a version, corrected, makes lining up and match anew", async () => {
    const { studyId } = await begin({ seed: 52, seconds: 16 });
    const { trackId } = (await (
      await addVersion(studyId, pieceWav({ seed: 53, seconds: 16 }))
    ).json()) as Added;
    const first = await allDone(studyId);
    await correct(trackId, { correction: { bpm: 100 } });
    const changed = await read(studyId);
    expect(changed.linedUp.get(trackId)!.current).toBe(false);
    const again = await allDone(studyId);
    expect(again.standings[0]!.aspects.tempo!).toBeLessThan(first.standings[0]!.aspects.tempo!);
    await changeStudyRoute(
      pageRequest("PATCH", "/x", { intended: { bpm: 100, semitones: 0 } }),
      context({ studyId }),
    );
    expect((await read(studyId)).standings[0]!.aspects.tempo).toBeCloseTo(100, 6);
  });

  it("has coverage that can be set by hand and left to the program again", async () => {
    const { studyId } = await begin({ seed: 54, seconds: 16 });
    const { trackId } = (await (
      await addVersion(studyId, pieceWav({ seed: 55, seconds: 16 }))
    ).json()) as Added;
    await allDone(studyId);
    const change = (coverage: unknown) =>
      changeTrackRoute(pageRequest("PATCH", "/x", { coverage }), context({ trackId }));
    const span = { referenceFirst: 2, versionFirst: 3, bars: 2 };
    expect((await change([span])).status).toBe(200);
    const edited = await allDone(studyId);
    const compared = (await compareInStudy(db, edited, 1, nothing))!;
    expect(compared.spans.reference).toHaveLength(1);
    expect(compared.spans.version![0]!.from - compared.spans.reference![0]!.from).toBeCloseTo(2, 1);
    const outside = (await compareInStudy(db, edited, 1, { ...nothing, bars: { first: 6, last: 6 } }))!;
    expect(outside.nothingRecreated).toBe(true);
    expect((await change([span, { ...span, versionFirst: 6 }])).status).toBe(400);
    expect((await change(null)).status).toBe(200);
    expect((await read(studyId)).study.versions[0]!.coverage).toBeNull();
  });
});

describe("stems", () => {
  it("are lined up with their track, moved by hand, and go with it", async () => {
    // A voice over a beat; the stem is the voice alone from 0.75 s on.
    const rate = 22050;
    const voice = whiteNoise(-18, 10, rate, 60).map((x, i) => (i % 9000 < 5000 ? x : 0));
    const beat = pieceWav({ seed: 60, seconds: 10 });
    const samples = new Int16Array(beat.buffer, 44);
    const mixed = voice.map((x, i) => x + samples[2 * i]! / 32768);
    const made = await newStudy(writeWav([mixed, mixed], rate));
    const { studyId, trackId } = (await made.json()) as Added;
    const alone = voice.slice(Math.round(0.75 * rate));
    const cut = writeWav([alone, alone], rate);
    const add = () => addStemRoute(pageRequest("PUT", "/x?name=vocal.wav", cut), context({ trackId }));
    const added = (await (await add()).json()) as Added;
    expect(((await (await add()).json()) as Added).recognised).toMatch(/already here as a stem/);
    const placed = await until(async () => {
      const [stem] = (await read(studyId)).study.reference!.stems;
      return stem?.measuredOffset && stem;
    });
    expect(placed.measuredOffset!.seconds).toBeCloseTo(0.75, 3);
    expect(placed.measuredOffset!.confidence).toBeGreaterThan(0.5);
    const change = (body: object) =>
      changeStemRoute(pageRequest("PATCH", "/x", body), context({ stemId: added.trackId }));
    await change({ offsetSeconds: 0.5 });
    expect((await read(studyId)).study.reference!.stems[0]!.offsetSeconds).toBe(0.5);
    expect((await change({ offsetSeconds: "late" })).status).toBe(400);
    await correctRoute(
      pageRequest("POST", "/x", { correction: { bpm: 90 } }),
      context({ placeId: added.trackId }),
    );
    await deleteStudyRoute(pageRequest("DELETE", "/x"), context({ studyId }));
    expect(await db.select().from(stems)).toEqual([]);
    expect(await db.select().from(gridCorrections).where(eq(gridCorrections.placeId, added.trackId))).toEqual(
      [],
    );
    expect(await db.select().from(linedUp).where(eq(linedUp.trackId, trackId))).toEqual([]);
    expect(await readdir(listeningFolder())).not.toContain(`${placed.file.hash}.pcm`);
  });

  it("can be removed, and need a track", async () => {
    const { trackId, studyId } = await begin({ seed: 61 });
    const wav = pieceWav({ seed: 62 });
    const { trackId: stemId } = (await (
      await addStemRoute(pageRequest("PUT", "/x?name=s.wav", wav), context({ trackId }))
    ).json()) as Added;
    const remove = () => removeStemRoute(pageRequest("DELETE", "/x"), context({ stemId }));
    expect((await remove()).status).toBe(200);
    expect((await read(studyId)).study.reference!.stems).toEqual([]);
    expect((await remove()).status).toBe(404);
    const orphan = await addStemRoute(
      pageRequest("PUT", "/x?name=s.wav", pieceWav({ seed: 63 })),
      context({ trackId: "gone" }),
    );
    expect(orphan.status).toBe(404);
  });
});

describe("files for listening and drawing", () => {
  const pieceOf = (hash: string, piece: number | string, part = "") =>
    pieceRoute(
      new Request(`http://localhost/x${part && `?part=${part}`}`),
      context({ hash, piece: String(piece) }),
    );

  it("are sent piece by piece, to the sample, also of formats that browsers cannot play", async () => {
    const { readFile } = await import("node:fs/promises");
    const aiff = Uint8Array.from(await readFile("src/server/fixtures/tone.aiff"));
    const { studyId } = (await (await newStudy(aiff, "tone.aiff")).json()) as Added;
    const { study } = await allDone(studyId);
    const { hash } = study.reference!.file;
    const { decodeFile } = await import("./decode");
    const decoded = await decodeFile("src/server/fixtures/tone.aiff");
    if (!decoded.ok) throw new Error(decoded.refusal.sentence);
    const [truth] = foldToStereo(decoded.value.signal);
    const [left] = unpackFrames(new Uint8Array(await (await pieceOf(hash, 0)).arrayBuffer()));
    expect(left.length).toBe(Math.min(framesPerPiece, truth.length));
    for (let i = 0; i < left.length; i += 97) expect(left[i]).toBeCloseTo(truth[i]!, 5);
    expect((await (await pieceOf(hash, 999)).arrayBuffer()).byteLength).toBe(0);
    expect((await pieceOf(hash, "x")).status).toBe(400);
    expect((await pieceOf("../../plain-mirror.db", 0)).status).toBe(404);
  });

  it("come as percussive and sustained parts that add up to the whole", async () => {
    const { studyId } = await begin({ seed: 43, seconds: 6 });
    const { hash } = (await allDone(studyId)).study.reference!.file;
    const samples = async (part?: string) =>
      unpackFrames(new Uint8Array(await (await pieceOf(hash, 1, part)).arrayBuffer()))[0];
    const [whole, percussive, sustained] = [
      await samples(),
      await samples("percussive"),
      await samples("sustained"),
    ];
    expect(percussive.length).toBe(whole.length);
    for (let i = 0; i < whole.length; i += 501) {
      expect(percussive[i]! + sustained[i]!).toBeCloseTo(whole[i]!, 3);
    }
    expect((await pieceOf(hash, 1, "vocals")).status).toBe(400);
  });

  it("give waveform, loudness and onsets once they are analysed", async () => {
    const { studyId } = await begin({ seed: 41, seconds: 3 });
    const { study } = await allDone(studyId);
    const { hash } = study.reference!.file;
    const bytes = async (route: typeof overviewRoute, of = hash) => {
      const response = await route(new Request("http://localhost/x"), context({ hash: of }));
      return { status: response.status, data: new Uint8Array(await response.arrayBuffer()) };
    };
    const overview = (await bytes(overviewRoute)).data;
    expect(overview.length).toBe(2 * Math.ceil((3 * 22050) / samplesPerBlock));
    expect(Math.max(...overview)).toBeGreaterThan(20);
    expect((await bytes(energiesRoute)).data.length).toBe(4 * 300);
    const onsets = new Float32Array((await bytes(onsetsRoute)).data.buffer);
    expect(onsets[0]).toBeCloseTo(100, 0);
    expect(onsets.length).toBeGreaterThan(290);
    for (const route of [overviewRoute, energiesRoute, onsetsRoute]) {
      expect((await bytes(route, "0".repeat(64))).status).toBe(404);
    }
  });
});
