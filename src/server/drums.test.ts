/** Drums over a real database file, with the real worker: heard, put right, compared, written and read. */
import { Midi, type MidiFile } from "@/core/formats/midiFile";
import { GET as drumsRoute } from "@/app/api/items/[itemId]/drums/route";
import { GET as hitsRoute } from "@/app/api/items/[itemId]/hits/route";
import { GET as hitRoute } from "@/app/api/items/[itemId]/hits/[hit]/route";
import { GET as candidatesRoute } from "@/app/api/items/[itemId]/hits/[hit]/candidates/route";
import { GET as layersRoute } from "@/app/api/items/[itemId]/layers/route";
import { GET as soundRoute } from "@/app/api/items/[itemId]/sound/route";
import { PUT as addItemRoute } from "@/app/api/studies/[studyId]/items/route";
import { practiceKit, stroke } from "@/core/drums/kit";
import { drumGaps } from "@/core/drums";
import { drumStemsOf, heardInReference, itemDrums, tracksOf } from "@/core/study";
import { withHit, withoutHit, type CountedHit, type DrumCorrection } from "@/core/drums";
import { writeWav } from "@/core/formats/wav";
import { drumsAsWritten, playedDrums, steadyGrid, type Written } from "@/core/testing/drums";
import { candidatesAnswerSchema, layersAnswerSchema } from "@/models/candidates";
import { hitsAnswerSchema } from "@/models/hits";
import { keepFoundElements } from "./study/foundElements";
import { createStudy } from "./study/uploads";
import { pageRequest, until } from "./testing/helpers";
import { context, testServer } from "./testing/testServer";

const { db, read, begin, beginVersion, addStem, edit, editItem, undo, allDone } = testServer();

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
const exported = (itemId: string, query: string) =>
  drumsRoute(pageRequest("GET", `/x?${query}`), context({ itemId }));

describe("drums of a study", () => {
  let studyId: string;
  let trackId: string;
  let versionId: string;
  const drums = async (id = trackId) => {
    const { study, analyses, ownGrids } = await read(studyId);
    const track = tracksOf(study).find((own) => own.id === id)!;
    const stems = drumStemsOf(track.stems, study.elements, analyses);
    return itemDrums(analyses.get(track.file.hash)!, stems, track.corrections, ownGrids.get(id)!);
  };
  const correct = (id: string, correction: DrumCorrection) => editItem(studyId, id, { drums: correction });
  const compared = async () => (await allDone(studyId, 60)).comparisons.get(versionId)!.value.drums!;
  beforeAll(async () => {
    ({ studyId, itemId: trackId } = await begin(wav()));
    // The version has no kick in the middle of every other bar and its snare drags.
    const changed = wav((hit, beat) =>
      hit.voice === "kick" && beat % 8 === 2
        ? null
        : hit.voice === "snare"
          ? { ...hit, time: hit.time + 0.016 }
          : hit,
    );
    ({ itemId: versionId } = await beginVersion(studyId, changed));
    await allDone(studyId, 60);
  }, 90_000);

  it("leave those of the proposed elements that are heard, until somebody edits them", async () => {
    const elements = async () => (await read(studyId)).study.elements.map(({ name }) => name);
    const found = await elements();
    expect(found).toEqual(expect.arrayContaining(["Kick", "Snare", "Hats"]));
    for (const absent of ["Snare or clap", "Percussion", "Effects"]) expect(found).not.toContain(absent);
    // Four kicks a bar, two snares.
    const { kick, snare } = heardInReference(await read(studyId))!.parts;
    expect(kick.count).toBeGreaterThan(44);
    expect(Math.abs(snare.count - 24)).toBeLessThan(3);

    const edited = await begin(wav());
    const { study } = await allDone(edited.studyId, 60);
    expect(study.elements.map(({ name }) => name)).toEqual(found);
    const bare = await createStudy(db(), "Begun by hand");
    const [kickId] = (await read(bare)).study.elements.map(({ id }) => id);
    const noted = await edit(bare, (now) => ({
      ...now,
      elements: { ...now.elements, [kickId!]: { ...now.elements[kickId!]!, note: "mine" } },
    }));
    await addItemRoute(
      pageRequest("PUT", `/api/studies/${bare}/items?role=reference&name=own.wav`, wav()),
      context({ studyId: bare }),
    );
    expect((await allDone(bare, 60)).study.elements).toHaveLength(8);
    // Nor where the edit was taken back: whoever puts an element back wants it.
    const [{ id }] = (await noted.json()) as [{ id: number }];
    expect((await undo(bare, id)).status).toBe(200);
    const after = await allDone(bare, 60);
    expect(after.study.elements.map(({ note }) => note)).toEqual(Array.from({ length: 8 }, () => ""));
    expect(heardInReference(after)).not.toBeNull();
    expect(await keepFoundElements(db(), after)).toBe(false);
  });

  it("have a typical hit each, which is the one that was struck, and is taken along as WAV", async () => {
    const answer = await hitsRoute(pageRequest("GET", "/x"), context({ itemId: trackId }));
    const { hits } = hitsAnswerSchema.parse(await answer.json());
    const kick = hits.find(({ name }) => name === "kick-1")!;
    expect(kick.count).toBeGreaterThan(44);
    expect(kick.clean).toBeGreaterThan(0.5);
    expect(Math.max(...kick.outline)).toBe(1);
    // The practice kit's kick falls to 48 Hz.
    expect(Math.abs(kick.measures.fundamentalHz! - 48)).toBeLessThan(3);
    const file = await hitRoute(pageRequest("GET", "/x"), context({ itemId: trackId, hit: "kick-1" }));
    expect(file.headers.get("content-disposition")).toMatch(/kick-1.*1\.wav/);
    const view = new DataView(await file.arrayBuffer());
    expect(view.getUint16(34, true)).toBe(24);
    expect(view.getUint32(24, true)).toBe(rate);
    const none = await hitRoute(pageRequest("GET", "/x"), context({ itemId: trackId, hit: "gong-1" }));
    expect(none.status).toBe(404);
  });

  it("have a typical hit without the strokes that are left out by hand", async () => {
    const kick = async () => {
      const answer = await hitsRoute(pageRequest("GET", "/x"), context({ itemId: trackId }));
      return hitsAnswerSchema.parse(await answer.json()).hits.find(({ name }) => name === "kick-1")!;
    };
    const before = await kick();
    const out = before.strokes
      .filter(([, , state]) => state === 1)
      .slice(0, 3)
      .map(([time]) => time);
    expect(before.strokes).toHaveLength(before.count);
    await editItem(studyId, trackId, { hits: { leftOut: out } });
    const after = await kick();
    expect(after.strokes.filter(([, , state]) => state === 2).map(([time]) => time)).toEqual(out);
    expect(after.strokes.filter(([time, , state]) => state === 1 && out.includes(time))).toEqual([]);
    await undo(studyId);
    expect((await kick()).strokes).toEqual(before.strokes);
  });

  it("rank the sounds that are offered, tell loops apart, and keep which is chosen", async () => {
    const kickOf = (pitch: number) => {
      const drum = { ...practiceKit.kick, tone: { ...practiceKit.kick.tone, pitch } };
      const sound = stroke(drum, rate, () => 0.5).subarray(0, 0.4 * rate);
      return writeWav([sound, sound], rate, "int16");
    };
    const offer = async (bytes: Uint8Array<ArrayBuffer>, name: string) => {
      const query = `role=candidate&name=${encodeURIComponent(name)}`;
      const response = await addItemRoute(pageRequest("PUT", `/x?${query}`, bytes), context({ studyId }));
      return (await response.json()) as { itemId: string; recognised?: string };
    };
    const higher = await offer(kickOf(58), "higher.wav");
    const same = await offer(kickOf(48), "same.wav");
    expect((await offer(kickOf(48), "again.wav")).recognised).toMatch(/already here as a candidate/);
    const beat = playedDrums(drumsAsWritten(written, steadyGrid(120, 2, 0)), 4, rate);
    const loop = await offer(writeWav([beat, beat], rate, "int16"), "two bars.wav");
    const ranked = async () => {
      const answer = await candidatesRoute(
        pageRequest("GET", "/x"),
        context({ itemId: trackId, hit: "kick-1" }),
      );
      return candidatesAnswerSchema.parse(await answer.json());
    };
    const { oneShots, loops, refused } = await until(async () => {
      const found = await ranked();
      return found.waiting.length === 0 && found;
    }, 30);
    expect(refused).toEqual([]);
    expect(oneShots.map(({ id }) => id)).toEqual([same.itemId, higher.itemId]);
    expect(oneShots[0]!.score).toBeGreaterThan(80);
    expect(Math.abs(oneShots[1]!.suggestion!.semitones + 12 * Math.log2(58 / 48))).toBeLessThan(1);
    expect(loops).toHaveLength(1);
    expect(loops[0]).toMatchObject({ id: loop.itemId, bars: 2, isCut: true });
    expect(loops[0]!.bpm).toBeCloseTo(120, 3);
    expect(loops[0]!.drums!.score).toBeGreaterThan(80);

    // Heard in the place of the kick: tuned down it is as loud, and as low.
    const heard = await soundRoute(
      pageRequest("GET", `/x?track=${trackId}&hit=kick-1&semitones=-3.3`),
      context({ itemId: higher.itemId }),
    );
    expect(heard.headers.get("content-disposition")).toContain("higher adjusted.wav");
    const layers = await layersRoute(
      pageRequest("GET", `/x?track=${trackId}&hit=kick-1`),
      context({ itemId: higher.itemId }),
    );
    expect(layersAnswerSchema.parse(await layers.json()).layers.every(({ id }) => id === same.itemId)).toBe(
      true,
    );
    const both = await soundRoute(
      pageRequest("GET", `/x?track=${trackId}&hit=kick-1&layer=${same.itemId}&offset=2&inverted=yes&gain=-6`),
      context({ itemId: higher.itemId }),
    );
    expect(both.headers.get("content-disposition")).toContain("higher with same.wav");
    const whole = await soundRoute(pageRequest("GET", "/x"), context({ itemId: loop.itemId }));
    expect((await whole.arrayBuffer()).byteLength).toBeGreaterThan(4 * rate * 4);

    await editItem(studyId, same.itemId, { chosenFor: "kick-1" });
    const { candidates } = (await read(studyId)).study;
    expect(candidates.map(({ fileName, chosenFor }) => [fileName, chosenFor])).toEqual([
      ["higher.wav", null],
      ["same.wav", "kick-1"],
      ["two bars.wav", null],
    ]);
    await editItem(studyId, higher.itemId, { removed: true });
    expect((await ranked()).oneShots.map(({ id }) => id)).toEqual([same.itemId]);
    // A sound that is known already is still too short to be a track.
    const track = await addItemRoute(
      pageRequest("PUT", "/x?role=version&name=kick.wav", kickOf(48)),
      context({ studyId }),
    );
    expect([track.status, ((await track.json()) as { refusal: { code: string } }).refusal.code]).toEqual([
      422,
      "too-short",
    ]);
  });

  it("say of sounds that can't be ranked why, and go on with the others", async () => {
    const offer = async (bytes: Uint8Array<ArrayBuffer>, name: string) => {
      const response = await addItemRoute(
        pageRequest("PUT", `/x?role=candidate&name=${name}`, bytes),
        context({ studyId }),
      );
      return { status: response.status, body: (await response.json()) as Record<string, never> };
    };
    const channel = (seconds: number, x: number) => new Float32Array(Math.round(seconds * rate)).fill(x);
    const wavOf = (samples: Float32Array, at = rate) => writeWav([samples], at, "int16");
    // Too short, no sound at all, no audio at all; each with its sentence.
    const brief = await offer(wavOf(channel(0.01, 0.2)), "brief.wav");
    expect([brief.status, brief.body.refusal]).toEqual([
      422,
      expect.objectContaining({ sentence: "This file is only 0.010 s long; at least 0.02 s is needed." }),
    ]);
    expect((await offer(Buffer.from("only words, no sound"), "letter.wav")).status).toBe(415);
    const silent = await offer(wavOf(channel(0.3, 0)), "silent.wav");
    // A mono file at another rate is a sound like any other.
    const click = channel(0.2, 0).map((_, i) => 0.5 * Math.sin(i / 3) * Math.exp(-i / 400));
    const mono = await offer(wavOf(click, 96000), "mono.wav");
    const answer = await candidatesRoute(
      pageRequest("GET", "/x"),
      context({ itemId: trackId, hit: "snare-1" }),
    );
    const { oneShots, refused } = candidatesAnswerSchema.parse(await answer.json());
    expect(oneShots.map(({ id }) => id)).toContain(mono.body.itemId);
    expect(refused).toEqual([{ id: silent.body.itemId, sentence: "Nothing sounds in this file." }]);

    const statusOf = async (response: Promise<Response>) => (await response).status;
    const sound = (query: string, itemId: string) =>
      statusOf(soundRoute(pageRequest("GET", `/x?${query}`), context({ itemId })));
    const place = `track=${trackId}&hit=snare-1`;
    expect(await sound(`${place}&semitones=900`, mono.body.itemId!)).toBe(400);
    expect(await sound(`track=${trackId}&hit=gong-1`, mono.body.itemId!)).toBe(404);
    expect(await sound(`${place}&layer=nobody`, mono.body.itemId!)).toBe(404);
    expect(await sound(place, "nobody")).toBe(404);
    expect(await sound(place, trackId)).toBe(404);
    const layers = layersRoute(pageRequest("GET", "/x?hit=snare-1"), context({ itemId: mono.body.itemId! }));
    expect(await statusOf(layers)).toBe(400);
    const nowhere = candidatesRoute(pageRequest("GET", "/x"), context({ itemId: "nobody", hit: "kick-1" }));
    expect(await statusOf(nowhere)).toBe(404);
  });

  it("have bass notes that are put right, which makes what is compared anew", async () => {
    const before = (await allDone(studyId, 60)).comparisons.get(versionId)!;
    const note = { start: 1, end: 1.2, midi: 36, cents: 0, levelDb: -20, sure: 1 };
    await editItem(studyId, versionId, { bass: { added: [note] } });
    expect((await read(studyId)).study.versions[0]!.corrections.bass.added).toEqual([note]);
    expect((await allDone(studyId, 60)).comparisons.get(versionId)!.value).not.toBe(before.value);
    const beyond = await editItem(studyId, versionId, {
      bass: { added: [{ ...note, start: 500, end: 501 }] },
    });
    expect(beyond.status).toBe(400);
    await undo(studyId);
    expect((await read(studyId)).study.versions[0]!.corrections.bass.added ?? []).toEqual([]);
  });

  it("are heard with the analysis", async () => {
    const { counted, sources } = await drums();
    expect(sources).toEqual({});
    const kicks = counted.hits.filter(({ voice }) => voice === "kick");
    expect(kicks).toHaveLength(6 * 4 + 6 * 4);
    expect(Math.abs(kicks[0]!.time - 0.2)).toBeLessThan(0.005);
  });

  it("are compared, and count in the match", async () => {
    const { voices } = await compared();
    const kick = voices.find(({ voice }) => voice === "kick")!;
    const snare = voices.find(({ voice }) => voice === "snare")!;
    expect(kick.missing).toBe(6);
    expect(1000 * snare.meanTimingDeviation!).toBeGreaterThan(9);
    expect(1000 * snare.meanTimingDeviation!).toBeLessThan(20);
    const { aspects } = (await read(studyId)).scores[0]!;
    expect(aspects.pattern).toBeGreaterThan(90);
    expect(aspects.pattern).toBeLessThan(99.5);
    expect(aspects.timing).toBeLessThan(97);
  });

  it("count as intended where the producer says so, at once, and again where not", async () => {
    const change = (drums: { voice: string; kind: string }[]) =>
      edit(studyId, (d) => ({
        ...d,
        study: { ...d.study, intended: { bpm: null, semitones: 0, drums: drums as never } },
      }));
    const pattern = async () => (await read(studyId)).scores[0]!.aspects.pattern!;
    expect((await change([{ voice: "kick", kind: "missing" }])).status).toBe(200);
    expect(await pattern()).toBeGreaterThan(99.5);
    expect(drumGaps(await compared(), [{ voice: "kick", kind: "missing" }]).pattern).toBeGreaterThan(0.995);
    expect((await change([{ voice: "kettle", kind: "missing" }])).status).toBe(400);
    await change([]);
    expect(await pattern()).toBeLessThan(99.5);
  });

  it("are edited, step by step undone, and the measurement stays", async () => {
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
    await undo(studyId);
    expect((await drums()).counted.hits).toHaveLength(before.counted.hits.length - 1);
    await undo(studyId);
    expect((await drums()).counted.hits).toEqual(before.counted.hits);
    expect((await correct(trackId, { added: [{ time: 1, voice: "tom", velocity: 7 }] })).status).toBe(400);
  });

  it("are written as MIDI and as a groove, whole or in bars", async () => {
    const whole = new Midi(new Uint8Array(await (await exported(trackId, "format=midi")).arrayBuffer()));
    const count = (midi: MidiFile, note: number) =>
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
    await undo(studyId);
    expect((await drums(versionId)).counted.hits.some(({ origin }) => origin === "brought")).toBe(false);
  });

  it("are taken from a stem where there is one, at its place, by the name of its element", async () => {
    await addStem(studyId, trackId, wav(undefined, "kick"), "kick.wav");
    await until(async () => (await drums()).sources.kick === "Kick", 60);
    const { counted } = await drums();
    expect(counted.hits.filter(({ voice }) => voice === "kick")).toHaveLength(48);
  }, 90_000);
});
