/** Whole studies as zip files: out and in again, with every file, correction, number and change; read by another program. */
import { execFileSync } from "node:child_process";
import { createHash } from "node:crypto";
import { readdir, readFile, rm, writeFile } from "node:fs/promises";
import path from "node:path";
import { buffer } from "node:stream/consumers";
import { ZipFile } from "yazl";
import { GET as archiveRoute } from "@/app/api/studies/[studyId]/archive/route";
import { PUT as newStudyRoute } from "@/app/api/studies/route";
import { tracksOf, type StudyResults } from "@/core/study";
import { filesFolder, incomingFolder } from "./storage/paths";
import { studies } from "./storage/schema";
import { loadStudy } from "./study/record";
import { listEdits } from "./study/edit";
import { listRemovedStudies } from "./study/summary";
import { pageRequest, pieceWav } from "./testing/helpers";
import { context, testServer } from "./testing/testServer";

const server = testServer();

const saved = async (studyId: string) =>
  new Uint8Array(await (await archiveRoute(pageRequest("GET", "/x"), context({ studyId }))).arrayBuffer());
const open = (zip: Uint8Array<ArrayBuffer>, name = "study.zip") =>
  newStudyRoute(pageRequest("PUT", `/api/studies?name=${name}`, zip), context({}));

/** What a person sees and has set, without the names of rows. */
const content = ({ study, scores }: StudyResults) => ({
  title: study.title,
  weights: study.aspectWeights,
  target: study.target,
  intended: study.intended,
  elements: study.elements.map(({ id: _id, ...own }) => own),
  tracks: tracksOf(study).map((track) => ({
    number: track.number,
    note: track.note,
    starred: track.starred,
    fileName: track.fileName,
    addedAt: track.addedAt,
    hash: track.file.hash,
    corrections: track.corrections,
    stems: track.stems.map(({ fileName, file, offsetSeconds, elementId }) => ({
      fileName,
      hash: file.hash,
      offsetSeconds,
      element: study.elements.find(({ id }) => id === elementId)?.name,
    })),
  })),
  scores: scores.map(({ match, aspects, elements }) => ({
    match,
    aspects,
    elements: Object.values(elements),
  })),
});

describe("an archive", () => {
  let studyId: string;
  let zip: Uint8Array<ArrayBuffer>;
  const wav = pieceWav({ seconds: 6, seed: 1 });
  beforeAll(async () => {
    const begun = await server.begin(wav);
    studyId = begun.studyId;
    const version = await server.beginVersion(studyId, pieceWav({ seconds: 6, seed: 2, gainDb: -4 }));
    const gone = await server.beginVersion(studyId, pieceWav({ seconds: 6, seed: 3 }));
    const stem = (await (
      await server.addStem(studyId, begun.itemId, pieceWav({ seconds: 6, seed: 4 }), "kick / stem?.wav")
    ).json()) as { itemId: string };
    await server.editItem(studyId, version.itemId, { note: "drier", starred: true });
    await server.editItem(studyId, begun.itemId, { grid: { nudgeSeconds: 0.004 } });
    await server.edit(studyId, (document) => ({
      ...document,
      study: { ...document.study, title: "Slow / Lantern: one", target: 80, folder: "/tmp/renders" },
      items: {
        ...document.items,
        [stem.itemId]: {
          ...document.items[stem.itemId]!,
          offsetSeconds: 0.25,
          elementId: document.elementOrder[0]!,
        },
      },
    }));
    await server.editItem(studyId, gone.itemId, { removed: true });
    await server.allDone(studyId);
    zip = (await saved(studyId)) as Uint8Array<ArrayBuffer>;
  }, 90_000);

  it("gives back every file, correction, number and change", async () => {
    const before = await server.allDone(studyId);
    const response = await open(zip);
    expect(response.status).toBe(201);
    const { studyId: other } = (await response.json()) as { studyId: string };
    expect(other).not.toBe(studyId);
    const after = await server.allDone(other);
    expect(content(after)).toEqual(content(before));
    expect(after.study.folder).toBeNull();
    const labels = async (id: string) => (await listEdits(server.db(), id)).map(({ label }) => label);
    expect(await labels(other)).toEqual(await labels(studyId));
    // What was done before can still be undone: the version that was deleted comes back.
    expect((await server.undo(other)).status).toBe(200);
    expect((await server.read(other)).study.versions.map(({ number }) => number)).toEqual([1, 2]);
    expect((await server.read(studyId)).study.versions.map(({ number }) => number)).toEqual([1]);
    // The next version goes on counting.
    const next = (await (await server.addItem(other, pieceWav({ seconds: 6, seed: 9 }))).json()) as {
      number: number;
    };
    expect(next.number).toBe(3);
  }, 90_000);

  it("is read by another program, with the originals byte for byte", async () => {
    const file = path.join(process.env.PLAIN_MIRROR_DATA!, "out.zip");
    await writeFile(file, zip);
    const list = execFileSync("python3", [
      "-c",
      "import sys,zipfile,hashlib,json\nz=zipfile.ZipFile(sys.argv[1])\nassert z.testzip() is None\nprint(json.dumps({n:hashlib.sha256(z.read(n)).hexdigest() for n in z.namelist()}))",
      file,
    ]);
    const hashes = JSON.parse(list.toString()) as Record<string, string>;
    const own = createHash("sha256").update(wav).digest("hex");
    const original = Object.keys(hashes).find((name) => hashes[name] === own)!;
    expect(original).toMatch(/^audio\/[0-9a-f]{8} reference song\.wav$/);
    expect(Object.keys(hashes)).toEqual(
      expect.arrayContaining(["study.json", "report.md", "reference/measured.json", "reference/song.mid"]),
    );
    expect(Object.keys(hashes).every((name) => !/[\\:*?"<>|]|\.\./.test(name))).toBe(true);
  });

  it("is refused where it is damaged or something else, and nothing is left behind", async () => {
    const [studiesBefore, filesBefore] = [
      await server.db().select({ id: studies.id }).from(studies),
      await readdir(filesFolder()),
    ];
    const description = JSON.parse(
      execFileSync("python3", [
        "-c",
        "import sys,zipfile\nsys.stdout.write(zipfile.ZipFile(sys.argv[1]).read('study.json').decode())",
        path.join(process.env.PLAIN_MIRROR_DATA!, "out.zip"),
      ]).toString(),
    ) as { files: { hash: string; path: string }[] };
    const zipOf = async (
      change: (text: typeof description) => unknown,
      sound: Uint8Array = pieceWav({ seed: 77 }),
    ) => {
      const made = new ZipFile();
      const changed = change(structuredClone(description));
      made.addBuffer(
        Buffer.from(typeof changed === "string" ? changed : JSON.stringify(changed)),
        "study.json",
      );
      for (const { path: place } of description.files) made.addBuffer(Buffer.from(sound), place);
      made.end();
      return new Uint8Array(await buffer(made.outputStream)) as Uint8Array<ArrayBuffer>;
    };
    const sentenceOf = async (bytes: Uint8Array<ArrayBuffer>) => {
      const response = await open(bytes);
      expect(response.status).toBeGreaterThanOrEqual(400);
      expect(response.status).toBeLessThan(500);
      return ((await response.json()) as { refusal: { sentence: string } }).refusal.sentence;
    };
    expect(await sentenceOf(pieceWav({ seed: 70 }))).toMatch(/no zip file/);
    expect(await sentenceOf(zip.slice(0, zip.length / 2))).toMatch(/no zip file, or a damaged one/);
    expect(await sentenceOf(await zipOf(() => "{"))).toMatch(/cannot be read/);
    expect(await sentenceOf(await zipOf((own) => ({ ...own, version: 99 })))).toMatch(/newer Plain Mirror/);
    expect(await sentenceOf(await zipOf((own) => ({ ...own, files: [] })))).toMatch(/is not in it/);
    // Another sound under the name of the original.
    expect(await sentenceOf(await zipOf((own) => own))).toMatch(/is not the file that it was/);
    // A correction that no track can have.
    const beyond = await zipOf((own) =>
      JSON.parse(JSON.stringify(own).replace('"nudgeSeconds":0.004', '"nudgeSeconds":4000')),
    );
    expect(await sentenceOf(beyond)).toMatch(/is not as it should be/);
    expect(await server.db().select({ id: studies.id }).from(studies)).toEqual(studiesBefore);
    expect(await readdir(filesFolder())).toEqual(filesBefore);
    expect(await readdir(incomingFolder())).toEqual([]);
    expect(await listRemovedStudies(server.db())).toEqual([]);
  }, 60_000);

  it("goes without what was deleted and has lost its original", async () => {
    const { removed } = (await loadStudy(server.db(), studyId))!;
    const place = path.join(filesFolder(), removed[0]!.file.hash);
    const kept = await readFile(place);
    await rm(place);
    const response = await open((await saved(studyId)) as Uint8Array<ArrayBuffer>);
    await writeFile(place, kept);
    expect(response.status).toBe(201);
    const { studyId: other } = (await response.json()) as { studyId: string };
    const opened = (await loadStudy(server.db(), other))!;
    expect(opened.study.versions.map(({ number }) => number)).toEqual([1]);
    expect(opened.removed).toEqual([]);
  }, 60_000);

  it("says which original is missing", async () => {
    const { study } = await server.read(studyId);
    const place = path.join(filesFolder(), study.versions[0]!.file.hash);
    const kept = await readFile(place);
    await writeFile(`${place}-away`, kept);
    await rm(place);
    const response = await archiveRoute(pageRequest("GET", "/x"), context({ studyId }));
    expect(response.status).toBe(404);
    expect(await response.text()).toContain("An original is missing");
    await writeFile(place, kept);
    await rm(`${place}-away`);
  });
});
