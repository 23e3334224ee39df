/** Watched folders against real files that are written, replaced, cut short, linked and taken away. */
import {
  appendFile,
  mkdir,
  mkdtemp,
  realpath,
  rename,
  rm,
  symlink,
  truncate,
  writeFile,
} from "node:fs/promises";
import { tmpdir } from "node:os";
import path from "node:path";
import { writeWav } from "@/core/formats/wav";
import { pieceWav, until } from "../testing/helpers";
import { testServer } from "../testing/testServer";
import { createStudy } from "../study/uploads";
import { findFolder } from "./folders";
import { folderState, startWatching, stopWatching } from "./watcher";

const server = testServer();
/** A short piece of its own bytes. */
const render = (seed: number) => pieceWav({ seconds: 2, seed });
const quick = { lookMs: 40, settledMs: 200 };
let root: string;
let renders: string;

beforeAll(async () => {
  root = await realpath(await mkdtemp(path.join(tmpdir(), "renders-")));
  process.env.PLAIN_MIRROR_FOLDERS = root;
  renders = path.join(root, "renders");
  await mkdir(renders);
  await stopWatching();
  startWatching(quick);
});
afterAll(async () => {
  delete process.env.PLAIN_MIRROR_FOLDERS;
  await rm(root, { recursive: true, force: true });
});

const later = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));
const inFolder = (name: string) => path.join(renders, name);
const watch = (studyId: string, folder: string | null) =>
  server.edit(studyId, (document) => ({ ...document, study: { ...document.study, folder } }));
/** Begins a study that watches the folder of renders, and waits until it has been looked into. */
async function watching(seed: number): Promise<string> {
  const { studyId } = await server.begin({ seconds: 2, seed });
  expect((await watch(studyId, renders)).status).toBe(200);
  await until(() => Promise.resolve(folderState(studyId)));
  await later(3 * quick.lookMs);
  return studyId;
}
const versions = async (studyId: string) => (await server.read(studyId)).study.versions;
const isArrived = (studyId: string, count: number) =>
  until(async () => {
    const now = await versions(studyId);
    return now.length >= count && now;
  });

describe("folders that may be watched", () => {
  const codeOf = async (folder: string) => {
    const found = await findFolder(folder);
    return found.ok ? "ok" : found.refusal.code;
  };

  it("lie below the named ones, also by their links, and hold none of the data", async () => {
    expect(await findFolder(renders)).toEqual({ ok: true, value: renders });
    expect(await codeOf("renders")).toBe("bad-request");
    expect(await codeOf("/")).toBe("not-allowed");
    expect(await codeOf(path.join(root, "..", "elsewhere"))).toBe("not-allowed");
    expect(await codeOf(`${root}-other`)).toBe("not-allowed");
    expect(await codeOf(path.join(root, "none"))).toBe("not-found");
    await symlink("/", path.join(root, "out"));
    expect(await codeOf(path.join(root, "out"))).toBe("not-allowed");
    expect(await codeOf(path.join(root, "out", "usr"))).toBe("not-allowed");
    await symlink(process.env.PLAIN_MIRROR_DATA!, path.join(root, "data"));
    expect(await codeOf(path.join(root, "data"))).toBe("not-allowed");
    process.env.PLAIN_MIRROR_FOLDERS = `${root}${path.delimiter}${process.env.PLAIN_MIRROR_DATA!}`;
    expect(await codeOf(process.env.PLAIN_MIRROR_DATA!)).toBe("not-allowed");
    process.env.PLAIN_MIRROR_FOLDERS = root;
  });
});

describe("a watched folder", () => {
  it("leaves what is there alone, and takes what is new or replaced, in the order in which it was written", async () => {
    await writeFile(inFolder("old.wav"), render(100));
    const studyId = await watching(1);
    await writeFile(inFolder("notes.txt"), "not sound");
    await mkdir(inFolder("inside"), { recursive: true });
    await writeFile(path.join(renders, "inside", "deep.wav"), render(101));
    await symlink(inFolder("old.wav"), inFolder("link.wav"));
    await writeFile(inFolder("b.wav"), render(102));
    await later(20);
    await writeFile(inFolder("a.wav"), render(103));
    const first = await isArrived(studyId, 2);
    expect(first.map(({ number, fileName }) => [number, fileName])).toEqual([
      [1, "b.wav"],
      [2, "a.wav"],
    ]);
    await writeFile(inFolder("b.wav"), render(104));
    const second = await isArrived(studyId, 3);
    expect(second[2]!.fileName).toBe("b.wav");
    expect(second[2]!.file.hash).not.toBe(first[0]!.file.hash);
    await until(() => Promise.resolve(folderState(studyId)!.waiting.length === 0));
    expect(folderState(studyId)).toMatchObject({
      refusal: null,
      waiting: [],
      arrived: second.map(({ id }) => id),
    });
    // What was deleted does not come back by itself.
    await server.edit(studyId, (document) => ({
      ...document,
      items: { ...document.items, [second[2]!.id]: { ...document.items[second[2]!.id]!, removed: true } },
    }));
    await later(2 * quick.settledMs);
    expect(await versions(studyId)).toHaveLength(2);
  });

  it("never takes half a file", async () => {
    const studyId = await watching(2);
    const whole = Buffer.from(pieceWav({ seconds: 2, seed: 110 }));
    // Grows in steps, as a render does.
    await writeFile(inFolder("growing.wav"), whole.subarray(0, 25_000));
    for (let at = 25_000; at < whole.length; at += 25_000) {
      await later(quick.settledMs / 2);
      expect(await versions(studyId)).toHaveLength(0);
      await appendFile(inFolder("growing.wav"), whole.subarray(at, at + 25_000));
    }
    const [version] = await isArrived(studyId, 1);
    expect(version!.file.bytes).toBe(whole.length);
    expect(version!.file.warnings).toEqual([]);
    // Stands still although its end is missing, or its header is still to be written.
    await writeFile(inFolder("stuck.wav"), Buffer.from(render(111)));
    await truncate(inFolder("stuck.wav"), 120_000);
    const open = Buffer.from(render(112));
    open.writeUInt32LE(0, open.indexOf("data") + 4);
    await writeFile(inFolder("open.wav"), open);
    const waiting = await until(() => {
      const state = folderState(studyId)!;
      return Promise.resolve(state.waiting.filter(({ refusal }) => refusal).length === 2 && state.waiting);
    });
    expect(waiting.map(({ refusal }) => refusal!.code)).toEqual(["unfinished", "unfinished"]);
    expect(await versions(studyId)).toHaveLength(1);
    await writeFile(inFolder("stuck.wav"), Buffer.from(render(111)));
    expect((await isArrived(studyId, 2))[1]!.fileName).toBe("stuck.wav");
  });

  it("says what is wrong with a file or the folder, and goes on once it is right", async () => {
    const studyId = await watching(3);
    await writeFile(inFolder("letter.wav"), "Dear Sir, this is no sound at all, I am afraid.");
    const [waiting] = await until(() => {
      const own = folderState(studyId)!.waiting.filter(({ refusal }) => refusal);
      return Promise.resolve(own.length > 0 && own);
    });
    expect(waiting).toMatchObject({ name: "letter.wav", refusal: { code: "not-audio" } });
    await rename(renders, `${renders}-moved`);
    await until(() => Promise.resolve(folderState(studyId)!.refusal?.code === "not-found"));
    await rename(`${renders}-moved`, renders);
    await until(() => Promise.resolve(folderState(studyId)!.refusal === null));
    await writeFile(inFolder("after.wav"), render(120));
    expect((await isArrived(studyId, 1))[0]!.fileName).toBe("after.wav");
  });

  it("goes on after a restart with what came meanwhile, and begins anew where it was let go", async () => {
    const studyId = await watching(4);
    await stopWatching();
    await writeFile(inFolder("meanwhile.wav"), render(130));
    startWatching(quick);
    expect((await isArrived(studyId, 1))[0]!.fileName).toBe("meanwhile.wav");
    await watch(studyId, null);
    await until(() => Promise.resolve(folderState(studyId) === null));
    await writeFile(inFolder("unseen.wav"), render(131));
    await watch(studyId, renders);
    await until(() => Promise.resolve(folderState(studyId)));
    await later(2 * quick.settledMs);
    expect(await versions(studyId)).toHaveLength(1);
  });

  it("brings the reference where there is none yet", async () => {
    const studyId = await createStudy(server.db(), "Empty");
    await watch(studyId, renders);
    await until(() => Promise.resolve(folderState(studyId)));
    await later(3 * quick.lookMs);
    const silent = new Float32Array(44100 * 3).map((_, i) => 0.2 * Math.sin(i / 20));
    await writeFile(inFolder("first.wav"), writeWav([silent, silent], 44100, "int16"));
    const { study } = await until(async () => {
      const now = await server.read(studyId);
      return now.study.reference && now;
    });
    expect(study.reference!.fileName).toBe("first.wav");
  });
});
