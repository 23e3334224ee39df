/** Plans over a real database file, with the real worker: corrected, undone, written and read. */
import { GET as exportRoute } from "@/app/api/plans/[placeId]/export/route";
import { PUT as annotationsRoute } from "@/app/api/plans/[placeId]/annotations/route";
import { DELETE as undoRoute, POST as correctRoute } from "@/app/api/plans/[placeId]/route";
import { POST as correctGridRoute } from "@/app/api/grids/[placeId]/route";
import { PATCH as changeStudyRoute } from "@/app/api/studies/[studyId]/route";
import { writeWav } from "@/core/formats/wav";
import { chordName, readChord } from "@/core/harmony/chords";
import type { PlanCorrection } from "@/core/plan";
import { clicks } from "@/core/testing/signals";
import { pageRequest } from "./testing";
import { context, testServer } from "./testServer";

const { read, begin, beginVersion: addVersion, allDone: ready } = testServer();

const { PI, sin } = Math;
const rate = 22050;

/** Clicks at 120 BPM over a chord a bar, each note with an overtone, moved by semitones. */
function songWav(names: readonly string[], semitones = 0): Uint8Array<ArrayBuffer> {
  const seconds = 2 * names.length + 0.5;
  const beat = clicks(
    Array.from({ length: 4 * names.length }, (_, i) => 0.1 + i / 2),
    seconds,
    rate,
  );
  const samples = beat.map((click, i) => {
    const bar = Math.min(names.length - 1, Math.max(0, Math.floor((i / rate - 0.1) / 2)));
    const chord = readChord(names[bar]!);
    if (!chord) return click;
    const third = chord.quality === "min" ? 3 : 4;
    return [0, third, 7].reduce((sum, interval) => {
      const frequency = 440 * 2 ** ((48 + chord.root + interval + semitones - 69) / 12);
      const phase = (2 * PI * frequency * i) / rate;
      return sum + 0.06 * sin(phase) + 0.03 * sin(2 * phase);
    }, click);
  });
  return writeWav([samples, samples], rate, "int16");
}

const loop = ["Am", "F", "C", "G"];
const song = [...loop, ...loop, ...loop, ...loop];
const correct = (placeId: string, body: PlanCorrection | object) =>
  correctRoute(pageRequest("POST", "/x", body), context({ placeId }));
const undo = (placeId: string, subject: string) =>
  undoRoute(pageRequest("DELETE", `/x?subject=${subject}`), context({ placeId }));
const exported = (placeId: string, format: string) =>
  exportRoute(pageRequest("GET", `/x?format=${format}`), context({ placeId }));

describe("the plan of a track", () => {
  let studyId: string;
  let trackId: string;
  beforeAll(async () => {
    ({ studyId, trackId } = await begin(songWav(song)));
    await ready(studyId);
  });
  const chordsNow = async () =>
    (await read(studyId)).plans
      .get(trackId)!
      .counted.chords.map(({ chord }) => chordName(chord))
      .filter((name) => name !== "–");

  it("is measured with the analysis", async () => {
    expect((await chordsNow()).slice(0, 8)).toEqual(song.slice(0, 8));
    const { key } = (await read(studyId)).plans.get(trackId)!.counted;
    // A minor or its relative: the loop alone does not say.
    expect([0, 9]).toContain(key!.tonic);
  });

  it("is corrected, step by step undone, and the measurement stays", async () => {
    const measured = (await read(studyId)).plans.get(trackId)!.counted;
    const chords = measured.chords.map((own, i) =>
      i === 1 ? { ...own, chord: readChord("Dm7")!, confidence: 1 } : own,
    );
    expect((await correct(trackId, { subject: "harmony", correction: { chords } })).status).toBe(200);
    await correct(trackId, {
      subject: "harmony",
      correction: { chords, key: { tonic: 2, mode: "minor" } },
    });
    expect((await chordsNow())[1]).toBe("Dm7");
    expect((await read(studyId)).plans.get(trackId)!.counted.key).toEqual({ tonic: 2, mode: "minor" });
    await undo(trackId, "harmony");
    expect((await read(studyId)).plans.get(trackId)!.counted.key).toEqual(measured.key);
    await undo(trackId, "harmony");
    expect((await read(studyId)).plans.get(trackId)!.counted).toEqual(measured);
    expect((await undo(trackId, "harmony")).status).toBe(404);
    expect((await undo(trackId, "shoes")).status).toBe(400);
  });

  it("refuses what overlaps, and places that are gone", async () => {
    const section = { firstBar: 1, lastBar: 4, name: "verse", letter: "A" };
    const sections = [section, { ...section, firstBar: 4, lastBar: 8 }];
    expect((await correct(trackId, { subject: "form", correction: { sections } })).status).toBe(400);
    expect((await correct("gone", { subject: "form", correction: {} })).status).toBe(404);
  });

  it("is worked out again when the grid is corrected", async () => {
    await correctGridRoute(
      pageRequest("POST", "/x", { correction: { nudgeSeconds: 0.02 } }),
      context({ placeId: trackId }),
    );
    expect((await read(studyId)).plans.get(trackId)!.current).toBe(false);
    const found = await ready(studyId);
    expect(found.plans.get(trackId)!.counted.chords.length).toBeGreaterThan(8);
  });

  it("is written in every format, with a name to save it by", async () => {
    for (const format of ["midi", "chart", "degrees", "csv", "jams"]) {
      const response = await exported(trackId, format);
      expect(response.status).toBe(200);
      expect(response.headers.get("content-disposition")).toContain("song");
      expect((await response.arrayBuffer()).byteLength).toBeGreaterThan(50);
    }
    expect((await exported(trackId, "wax")).status).toBe(400);
    expect((await exported("gone", "jams")).status).toBe(404);
  });

  it("is read back from the annotations it was written as", async () => {
    const before = await chordsNow();
    const jams = await (await exported(trackId, "jams")).text();
    await correct(trackId, {
      subject: "harmony",
      correction: { chords: [{ startBeat: 0, endBeat: 8, chord: null, confidence: 1 }] },
    });
    expect(await chordsNow()).toEqual([]);
    const put = (text: string) =>
      annotationsRoute(
        pageRequest("PUT", "/x", new TextEncoder().encode(text)),
        context({ placeId: trackId }),
      );
    const taken = await put(jams);
    expect(taken.status).toBe(200);
    expect(((await taken.json()) as { taken: string }).taken).toMatch(/chords, the key/);
    expect(await chordsNow()).toEqual(before);
    expect((await put("no annotations")).status).toBe(400);
    // Nothing in it is understood: what is there stays.
    const data = [{ time: 0.1, duration: 2, value: "purple", confidence: null }];
    const strange = JSON.stringify({ annotations: [{ namespace: "chord", data }] });
    expect((await put(strange)).status).toBe(400);
    expect(await chordsNow()).toEqual(before);
  });
});

describe("harmony in the match", () => {
  it("of a version moved on purpose is as if it were not", async () => {
    const { studyId } = await begin(songWav(song.slice(0, 12)));
    await addVersion(studyId, songWav(song.slice(0, 12), 3));
    const apart = (await ready(studyId)).standings[0]!.aspects;
    expect(apart.harmony!).toBeLessThan(50);
    await changeStudyRoute(
      pageRequest("PATCH", "/x", { intended: { bpm: null, semitones: 3 } }),
      context({ studyId }),
    );
    const meant = (await read(studyId)).standings[0]!.aspects;
    expect(meant.harmony!).toBeGreaterThan(95);
    expect(meant.form).toBe(100);
  });
});
