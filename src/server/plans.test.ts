/** Plans over a real database file, with the real worker: corrected, undone, written and read. */
import { PUT as annotationsRoute } from "@/app/api/items/[itemId]/annotations/route";
import { GET as planRoute } from "@/app/api/items/[itemId]/plan/route";
import { writeWav } from "@/core/formats/wav";
import { chordName, readChord } from "@/core/harmony/chords";
import { clicks } from "@/core/testing/signals";
import { itemPlan } from "@/core/study";
import { pageRequest } from "./testing/helpers";
import { context, testServer } from "./testing/testServer";

const { read, begin, beginVersion, allDone: ready, edit, editItem, undo } = testServer();

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
const exported = (itemId: string, format: string) =>
  planRoute(pageRequest("GET", `/x?format=${format}`), context({ itemId }));

describe("the plan of a track", () => {
  let studyId: string;
  let itemId: string;
  beforeAll(async () => {
    ({ studyId, itemId } = await begin(songWav(song)));
    await ready(studyId);
  }, 60_000);
  const plan = async () => {
    const { study, plans } = await read(studyId);
    return itemPlan(plans.get(itemId)!.value, study.reference!);
  };
  const chordsNow = async () =>
    (await plan()).chords.map(({ chord }) => chordName(chord)).filter((name) => name !== "–");

  it("is measured with the analysis", async () => {
    expect((await chordsNow()).slice(0, 8)).toEqual(song.slice(0, 8));
    const { key } = await plan();
    // A minor or its relative: the loop alone does not say.
    expect([0, 9]).toContain(key!.tonic);
  });

  it("is corrected, step by step undone, and the measurement stays", async () => {
    const measured = await plan();
    const chords = measured.chords.map((own, i) =>
      i === 1 ? { ...own, chord: readChord("Dm7")!, confidence: 1 } : own,
    );
    expect((await editItem(studyId, itemId, { harmony: { chords } })).status).toBe(200);
    await editItem(studyId, itemId, { harmony: { chords, key: { tonic: 2, mode: "minor" } } });
    expect((await chordsNow())[1]).toBe("Dm7");
    expect((await plan()).key).toEqual({ tonic: 2, mode: "minor" });
    await undo(studyId);
    expect((await plan()).key).toEqual(measured.key);
    await undo(studyId);
    expect(await plan()).toEqual(measured);
    expect((await undo(studyId)).status).toBe(404);
  });

  it("refuses what overlaps", async () => {
    const section = { firstBar: 1, lastBar: 4, name: "verse", letter: "A" };
    const sections = [section, { ...section, firstBar: 4, lastBar: 8 }];
    expect((await editItem(studyId, itemId, { form: { sections } })).status).toBe(400);
  });

  it("is worked out again when the grid is corrected", async () => {
    await editItem(studyId, itemId, { grid: { nudgeSeconds: 0.02 } });
    expect((await read(studyId)).plans.get(itemId)!.current).toBe(false);
    await ready(studyId);
    expect((await plan()).chords.length).toBeGreaterThan(8);
  });

  it("is written in every format, with a name to save it by", async () => {
    for (const format of ["midi", "chart", "degrees", "csv", "jams"]) {
      const response = await exported(itemId, format);
      expect(response.status).toBe(200);
      expect(response.headers.get("content-disposition")).toContain("song");
      expect((await response.arrayBuffer()).byteLength).toBeGreaterThan(50);
    }
    expect((await exported(itemId, "wax")).status).toBe(400);
    expect((await exported("gone", "jams")).status).toBe(404);
  });

  it("is read back from the annotations it was written as", async () => {
    const before = await chordsNow();
    const jams = await (await exported(itemId, "jams")).text();
    await editItem(studyId, itemId, {
      harmony: { chords: [{ startBeat: 0, endBeat: 8, chord: null, confidence: 1 }] },
    });
    expect(await chordsNow()).toEqual([]);
    const put = (text: string) =>
      annotationsRoute(pageRequest("PUT", "/x", new TextEncoder().encode(text)), context({ itemId }));
    const taken = await put(jams);
    expect(taken.status).toBe(200);
    expect(((await taken.json()) as { taken: string }).taken).toMatch(/chords, the key/);
    expect(await chordsNow()).toEqual(before);
    // An import is one edit like any other.
    await undo(studyId);
    expect(await chordsNow()).toEqual([]);
    await put(jams);
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
    await beginVersion(studyId, songWav(song.slice(0, 12), 3));
    const apart = (await ready(studyId)).scores[0]!.aspects;
    expect(apart.harmony!).toBeLessThan(50);
    await edit(studyId, (d) => ({ ...d, study: { ...d.study, intended: { bpm: null, semitones: 3 } } }));
    const intended = (await read(studyId)).scores[0]!.aspects;
    expect(intended.harmony!).toBeGreaterThan(95);
    expect(intended.form).toBe(100);
  });
});
