/** Drums over a real database file, with the real worker: heard, put right, compared, written and read. */
import { Midi } from "@tonejs/midi";
import { GET as drumsRoute } from "@/app/api/plans/[placeId]/drums/route";
import { DELETE as undoRoute, POST as correctRoute } from "@/app/api/plans/[placeId]/route";
import { PATCH as changeStudyRoute } from "@/app/api/studies/[studyId]/route";
import { PUT as addStemRoute } from "@/app/api/tracks/[trackId]/stems/route";
import { withHit, withoutHit, type CountedHit, type DrumCorrection } from "@/core/drums";
import { writeWav } from "@/core/formats/wav";
import { drumsAsWritten, playedDrums, steadyGrid, type Written } from "@/core/testing/drums";
import { pageRequest, until } from "./testing";
import { context, testServer } from "./testServer";

const { read, begin, beginVersion } = testServer();

const rate = 32000;
const grid = steadyGrid(120, 12, 0.2);
const written: Written = {
  kick: ["X...X...X...X...", "X...X...X..x...."],
  snare: ["....X.......X..."],
  hat: ["x.x.x.x.x.x.x.x."],
};
const wav = (alter?: (hit: CountedHit, beat: number) => CountedHit | null, only?: string) => {
  const { hits } = drumsAsWritten(written, grid, alter ? { alter } : {});
  const own = only ? hits.filter(({ voice }) => voice === only) : hits;
  const samples = playedDrums({ hits: own }, 25, rate, only ? null : grid);
  return writeWav([samples, samples], rate, "int16");
};
const correct = (placeId: string, correction: DrumCorrection) =>
  correctRoute(pageRequest("POST", "/x", { subject: "drums", correction }), context({ placeId }));
const undo = (placeId: string) => undoRoute(pageRequest("DELETE", "/x?subject=drums"), context({ placeId }));
const exported = (placeId: string, query: string) =>
  drumsRoute(pageRequest("GET", `/x?${query}`), context({ placeId }));

describe("drums of a study", () => {
  let studyId: string;
  let trackId: string;
  let versionId: string;
  const drums = async (id = trackId) => (await read(studyId)).drums.get(id)!;
  beforeAll(async () => {
    ({ studyId, trackId } = await begin(wav()));
    // The version has no kick in the middle of every other bar and its snare drags.
    const changed = wav((hit, beat) =>
      hit.voice === "kick" && beat % 8 === 2
        ? null
        : hit.voice === "snare"
          ? { ...hit, time: hit.time + 0.016 }
          : hit,
    );
    ({ trackId: versionId } = await beginVersion(studyId, changed));
    await until(async () => (await read(studyId)).linedUp.get(versionId)?.current, 60);
  }, 90_000);

  it("are heard with the analysis", async () => {
    const { counted, sources } = await drums();
    expect(sources).toEqual({});
    const kicks = counted.hits.filter(({ voice }) => voice === "kick");
    expect(kicks).toHaveLength(6 * 4 + 6 * 4);
    expect(Math.abs(kicks[0]!.time - 0.2)).toBeLessThan(0.005);
  });

  it("are compared, and count in the match", async () => {
    const { comparedDrums, standings } = await read(studyId);
    const compared = comparedDrums.get(versionId)!;
    const kick = compared.voices.find(({ voice }) => voice === "kick")!;
    const snare = compared.voices.find(({ voice }) => voice === "snare")!;
    expect(kick.missing).toBe(6);
    expect(1000 * snare.late!).toBeGreaterThan(9);
    expect(1000 * snare.late!).toBeLessThan(20);
    const { aspects } = standings[0]!;
    expect(aspects.pattern).toBeGreaterThan(90);
    expect(aspects.pattern).toBeLessThan(99.5);
    expect(aspects.timing).toBeLessThan(97);
  });

  it("count as meant where the producer says so, and again where not", async () => {
    const change = (meant: { voice: string; kind: string }[]) =>
      changeStudyRoute(
        pageRequest("PATCH", "/x", { intended: { bpm: null, semitones: 0, drums: meant } }),
        context({ studyId }),
      );
    expect((await change([{ voice: "kick", kind: "missing" }])).status).toBe(200);
    expect((await read(studyId)).comparedDrums.get(versionId)!.pattern).toBeGreaterThan(0.995);
    expect((await change([{ voice: "kettle", kind: "missing" }])).status).toBe(400);
    await change([]);
    expect((await read(studyId)).comparedDrums.get(versionId)!.pattern).toBeLessThan(0.995);
  });

  it("are put right, step by step undone, and the measurement stays", async () => {
    const before = await drums();
    const kick = before.counted.hits.find(({ voice }) => voice === "kick")!;
    const first = withoutHit({}, kick);
    expect((await correct(trackId, first)).status).toBe(200);
    expect((await correct(trackId, withHit(first, { time: 3.3, voice: "tom", velocity: 0.6 }))).status).toBe(
      200,
    );
    const after = await drums();
    expect(after.counted.hits).toHaveLength(before.counted.hits.length);
    expect(after.counted.hits.find(({ voice }) => voice === "tom")).toMatchObject({
      time: 3.3,
      origin: "by hand",
    });
    expect(after.estimate).toEqual(before.estimate);
    await undo(trackId);
    expect((await drums()).counted.hits).toHaveLength(before.counted.hits.length - 1);
    await undo(trackId);
    expect((await drums()).counted.hits).toEqual(before.counted.hits);
    expect((await undo(trackId)).status).toBe(404);
    expect((await correct(trackId, { added: [{ time: 1, voice: "tom", velocity: 7 }] })).status).toBe(400);
  });

  it("are written as MIDI and as a groove, whole or in bars", async () => {
    const whole = new Midi(new Uint8Array(await (await exported(trackId, "format=midi")).arrayBuffer()));
    const count = (midi: Midi, note: number) =>
      midi.tracks.flatMap(({ notes }) => notes).filter((n) => n.midi === note).length;
    expect(count(whole, 36)).toBe(48);
    expect(whole.header.tempos[0]!.bpm).toBeCloseTo(120, 1);
    const bars = await exported(trackId, "format=quantised&bars=3-4");
    expect(bars.headers.get("content-disposition")).toContain("song drums, bars 3-4, quantised.mid");
    const two = new Midi(new Uint8Array(await bars.arrayBuffer()));
    expect(
      two.tracks
        .flatMap(({ notes }) => notes)
        .filter((n) => n.midi === 38)
        .map(({ ticks }) => ticks / two.header.ppq),
    ).toEqual([1, 3, 5, 7]);
    const groove = await (await exported(trackId, "format=groove")).text();
    expect(groove).toMatch(/^voice,step,beat/);
    expect(groove).toMatch(/Snare,5,2,-?\d+\.\d,-?\d+\.\d,\d+,12/);
    expect((await exported(trackId, "format=wav")).status).toBe(400);
    expect((await exported(trackId, "format=midi&bars=90-95")).status).toBe(400);
    expect((await exported("nowhere", "format=midi")).status).toBe(404);
  });

  it("can come from a MIDI part in place of what was heard", async () => {
    const imported = {
      name: "part.mid",
      hits: [{ beat: 0, voice: "kick" as const, velocity: 1 }],
      lengthBeats: 4,
      firstBar: 1,
      repeats: true,
    };
    expect((await correct(versionId, { imported })).status).toBe(200);
    const { counted } = await drums(versionId);
    expect(counted.hits.every(({ voice, origin }) => voice === "kick" && origin === "brought")).toBe(true);
    expect(counted.hits.length).toBeGreaterThanOrEqual(12);
    await undo(versionId);
    expect((await drums(versionId)).counted.hits.some(({ origin }) => origin === "brought")).toBe(false);
  });

  it("are taken from a stem where there is one, at its place", async () => {
    await addStemRoute(pageRequest("PUT", "/x?name=kick.wav", wav(undefined, "kick")), context({ trackId }));
    await until(async () => (await drums()).sources.kick === "kick.wav", 60);
    const { counted } = await drums();
    expect(counted.hits.filter(({ voice }) => voice === "kick")).toHaveLength(48);
  }, 90_000);
});
