/** What belongs to a track, over a real database file, with the real worker: grid, coverage, stems, files for listening. */
import { readdir, rm } from "node:fs/promises";
import { eq } from "drizzle-orm";
import { GET as curveRoute } from "@/app/api/curves/[hash]/[version]/[name]/route";
import { GET as audioRoute } from "@/app/api/audio/[hash]/[chunk]/route";
import { GET as tempoRoute } from "@/app/api/items/[itemId]/tempo/route";
import { curveNames } from "@/core/analysis/curves";
import { analysisVersion } from "@/core/analysis/result";
import { samplesPerBlock } from "@/core/audio/overview";
import { downmix } from "@/core/audio/signal";
import { framesPerChunk, listeningPartName, unpackFrames } from "@/core/formats/chunks";
import { writeWav } from "@/core/formats/wav";
import type { BarRange } from "@/core/grid/grid";
import { gainOf } from "@/core/study";
import { knownMix } from "@/core/testing/knownMix";
import { whiteNoise } from "@/core/testing/signals";
import { loadStemSounds } from "./storage/analyses";
import { listeningFolder, listeningPath, originalPath } from "./storage/paths";
import { alignments, corrections, items } from "./storage/schema";
import { clearAway, sweepAtStart } from "./storage/sweep";
import { compareInStudy } from "./study/compare";
import { pageRequest, pieceWav, until } from "./testing/helpers";
import { context, testServer, type Added } from "./testing/testServer";

const { db, read, newStudy, addStem, begin, beginVersion, allDone, edit, editItem, undo, send, idle } =
  testServer();
const nothing = { bars: null, span: null };

describe("the grid", () => {
  const gridOf = async (studyId: string, itemId: string) => (await read(studyId)).grids.get(itemId)!;
  const correct = (studyId: string, itemId: string, grid: object) => editItem(studyId, itemId, { grid });

  it("is corrected, step by step undone, and the measurement stays", async () => {
    const { studyId, itemId } = await begin({ seed: 50, seconds: 12 });
    const { analyses: before } = await allDone(studyId);
    const measured = await gridOf(studyId, itemId);
    expect(measured.bpm).toBeCloseTo(120, 1);
    expect((await correct(studyId, itemId, { bpm: 60 })).status).toBe(200);
    expect((await gridOf(studyId, itemId)).bpm).toBe(60);
    await correct(studyId, itemId, { bpm: 60, nudgeSeconds: 0.01 });
    const nudged = await gridOf(studyId, itemId);
    await undo(studyId);
    const back = await gridOf(studyId, itemId);
    expect(nudged.beats[0]! - back.beats[0]!).toBeCloseTo(0.01, 6);
    await undo(studyId);
    expect(await gridOf(studyId, itemId)).toEqual(measured);
    expect((await undo(studyId)).status).toBe(404);
    expect((await read(studyId)).analyses).toEqual(before);
    expect((await correct(studyId, itemId, { bpm: 5 })).status).toBe(400);
    expect((await correct(studyId, itemId, { barOneAt: 60 })).status).toBe(400);
  });

  it("of which bar 1 is set at 0:00 is corrected", async () => {
    const { studyId, itemId } = await begin({ seed: 50, seconds: 12 });
    await allDone(studyId);
    await correct(studyId, itemId, { barOneAt: 0 });
    const changed = await read(studyId);
    expect(changed.plans.get(itemId)!.current).toBe(false);
    expect((await allDone(studyId)).grids.get(itemId)!.beats[changed.grids.get(itemId)!.barOne]).toBeCloseTo(
      0,
      6,
    );
  });

  it("takes a tapped tempo as a hint that what is heard makes exact", async () => {
    const { studyId, itemId } = await begin({ seed: 52, seconds: 16 });
    await allDone(studyId);
    const asked = (near: string) => tempoRoute(pageRequest("GET", `/x?near=${near}`), context({ itemId }));
    expect(((await (await asked("121.7")).json()) as { bpm: number }).bpm).toBeCloseTo(120, 0);
    for (const wrong of ["", "-1", "1e308", "fast"]) expect((await asked(wrong)).status).toBe(400);
    expect((await tempoRoute(pageRequest("GET", "/x?near=120"), context({ itemId: "gone" }))).status).toBe(
      404,
    );
  });

  it("of a version, corrected, makes alignment and match anew", async () => {
    const { studyId } = await begin({ seed: 52, seconds: 16 });
    const { itemId } = await beginVersion(studyId, pieceWav({ seed: 53, seconds: 16 }));
    const first = await allDone(studyId);
    await correct(studyId, itemId, { bpm: 100 });
    const changed = await read(studyId);
    expect(changed.alignments.get(itemId)!.current).toBe(false);
    const again = await allDone(studyId);
    expect(again.scores[0]!.aspects.tempo!).toBeLessThan(first.scores[0]!.aspects.tempo!);
    await edit(studyId, (d) => ({ ...d, study: { ...d.study, intended: { bpm: 100, semitones: 0 } } }));
    // What is intended is the last step: nothing has to be worked out for it.
    const intended = await read(studyId);
    expect(intended.comparisons.get(itemId)!.current).toBe(true);
    expect(intended.scores[0]!.aspects.tempo).toBeCloseTo(100, 6);
  });

  it("has coverage that can be set by hand and left to the program again", async () => {
    const { studyId } = await begin({ seed: 52, seconds: 16 });
    const { itemId } = await beginVersion(studyId, pieceWav({ seed: 53, seconds: 16 }));
    await allDone(studyId);
    const change = (coverage: unknown) => editItem(studyId, itemId, { coverage });
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

describe("edits are bounded by the track", () => {
  it.each<[string, object]>([
    ["coverage of ten million bars", { coverage: [{ referenceFirst: 1, versionFirst: 1, bars: 1e7 }] }],
    ["coverage past the end", { coverage: [{ referenceFirst: 1, versionFirst: 1, bars: 90 }] }],
    [
      "a section of ten million bars",
      { form: { sections: [{ firstBar: 1, lastBar: 1e7, name: "a", letter: "A" }] } },
    ],
    [
      "a section past the end",
      { form: { sections: [{ firstBar: 1, lastBar: 99, name: "a", letter: "A" }] } },
    ],
    [
      "a chord up to beat 10¹⁵",
      { harmony: { chords: [{ startBeat: 0, endBeat: 1e15, chord: null, confidence: 1 }] } },
    ],
    [
      "a chord past the end",
      { harmony: { chords: [{ startBeat: 0, endBeat: 400, chord: null, confidence: 1 }] } },
    ],
    ["a hit after the end", { drums: { added: [{ time: 99, voice: "kick", velocity: 1 }] } }],
    [
      "more hits than anybody plays",
      { drums: { removed: Array.from({ length: 9000 }, (_, i) => ({ time: i / 900, voice: "kick" })) } },
    ],
    ["an offset of a day", { offsetSeconds: 86400 }],
    ["an element of nowhere", { elementId: "nowhere" }],
    ["a note of a megabyte", { note: "x".repeat(1e6) }],
  ])("%s is refused with a sentence, and the study stays as it was", async (_name, change) => {
    const { studyId, itemId } = await begin({ seed: 70, seconds: 12 });
    await allDone(studyId);
    const before = (await read(studyId)).study;
    const refused = await editItem(studyId, itemId, change);
    expect([400, 404]).toContain(refused.status);
    const { refusal } = (await refused.json()) as { refusal: { sentence: string } };
    expect(refusal.sentence).toMatch(/^[A-Z].*\.$/);
    expect((await read(studyId)).study).toEqual(before);
  });

  it.each<[string, unknown]>([
    ["no patch at all", [{ label: "x" }]],
    ["a label of nothing", [{ label: " ", patch: [] }]],
    ["a path into a prototype", [{ label: "x", patch: [{ path: ["__proto__", "x"], to: 1 }] }]],
    [
      "an item of another study",
      [{ label: "x", patch: [{ path: ["items", "0123456789abcdef", "note"], from: "", to: "y" }] }],
    ],
    ["a new item", [{ label: "x", patch: [{ path: ["items", "made-up"], to: { note: "" } }] }]],
    ["another type", [{ label: "x", patch: [{ path: ["study"], from: 1, to: [] }] }]],
    ["edits without end", Array.from({ length: 5000 }, () => ({ label: "x", patch: [] }))],
  ])("%s is refused with a sentence", async (_name, edits) => {
    const { studyId } = await begin({ seed: 71 });
    const refused = await send(studyId, edits as never);
    expect([400, 404, 409]).toContain(refused.status);
    expect(((await refused.json()) as { refusal: { sentence: string } }).refusal.sentence).toMatch(/\.$/);
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
    const { studyId, itemId: trackId } = (await made.json()) as Added;
    const alone = voice.slice(Math.round(0.75 * rate));
    const cut = writeWav([alone, alone], rate);
    const add = () => addStem(studyId, trackId, cut, "vocal.wav");
    const added = (await (await add()).json()) as Added;
    expect(((await (await add()).json()) as Added).recognised).toMatch(/already here as a stem/);
    const placed = await until(async () => {
      const [stem] = (await read(studyId)).study.reference!.stems;
      return stem?.measuredOffset && stem;
    });
    expect(placed.measuredOffset!.seconds).toBeCloseTo(0.75, 3);
    expect(placed.measuredOffset!.confidence).toBeGreaterThan(0.5);
    const change = (body: object) => editItem(studyId, added.itemId, body);
    await change({ offsetSeconds: 0.5 });
    expect((await read(studyId)).study.reference!.stems[0]!.offsetSeconds).toBe(0.5);
    expect((await change({ offsetSeconds: "late" })).status).toBe(400);
    await change({ grid: { bpm: 90 } });
    await idle();
    await send(studyId, [
      { label: "Deleted", patch: [{ path: ["study", "removed"], from: false, to: true }] },
    ]);
    await clearAway(db(), Date.now() + 30 * 86_400_000);
    expect(await db().select().from(items).where(eq(items.studyId, studyId))).toEqual([]);
    expect(await db().select().from(corrections).where(eq(corrections.itemId, added.itemId))).toEqual([]);
    expect(await db().select().from(alignments).where(eq(alignments.itemId, trackId))).toEqual([]);
    expect(await readdir(listeningFolder())).not.toContain(`${placed.file.hash}.pcm`);
  });

  it("are held against their track: how loud they are in it, and whether anything is missing", async () => {
    const rate = 22050;
    const voice = whiteNoise(-18, 10, rate, 66).map((x, i) => (i % 9000 < 5000 ? x : 0));
    const beat = new Float32Array(voice.length);
    const strokes = new Int16Array(pieceWav({ seed: 67, seconds: 10 }).buffer, 44);
    for (let i = 0; i < beat.length; i++) beat[i] = strokes[2 * i]! / 32768;
    const mixed = voice.map((x, i) => 0.25 * x + 0.5 * beat[i]!);
    const { itemId: trackId, studyId } = await begin(writeWav([mixed, mixed], rate));
    const sum = (stems: number) =>
      until(async () => {
        const own = (await read(studyId)).stemSums.get(trackId);
        return own?.current && Object.keys(own.value.gainsDb).length === stems && own.value;
      });
    const cut = voice.slice(Math.round(0.75 * rate));
    const stem = (await (
      await addStem(studyId, trackId, writeWav([cut, cut], rate), "vocal.wav")
    ).json()) as Added;
    const alone = await sum(1);
    expect(alone.gainsDb[stem.itemId]).toBeCloseTo(-12, 0);
    expect(alone.missing).toMatchObject([{ part: null, throughout: true }]);
    const drums = (await (
      await addStem(studyId, trackId, writeWav([beat, beat], rate), "beat.wav")
    ).json()) as Added;
    const both = await sum(2);
    expect(both.gainsDb[drums.itemId]).toBeCloseTo(-6, 0);
    expect(both.missing).toEqual([]);
    expect(both.restDb).toBeLessThan(-18);
    // It is heard where it lies, in place of its track.
    const { study } = await read(studyId);
    const { elementId } = study.reference!.stems[0]!;
    const part = listeningPartName({ trackId, elementId: elementId! });
    const answer = await audioRoute(
      pageRequest("GET", `/api/audio/x/0?part=${part}`),
      context({ hash: study.reference!.file.hash, chunk: "0" }),
    );
    const [heard] = unpackFrames(new Uint8Array(await answer.arrayBuffer()));
    expect(heard!).toHaveLength(framesPerChunk);
    expect(heard!.slice(0, Math.round(0.74 * rate)).every((x) => x === 0)).toBe(true);
    const from = Math.round(0.76 * rate);
    for (let i = from; i < from + 5000; i += 250) expect(heard![i]).toBeCloseTo(0.25 * voice[i]!, 2);
    // Moved away from where it belongs it is not heard in the track.
    await editItem(studyId, stem.itemId, { offsetSeconds: 3.1 });
    expect((await sum(2)).gainsDb[stem.itemId]).toBeNull();
    // Then it says nothing of its element either.
    const { study: moved, analyses, stemSums } = await read(studyId);
    const gain = (stemId: string) => gainOf(stemSums, trackId, stemId);
    expect(moved.reference!.stems[0]!.elementId).not.toBeNull();
    expect(await loadStemSounds(db(), moved.reference!.stems, analyses, gain)).toEqual([]);
    expect(await loadStemSounds(db(), moved.reference!.stems, analyses, () => 0)).toHaveLength(1);
  });

  it("are tied to the element that their name tells, unless somebody has said otherwise", async () => {
    const { itemId: trackId, studyId } = await begin({ seed: 64 });
    const tied = async (itemId: string) => {
      await idle();
      const { study } = await read(studyId);
      const stem = study.reference!.stems.find(({ id }) => id === itemId)!;
      return study.elements.find(({ id }) => id === stem.elementId)?.name ?? null;
    };
    const stem = async (seed: number, name: string) =>
      ((await (await addStem(studyId, trackId, pieceWav({ seed }), name)).json()) as Added).itemId;
    const hats = await stem(65, "hh loop.wav");
    expect(await tied(hats)).toBe("Hats");
    await editItem(studyId, hats, { elementId: null });
    expect(await tied(hats)).toBeNull();
  });

  it("stand for their element where both sides have one, over all bars and over some", async () => {
    const rate = 44100;
    const wavOf = (samples: Float32Array) => writeWav([samples, samples], rate, "int24");
    const [ours, theirs] = [
      knownMix({ rate, beats: 14 }),
      knownMix({ rate, beats: 14, gains: { kick: 0.5 } }),
    ];
    const study = await begin(wavOf(ours.samples));
    const version = await beginVersion(study.studyId, wavOf(theirs.samples));
    const kick = async () => {
      const results = await allDone(study.studyId, 60);
      const of = async (bars: BarRange | null) =>
        (await compareInStudy(db(), results, null, { bars, span: null }))!.compared.elements.find(
          ({ element }) => element.name === "Kick",
        )!;
      return { whole: await of(null), some: await of({ first: 1, last: 2 }), results };
    };
    const before = await kick();
    expect(before.whole.compared.through.kind).toBe("range");
    const tie = async (parent: string, samples: Float32Array) => {
      const stem = (await (await addStem(study.studyId, parent, wavOf(samples))).json()) as Added;
      await editItem(study.studyId, stem.itemId, { elementId: before.whole.element.id });
    };
    await tie(study.itemId, ours.parts.kick);
    await idle();
    expect((await kick()).whole.compared.through.kind).toBe("range");
    // That of the version begins a second and a quarter into it.
    await tie(version.itemId, theirs.parts.kick.slice(Math.round(1.25 * rate)));
    await idle();
    const { whole, some, results } = await kick();
    for (const { compared } of [whole, some]) {
      expect(compared.through).toEqual({ kind: "stems" });
      // Half as loud, by bars that are cut a little otherwise on both sides.
      expect(Math.abs(compared.bars!.level!.gap + 6)).toBeLessThan(0.8);
      expect(compared.bars!.presence.missing).toEqual([]);
    }
    expect(results.scores[0]!.elements[whole.element.id]).toBe(whole.compared.score);
  });

  it("can be removed and brought back with their element, and need a track", async () => {
    const { itemId: trackId, studyId } = await begin({ seed: 61 });
    const stem = (await (await addStem(studyId, trackId, pieceWav({ seed: 62 }))).json()) as Added;
    const [element] = (await read(studyId)).study.elements;
    await editItem(studyId, stem.itemId, { elementId: element!.id });
    await editItem(studyId, stem.itemId, { removed: true });
    expect((await read(studyId)).study.reference!.stems).toEqual([]);
    await undo(studyId);
    expect((await read(studyId)).study.reference!.stems[0]!.elementId).toBe(element!.id);
    expect((await addStem(studyId, "gone", pieceWav({ seed: 63 }))).status).toBe(404);
  });
});

describe("files for listening and drawing", () => {
  const chunkOf = (hash: string, chunk: number | string, part = "") =>
    audioRoute(pageRequest("GET", `/x${part && `?part=${part}`}`), context({ hash, chunk: String(chunk) }));

  it("are sent chunk by chunk, to the sample, also of formats that browsers cannot play", async () => {
    const { readFile } = await import("node:fs/promises");
    const aiff = Uint8Array.from(await readFile("src/server/decoding/fixtures/tone.aiff"));
    const { studyId } = (await (await newStudy(aiff, "tone.aiff")).json()) as Added;
    const { study } = await allDone(studyId);
    const { hash } = study.reference!.file;
    const { decodeFile } = await import("./decoding/decode");
    const decoded = await decodeFile("src/server/decoding/fixtures/tone.aiff");
    if (!decoded.ok) throw new Error(decoded.refusal.sentence);
    const [truth] = downmix(decoded.value.signal);
    const [left] = unpackFrames(new Uint8Array(await (await chunkOf(hash, 0)).arrayBuffer()));
    expect(left.length).toBe(Math.min(framesPerChunk, truth.length));
    for (let i = 0; i < left.length; i += 97) expect(left[i]).toBeCloseTo(truth[i]!, 5);
    expect((await (await chunkOf(hash, 999)).arrayBuffer()).byteLength).toBe(0);
    for (const wrong of ["x", "1e9", "99999999"]) expect((await chunkOf(hash, wrong)).status).toBe(400);
    expect((await chunkOf("../../plain-mirror.db", 0)).status).toBe(404);
  });

  it("come as percussive and sustained parts that add up to the whole", async () => {
    const { studyId } = await begin({ seed: 43, seconds: 6 });
    const { hash } = (await allDone(studyId)).study.reference!.file;
    const samples = async (part?: string) =>
      unpackFrames(new Uint8Array(await (await chunkOf(hash, 1, part)).arrayBuffer()))[0];
    const [whole, percussive, sustained] = [
      await samples(),
      await samples("percussive"),
      await samples("sustained"),
    ];
    expect(percussive.length).toBe(whole.length);
    for (let i = 0; i < whole.length; i += 501) {
      expect(percussive[i]! + sustained[i]!).toBeCloseTo(whole[i]!, 3);
    }
    expect((await chunkOf(hash, 1, "vocals")).status).toBe(400);
  });

  it("have every curve of the registry, under an address that holds the version of the analysis", async () => {
    const { studyId } = await begin({ seed: 41, seconds: 3 });
    const { hash } = (await allDone(studyId)).study.reference!.file;
    const ask = (name: string, of = hash, version = String(analysisVersion)) =>
      curveRoute(pageRequest("GET", "/x"), context({ hash: of, version, name }));
    const bytes = async (name: string) => new Uint8Array(await (await ask(name)).arrayBuffer());
    for (const name of curveNames) expect((await bytes(name)).length).toBeGreaterThan(50);
    const overview = await bytes("overview");
    expect(overview.length).toBe(2 * Math.ceil((3 * 22050) / samplesPerBlock));
    expect(Math.max(...overview)).toBeGreaterThan(20);
    expect((await bytes("kWeightedMeanSquares")).length).toBe(4 * 300);
    const onsets = await ask("onsetStrength");
    expect(Number(onsets.headers.get("X-Curve-Rate"))).toBeCloseTo(100, 0);
    expect((await onsets.arrayBuffer()).byteLength / 4).toBeGreaterThan(290);
    expect((await ask("overview", "0".repeat(64))).status).toBe(404);
    expect((await ask("overview", hash, "1")).status).toBe(404);
    expect((await ask("toString")).status).toBe(404);
  });

  it("are made again where the playback copy was lost, without a restart and at the next start", async () => {
    const { studyId } = await begin({ seed: 45 });
    const { hash } = (await allDone(studyId)).study.reference!.file;
    await rm(listeningPath(hash));
    const lost = await chunkOf(hash, 0);
    expect(lost.status).toBe(404);
    expect(((await lost.json()) as { refusal: { sentence: string } }).refusal.sentence).toMatch(
      /being made again/,
    );
    await until(async () => (await chunkOf(hash, 0)).status === 200);
    await rm(listeningPath(hash));
    await sweepAtStart(db());
    await until(async () => (await chunkOf(hash, 0)).status === 200);
  });

  it("say that an original was lost, and take its place again when the same file is uploaded", async () => {
    const wav = pieceWav({ seed: 46 });
    const { studyId } = (await (await newStudy(wav)).json()) as Added;
    const { hash } = (await allDone(studyId)).study.reference!.file;
    await rm(originalPath(hash));
    await rm(listeningPath(hash));
    await chunkOf(hash, 0);
    await idle();
    expect((await chunkOf(hash, 0)).status).toBe(404);
    await newStudy(wav);
    await until(async () => (await chunkOf(hash, 0)).status === 200);
    expect(await readdir(listeningFolder())).toContain(`${hash}.pcm`);
  });
});
