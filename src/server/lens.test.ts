/** Parts lifted out of uploaded mixes, over a real database file, with real processes and threads. */
import { readdir, rm, utimes, writeFile } from "node:fs/promises";
import path from "node:path";
import wavDecoder from "@audio/decode-wav";
import { and, eq } from "drizzle-orm";
import { GET as audioRoute } from "@/app/api/audio/[hash]/[chunk]/route";
import { POST as againRoute } from "@/app/api/items/[itemId]/analysis/route";
import { GET as lensRoute } from "@/app/api/items/[itemId]/lens/route";
import { unpackFrames } from "@/core/formats/chunks";
import { writeWav } from "@/core/formats/wav";
import { barStart } from "@/core/grid/grid";
import { lensParts } from "@/core/lens";
import { knownMix } from "@/core/testing/knownMix";
import { lensFileOf, loadLift, thinLensFiles } from "./storage/lifts";
import { lensPath, listeningFolder } from "./storage/paths";
import { jobs, lifts, type JobKind } from "./storage/schema";
import { clearAway, sweepAtStart } from "./storage/sweep";
import { compareInStudy } from "./study/compare";
import { pageRequest, until } from "./testing/helpers";
import { context, testServer, type Added } from "./testing/testServer";

const { db, read, begin, beginVersion, allDone, edit, editItem, idle } = testServer();

const rate = 44100;
const beats = 14;
const plain = knownMix({ rate, beats });
const wavOf = ({ samples }: { samples: Float32Array }) => writeWav([samples, samples], rate, "int24");

async function sound(hash: string, part: string, chunk = 1) {
  const response = await audioRoute(
    pageRequest("GET", `/api/audio/${hash}/${chunk}?part=${part}`),
    context({ hash, chunk: String(chunk) }),
  );
  return { status: response.status, response };
}
const samplesOf = async (hash: string, part: string, chunk = 1) => {
  const { status, response } = await sound(hash, part, chunk);
  expect(status).toBe(200);
  return unpackFrames(new Uint8Array(await response.arrayBuffer()));
};

describe("a study whose tracks are taken apart", () => {
  let study: Added;
  let hash: string;
  /** Whether a track was taken apart while another was still analysed. */
  let heldUp = false;
  beforeAll(async () => {
    process.env.PLAIN_MIRROR_LENS = "always";
    study = await begin(wavOf(plain));
    await beginVersion(study.studyId, wavOf(knownMix({ rate, beats, gains: { kick: 0.5 } })));
    const done = await until(async () => {
      const running = await db().select({ kind: jobs.kind }).from(jobs).where(eq(jobs.state, "running"));
      const kinds = running.map(({ kind }) => kind);
      heldUp ||= kinds.includes("lift") && kinds.includes("analyse");
      const results = await read(study.studyId);
      return results.study.versions.every(({ id }) => results.lenses.get(id)?.current) && results;
    }, 240);
    hash = done.study.reference!.file.hash;
  }, 270_000);
  afterAll(() => {
    process.env.PLAIN_MIRROR_LENS = "asked";
  });

  it("waits with taking apart until all is analysed", () => {
    expect(heldUp).toBe(false);
  });

  it("breaks off taking apart for a file that waits for its score, and begins again after it", async () => {
    const stateOf = async (kind: JobKind, of: string) =>
      (
        await db()
          .select({ state: jobs.state })
          .from(jobs)
          .where(and(eq(jobs.kind, kind), eq(jobs.subject, of)))
      )[0]?.state;
    const other = await begin(wavOf(knownMix({ rate, beats: 4 })));
    const { hash: short } = (await read(other.studyId)).study.reference!.file;
    await allDone(other.studyId);
    const first = await begin(wavOf(knownMix({ rate, beats: 16, gains: { kick: 0.8 } })));
    const { hash: long } = (await read(first.studyId)).study.reference!.file;
    await until(async () => (await stateOf("lift", long)) === "running", 60);
    const again = () => againRoute(pageRequest("POST", "/x"), context({ itemId: other.itemId }));
    await again();
    await until(async () => (await stateOf("lift", long)) === "queued");
    expect(["queued", "running"]).toContain(await stateOf("analyse", short));
    // It does not give way for ever.
    await until(async () => (await stateOf("lift", long)) === "running", 60);
    expect(await stateOf("analyse", short)).toBe("done");
    await again();
    await until(async () => (await stateOf("analyse", short)) === "done");
    expect(["running", "done"]).toContain(await stateOf("lift", long));
    await until(async () => (await stateOf("lift", long)) === "done", 60);
  }, 120_000);

  it("measures its elements through the lens, and sees which was turned down", async () => {
    const results = await allDone(study.studyId);
    const { compared } = (await compareInStudy(db(), results, null, { bars: null, span: null }))!;
    const kick = compared.elements.find(({ element }) => element.name === "Kick")!.compared;
    expect(kick.through.kind).toBe("lens");
    const gap = kick.aspects.find(({ name }) => name === "level")!.measures[0]!.gap!;
    // Half as loud, and the whole with it by what the kick was of it.
    expect(gap).toBeLessThan(-3);
    expect(gap).toBeGreaterThan(-6.5);
    expect(results.scores[0]!.elements[compared.elements[0]!.element.id]).toBe(kick.score);
    // Over some bars alone it is measured anew.
    const some = await compareInStudy(db(), results, null, { bars: { first: 2, last: 3 }, span: null });
    const own = some!.compared.elements.find(({ element }) => element.name === "Kick")!.compared;
    expect(own.through.kind).toBe("lens");
    const toneOf = ({ aspects }: typeof own) => aspects.find(({ name }) => name === "tone")!.measures[0]!.gap;
    expect(toneOf(own)).not.toBe(toneOf(kick));
    expect(own.aspects[0]!.measures[0]!.gap!).toBeLessThan(-3);
  });

  it("hears an element in a range of the mix where the producer says so", async () => {
    const [first] = (await read(study.studyId)).study.elements;
    await edit(study.studyId, (d) => ({
      ...d,
      elements: { ...d.elements, [first!.id]: { ...d.elements[first!.id]!, lens: null } },
    }));
    const results = await read(study.studyId);
    expect(results.study.elements[0]!.lens).toBeNull();
    const { compared } = (await compareInStudy(db(), results, null, { bars: null, span: null }))!;
    expect(compared.elements[0]!.compared.through).toEqual({ kind: "range" });
  });

  it("gives the sound of a part, and of all but it; both are the mix", async () => {
    const [whole] = await samplesOf(hash, "whole");
    const [kick] = await samplesOf(hash, "kick");
    const [rest] = await samplesOf(hash, "snare,hats,percussion,bass,music");
    expect(kick).toHaveLength(whole.length);
    expect(rest.every((x, i) => Math.abs(x + kick[i]! - whole[i]!) < 1e-5)).toBe(true);
    const power = (samples: Float32Array) => samples.reduce((sum, x) => sum + x * x, 0);
    expect(power(kick)).toBeGreaterThan(0.05 * power(whole));
    // Several parts together are their sum, all of them muted are silence.
    const [bass] = await samplesOf(hash, "bass");
    const [low] = await samplesOf(hash, "kick,bass");
    expect(low.every((x, i) => Math.abs(x - kick[i]! - bass[i]!) < 1e-6)).toBe(true);
    const [silence] = await samplesOf(hash, "none");
    expect(silence).toHaveLength(whole.length);
    expect(silence.every((x) => x === 0)).toBe(true);
    // Past the end there is nothing, as of the whole.
    expect((await samplesOf(hash, "hats", 500))[0]).toHaveLength(0);
    for (const wrong of ["cowbell", "kick,cowbell", "kick,kick", "without-kick", "whole,kick"])
      expect((await sound(hash, wrong)).status).toBe(400);
  });

  it("is saved as WAV, alone and without, from the beginning or from bar 1 to the sample", async () => {
    const saved = async (query: string) => {
      const response = await lensRoute(
        pageRequest("GET", `/x?part=kick&${query}`),
        context({ itemId: study.itemId }),
      );
      expect(response.status).toBe(200);
      const bytes = new Uint8Array(await response.arrayBuffer());
      const decoded = await wavDecoder(bytes);
      return { name: response.headers.get("content-disposition")!, bytes, samples: decoded.channelData[0]! };
    };
    const [own, rest, aligned] = [await saved(""), await saved("rest=yes"), await saved("from=bar1")];
    expect(own.name).toMatch(/ kick\.wav/);
    expect(rest.name).toMatch(/ without kick\.wav/);
    const samples = Math.round(plain.samples.length);
    expect(own.samples).toHaveLength(samples);
    const off = plain.samples.reduce(
      (most, x, i) => Math.max(most, Math.abs(x - own.samples[i]! - rest.samples[i]!)),
      0,
    );
    expect(off).toBeLessThan(1e-5);
    const results = await read(study.studyId);
    const first = Math.round(barStart(results.ownGrids.get(study.itemId)!, 1) * rate);
    expect(aligned.samples).toHaveLength(samples - first);
    const shifted = aligned.samples.every((x, i) => x === (first + i < 0 ? 0 : own.samples[first + i]));
    expect(shifted).toBe(true);
    const wrong = await lensRoute(pageRequest("GET", "/x?part=gong"), context({ itemId: study.itemId }));
    expect(wrong.status).toBe(400);
  });

  it("lifts a part again whose sound was lost, and says so meanwhile", async () => {
    for (const part of lensParts) await rm(lensPath(hash, part));
    const file = await lensRoute(pageRequest("GET", "/x?part=kick"), context({ itemId: study.itemId }));
    expect(file.status).toBe(409);
    const { status, response } = await sound(hash, "snare");
    expect(status).toBe(404);
    expect(((await response.json()) as { refusal: { sentence: string } }).refusal.sentence).toMatch(
      /being lifted out/,
    );
    await until(async () => (await sound(hash, "snare")).status === 200, 60);
    await idle();
  });

  it("is not taken apart again for what does not change its sound", async () => {
    const before = await loadLift(db(), hash);
    await editItem(study.studyId, study.itemId, { grid: { bpm: 59 } });
    await until(async () => {
      const results = await read(study.studyId);
      return results.study.versions.every(({ id }) => results.lenses.get(id)?.current);
    });
    expect(await loadLift(db(), hash)).toBe(before);
    const rows = await db().select().from(jobs).where(eq(jobs.kind, "lift"));
    expect(rows.every(({ state }) => state === "done")).toBe(true);
  });

  it("does without what is stored and cannot be read", async () => {
    await db()
      .update(lifts)
      .set({ result: { free: {} }, createdAt: 1 })
      .where(eq(lifts.fileHash, hash));
    expect(await loadLift(db(), hash)).toBeNull();
  });
});

describe("the sound of parts on disk", () => {
  const names = async () => (await readdir(listeningFolder())).filter((name) => lensFileOf(name));
  const made = async (count: number) => {
    const hashes = Array.from({ length: count }, (_, i) => i.toString(16).padStart(64, "a"));
    for (const [i, own] of hashes.entries()) {
      await writeFile(lensPath(own, "kick"), "x");
      await utimes(lensPath(own, "kick"), 1000 + i, 1000 + i);
    }
    return hashes;
  };

  it("is kept of the files that were lifted last", async () => {
    const hashes = await made(16);
    const known = new Set((await names()).flatMap((name) => lensFileOf(name)!.hash)).size - 16;
    await thinLensFiles();
    const left = new Set((await names()).map((name) => lensFileOf(name)!.hash));
    expect(left.size).toBe(12);
    // Those of the study are newer; of the others the oldest went.
    expect(hashes.filter((own) => left.has(own))).toEqual(hashes.slice(16 - (12 - known)));
  });

  it("goes at the next start where no file is known to it", async () => {
    await made(3);
    await writeFile(path.join(listeningFolder(), `${"b".repeat(64)}.kick.pcm.part`), "half");
    await sweepAtStart(db());
    expect((await readdir(listeningFolder())).filter((name) => /^[ab]{60}/.test(name))).toEqual([]);
    await clearAway(db(), Date.now());
    await idle();
  });

  it("has names of its own", () => {
    const own = "0".repeat(64);
    expect(lensFileOf(`${own}.kick.pcm`)).toEqual({ hash: own, part: "kick" });
    for (const name of [`${own}.pcm`, `${own}.cowbell.pcm`, `${own}.kick.wav`, "x.kick.pcm", ""])
      expect(lensFileOf(name)).toBeNull();
  });
});
