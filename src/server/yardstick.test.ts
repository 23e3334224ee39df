/** Yardsticks over a real database: tracks uploaded, measured, taken from other studies, removed and brought back. */
import { PUT as addItemRoute } from "@/app/api/studies/[studyId]/items/route";
import { POST as takeRoute } from "@/app/api/studies/[studyId]/yardstick/route";
import { yardstickModel } from "@/models/yardstick";
import type { StyleAspect } from "@/core/match";
import { compareInStudy } from "./study/compare";
import { yardstickFigures } from "./study/figures";
import { yardstickSources } from "./study/yardstick";
import { pageRequest, pieceWav, until } from "./testing/helpers";
import { context, testServer } from "./testing/testServer";

const server = testServer();

const addTrack = (studyId: string, wav: Uint8Array<ArrayBuffer>, name: string) =>
  addItemRoute(pageRequest("PUT", `/x?role=yardstick&name=${name}`, wav), context({ studyId }));
const take = (studyId: string, body: object) =>
  takeRoute(pageRequest("POST", "/x", body), context({ studyId }));
const model = async (studyId: string) => {
  const results = await server.read(studyId);
  return yardstickModel(results, await yardstickFigures(server.db(), results.study), null);
};
const names = async (studyId: string) =>
  (await server.read(studyId)).study.yardstick.map(({ fileName }) => fileName);

describe("a yardstick", () => {
  it("measures what is uploaded for it, and says where the reference lies", async () => {
    const { studyId } = await server.begin({ seconds: 8, seed: 1, bpm: 120 });
    for (const [i, bpm] of [124, 126, 128].entries())
      expect(
        (await addTrack(studyId, pieceWav({ seconds: 8, seed: 10 + i, bpm }), `${bpm}.wav`)).status,
      ).toBe(201);
    const ready = await until(async () => {
      const now = await model(studyId);
      return now.measured === 3 && now;
    });
    const tempo = ready.rows.find(({ name }) => name === "tempo")!;
    expect(tempo.range!.values.map((bpm) => Math.round(bpm))).toEqual([124, 126, 128]);
    await server.allDone(studyId);
    expect((await model(studyId)).unusual.reference.join(" ")).toMatch(/Slower than is typical: 120\.0 BPM/);
    // They are no versions, and are not taken apart.
    const { study } = await server.read(studyId);
    expect(study.versions).toEqual([]);
    // The same file again is recognised; one that is removed comes back by undoing.
    const again = (await (
      await addTrack(studyId, pieceWav({ seconds: 8, seed: 10, bpm: 124 }), "x.wav")
    ).json()) as {
      recognised?: string;
    };
    expect(again.recognised).toMatch(/already here as a track of the yardstick/);
    await server.editItem(studyId, study.yardstick[0]!.id, { removed: true });
    expect(await names(studyId)).toEqual(["126.wav", "128.wav"]);
    expect((await server.undo(studyId)).status).toBe(200);
    expect(await names(studyId)).toEqual(["124.wav", "126.wav", "128.wav"]);

    // Another study takes them without an upload, as one change.
    const other = await server.begin({ seconds: 8, seed: 40 });
    expect(await yardstickSources(server.db(), other.studyId)).toEqual([
      expect.objectContaining({ id: studyId, tracks: 3 }),
    ]);
    expect((await take(other.studyId, { from: studyId, what: "yardstick" })).status).toBe(201);
    expect(await names(other.studyId)).toEqual(["124.wav", "126.wav", "128.wav"]);
    expect((await model(other.studyId)).measured).toBe(3);
    expect((await take(other.studyId, { from: studyId, what: "reference" })).status).toBe(201);
    expect(await names(other.studyId)).toHaveLength(4);
    const twice = (await (await take(other.studyId, { from: studyId, what: "yardstick" })).json()) as {
      added: number;
    };
    expect(twice.added).toBe(0);
    await server.undo(other.studyId);
    await server.undo(other.studyId);
    expect(await names(other.studyId)).toEqual([]);
  }, 90_000);

  it("is what versions are held against where that is chosen", async () => {
    const quiet = (await server.begin({ seconds: 8, seed: 70, gainDb: -9 })).studyId;
    await server.beginVersion(quiet, pieceWav({ seconds: 8, seed: 71 }));
    for (const gainDb of [-0.5, 0, 0.5])
      await addTrack(quiet, pieceWav({ seconds: 8, seed: 80, gainDb }), `at ${gainDb}.wav`);
    await until(async () => (await model(quiet)).measured === 3);
    await server.allDone(quiet);
    const loudness = async () => (await server.read(quiet)).scores[0]!.aspects.loudness!;
    expect(await loudness()).toBeLessThan(30);
    const aimAt = (styleAspects: string[]) =>
      server.edit(quiet, (document) => ({
        ...document,
        study: { ...document.study, styleAspects: styleAspects as StyleAspect[] },
      }));
    await aimAt(["loudness"]);
    expect(await loudness()).toBeGreaterThan(95);
    const { study, style } = await server.read(quiet);
    expect([study.styleAspects, style!.yardstick.tracks]).toEqual([["loudness"], 3]);
    const compared = await compareInStudy(server.db(), await server.read(quiet), null, {
      bars: null,
      span: null,
    });
    const aspect = compared!.compared.mix.aspects.find(({ name }) => name === "loudness")!;
    expect(aspect.score).toBe(await loudness());
    expect(aspect.measures[0]!.typical).toMatchObject({ low: expect.any(Number) as number });
    expect((await aimAt(["loudness", "loudness"])).status).toBe(400);
    // With too few tracks left the reference counts again, and nothing else is claimed.
    await server.editItem(quiet, study.yardstick[0]!.id, { removed: true });
    expect((await server.read(quiet)).style).toBeNull();
    expect(await loudness()).toBeLessThan(30);
    await server.undo(quiet);
    expect(await loudness()).toBeGreaterThan(95);
    await server.undo(quiet);
    expect(await loudness()).toBeLessThan(30);
  }, 90_000);

  it("refuses what makes no sense", async () => {
    const { studyId } = await server.begin({ seconds: 4, seed: 60 });
    expect((await take(studyId, { from: "nobody", what: "reference" })).status).toBe(404);
    expect((await take(studyId, { from: studyId, what: "all" })).status).toBe(400);
    expect((await take("nobody", { from: studyId, what: "reference" })).status).toBe(404);
  });
});
