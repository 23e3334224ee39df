/** What belongs to a track, over a real database file, with the real worker: grid, coverage, stems, files for listening. */
import { readdir } from "node:fs/promises";
import { eq } from "drizzle-orm";
import { PATCH as changeTrackRoute } from "@/app/api/tracks/[trackId]/route";
import { DELETE as deleteStudyRoute, PATCH as changeStudyRoute } from "@/app/api/studies/[studyId]/route";
import { GET as energiesRoute } from "@/app/api/files/[hash]/energies/route";
import { GET as onsetsRoute } from "@/app/api/files/[hash]/onsets/route";
import { GET as pieceRoute } from "@/app/api/files/[hash]/pieces/[piece]/route";
import { DELETE as undoRoute, POST as correctRoute } from "@/app/api/grids/[placeId]/route";
import { DELETE as removeStemRoute, PATCH as changeStemRoute } from "@/app/api/stems/[stemId]/route";
import { PUT as addStemRoute } from "@/app/api/tracks/[trackId]/stems/route";
import { GET as overviewRoute } from "@/app/api/files/[hash]/overview/route";
import { samplesPerBlock } from "@/core/audio/overview";
import { foldToStereo } from "@/core/audio/signal";
import { framesPerPiece, unpackFrames } from "@/core/formats/pieces";
import { compareInStudy } from "./comparing";
import { listeningFolder } from "./places";
import { gridCorrections, linedUp, stems } from "./schema";
import { writeWav } from "@/core/formats/wav";
import { whiteNoise } from "@/core/testing/signals";
import { pageRequest, pieceWav, until } from "./testing";
import { context, testServer, type Added } from "./testServer";

const { db, read, newStudy, addVersion, begin, allDone } = testServer();
const nothing = { bars: null, span: null };

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
    const compared = (await compareInStudy(db(), edited, 1, nothing))!;
    expect(compared.spans.reference).toHaveLength(1);
    expect(compared.spans.version![0]!.from - compared.spans.reference![0]!.from).toBeCloseTo(2, 1);
    const outside = (await compareInStudy(db(), edited, 1, { ...nothing, bars: { first: 6, last: 6 } }))!;
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
    expect(await db().select().from(stems)).toEqual([]);
    expect(
      await db().select().from(gridCorrections).where(eq(gridCorrections.placeId, added.trackId)),
    ).toEqual([]);
    expect(await db().select().from(linedUp).where(eq(linedUp.trackId, trackId))).toEqual([]);
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
